/** What a planned range changes, field by field as the ledger reads them. */
import { ledgerOf } from '../survey/ledger';
import { type Structure, structureAt } from '../survey/structures';
import { alike, HEAD_BYTES, type PlannedRange } from './plan';

/** A field that will say something else. */
export interface FieldChange {
  readonly sector: number;
  readonly field: string;
  readonly before: string;
  readonly after: string;
}

/** So many fields of a range are told. */
const TOLD = 24;

/**
 * The fields of a range that change, the first of them; `structures` say what stands in which sector, those that hold
 * afterwards first. Of ranges that bring no bytes of their own, and of what lies far behind, none are told.
 */
export function fieldChanges(
  { extent, head: before }: PlannedRange,
  sectorSize: number,
  structures: readonly (readonly Structure[])[],
): FieldChange[] {
  if (!('bytes' in extent)) return [];
  const { offset: at, bytes } = extent;
  const after = bytes.subarray(0, HEAD_BYTES);
  const changes: FieldChange[] = [];
  const first = Math.floor(at / sectorSize);
  for (let done = 0; done < after.length && changes.length < TOLD; done += sectorSize) {
    const sector = first + done / sectorSize;
    const [was, is] = [before.subarray(done, done + sectorSize), after.subarray(done, done + sectorSize)];
    // A range of the table is whole sectors; of any other no fields are known.
    if (was.length < sectorSize || alike(was, is)) continue;
    const structure = structures.map((some) => structureAt(some, sector)).find((one) => one !== undefined);
    const fieldsOf = (bytes: Uint8Array) =>
      ledgerOf(bytes, sector, structure).groups.flatMap(({ title, fields }) =>
        fields.map(({ name, text }) => ({ name: `${title}: ${name}`, text })),
      );
    const [old, made] = [fieldsOf(was), fieldsOf(is)];
    const texts = new Map(old.map(({ name, text }) => [name, text]));
    for (const { name, text } of made) {
      const earlier = texts.get(name) ?? '-';
      if (earlier !== text) changes.push({ sector, field: name, before: earlier, after: text });
    }
  }
  return changes.slice(0, TOLD);
}
