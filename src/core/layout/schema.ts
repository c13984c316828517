/** The published JSON Schema of the layout document, made from its one description. */
import * as z from 'zod';
import { NOT_SUMMED } from '../filesystems/fields';
import { layoutShape } from './document';
import { LAYOUT_VERSION } from './vocabulary';

/**
 * JSON Schema (2020-12). Size texts carry the formats `loess-size` and `loess-exact-size`,
 * which a validator may check with the grammar of the size language; ids that occur twice
 * and other rules across fields cannot be said in JSON Schema.
 */
export function layoutSchema(): object {
  const schema = z.toJSONSchema(layoutShape, {
    target: 'draft-2020-12',
    io: 'input',
    // What is filled in where nothing was said is no default for people to know.
    override: ({ jsonSchema }) => {
      if (jsonSchema.default === NOT_SUMMED || jsonSchema.default === 0) delete jsonSchema.default;
    },
  });
  return {
    title: 'Loess layout',
    description: `A partition layout, version ${LAYOUT_VERSION}. See docs/document.md.`,
    ...schema,
  };
}
