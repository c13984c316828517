/**
 * Access lists as archives have them, in words (`user::rw-,user:1000:r--,…`, POSIX.1e, "ACL Text Form"),
 * and in the form in which the kernel hands them on as an extended attribute.
 */
import { OWNER_LIMIT } from '@/core/filesystems/tree';

/** Tags of entries: of the owner, a named user, the owning group, a named group; the mask; all others. */
const TAGS = new Map<string, readonly [plain: number, named: number]>([
  ['user', [0x01, 0x02]],
  ['group', [0x04, 0x08]],
  ['mask', [0x10, 0x10]],
  ['other', [0x20, 0x20]],
]);
/** They may be said by their first letter. */
for (const [name, tags] of [...TAGS]) TAGS.set(name[0]!, tags);
const NOBODY = 0xffffffff;
const FORM = 2;
const RIGHTS = /^([r-])([w-])([xX-])$/;

interface Entry {
  readonly tag: number;
  readonly rights: number;
  readonly id: number;
}

function entryOf(text: string): Entry | undefined {
  // A number may stand behind the rights, where the name is one of letters.
  const [what, name = '', rights = '', number] = text.split(':');
  const tags = TAGS.get(what ?? '');
  const found = RIGHTS.exec(rights);
  if (!tags || !found) return undefined;
  const bits = (found[1] === 'r' ? 4 : 0) + (found[2] === 'w' ? 2 : 0) + (found[3] === '-' ? 0 : 1);
  if (name === '') return { tag: tags[0], rights: bits, id: NOBODY };
  const id = [name, number].find((one) => one !== undefined && /^\d{1,10}$/.test(one));
  const isKnown = id !== undefined && Number(id) <= OWNER_LIMIT && tags[0] !== tags[1];
  return isKnown ? { tag: tags[1], rights: bits, id: Number(id) } : undefined;
}

/** The kernel's form of an access list in words; undefined for one that cannot be read, or that names somebody without a number. */
export function accessListOf(text: string): Uint8Array | undefined {
  const lines = text
    .split(/[,\n]/)
    .map((line) => line.split('#', 1)[0]!.trim())
    .filter((line) => line !== '');
  const entries = lines.map(entryOf);
  if (entries.length === 0 || entries.some((one) => one === undefined)) return undefined;
  const sorted = (entries as Entry[]).sort((a, b) => a.tag - b.tag || a.id - b.id);
  const out = new Uint8Array(4 + 8 * sorted.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, FORM, true);
  sorted.forEach(({ tag, rights, id }, i) => {
    view.setUint16(4 + 8 * i, tag, true);
    view.setUint16(6 + 8 * i, rights, true);
    view.setUint32(8 + 8 * i, id, true);
  });
  return out;
}
