/** Extended headers of pax archives: `LENGTH KEY=VALUE\n`, whose values may be any bytes. */
import { textOfBytes } from '@/core/bytes/utf8';

/** One value, as text and as it stands there; a key that comes several times keeps all of them. */
export interface PaxValue {
  readonly text: string;
  readonly bytes: Uint8Array;
  readonly all: readonly string[];
}

export type PaxRecords = ReadonlyMap<string, PaxValue>;

/** The pairs that say where the pieces of a file with holes lie stand in their order, whatever stands between. */
export const PIECE_KEYS = ['GNU.sparse.offset', 'GNU.sparse.numbytes'] as const;

/** The records of an extended header; what follows a record that cannot be read is left out. */
export function paxRecords(bytes: Uint8Array): PaxRecords {
  const records = new Map<string, { text: string; bytes: Uint8Array; all: string[] }>();
  for (let at = 0; at < bytes.length;) {
    const blank = bytes.indexOf(0x20, at);
    const length = blank < 0 ? Number.NaN : Number(textOfBytes(bytes.subarray(at, blank)));
    if (!Number.isSafeInteger(length) || length <= blank - at || at + length > bytes.length) break;
    const equals = bytes.indexOf(0x3d, blank + 1);
    if (equals < 0 || equals >= at + length) break;
    const key = textOfBytes(bytes.subarray(blank + 1, equals));
    const value = bytes.slice(equals + 1, at + length - 1);
    const text = textOfBytes(value);
    const before = records.get(key);
    if (before) {
      before.all.push(text);
      records.set(key, { text, bytes: value, all: before.all });
    } else records.set(key, { text, bytes: value, all: [text] });
    at += length;
  }
  return records;
}
