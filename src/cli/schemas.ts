/** `schema`: the JSON Schema of the document. */
import { layoutSchema } from '@/core/layout/schema';
import { EXIT, type Exit } from './exit';
import { type Io, writeNew } from './io';
import { jsonText } from './text';

/** `schema`: the JSON Schema of the document. */
export async function schema(io: Io, options: { into?: string }): Promise<Exit> {
  await writeNew(io, jsonText(layoutSchema(), 2), options.into);
  return EXIT.done;
}
