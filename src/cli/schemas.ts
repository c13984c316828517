/** `schema`: the JSON Schemas. */
import { layoutSchema } from '@/core/layout/schema';
import { answersSchema } from './answers-schema';
import { EXIT, type Exit } from './exit';
import { type Io, writeNew } from './io';
import { jsonText } from './text';

/** `schema`: that of the document, or of the answers. */
export async function schema(io: Io, options: { into?: string; answers?: boolean }): Promise<Exit> {
  await writeNew(io, jsonText(options.answers ? answersSchema() : layoutSchema(), 2), options.into);
  return EXIT.done;
}
