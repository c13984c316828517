/** Trees of Linux systems, of any names, kinds, owners and attributes. */
import fc from 'fast-check';
import { isTextOfBytes, textOfBytes } from '@/core/bytes/utf8';
import type { Tree, TreeEntry } from '@/core/filesystems/tree';
import type { Shelf } from '../filled';

const anyName = fc.oneof(
  fc.string({ minLength: 1, maxLength: 20 }),
  fc.uint8Array({ minLength: 1, maxLength: 255 }).map(textOfBytes),
);
const anyPart = anyName.filter(
  (name) => isTextOfBytes(name) && !/[/\0]/.test(name) && !['.', '..', 'lost+found'].includes(name),
);
const anyValue = fc.uint8Array({ maxLength: 90 }).map((bytes) => Buffer.from(bytes).toString('base64'));
const anyOwned = fc.record(
  {
    mode: fc.integer({ min: 0, max: 0o7777 }),
    user: fc.integer({ min: 1, max: 2 ** 32 - 2 }),
    group: fc.integer({ min: 1, max: 2 ** 32 - 2 }),
    time: fc
      .date({ min: new Date('1902-01-01'), max: new Date('2400-01-01'), noInvalidDate: true })
      .map((date) => date.toISOString().slice(0, 19)),
    extended: fc.dictionary(fc.stringMatching(/^user\.[a-z]{1,12}$/), anyValue, {
      maxKeys: 3,
    }),
  },
  { requiredKeys: [] },
);
const anyLeaf = fc.oneof(
  fc.integer({ min: 0, max: 30_000 }).map((size) => ({ kind: 'file' as const, size })),
  fc
    .string({ minLength: 1, maxLength: 100 })
    .filter((target) => isTextOfBytes(target) && !target.includes('\0'))
    .map((target) => ({ kind: 'link' as const, target })),
  fc.record({
    kind: fc.constant('device' as const),
    device: fc.constantFrom('block' as const, 'character' as const),
    major: fc.integer({ min: 1, max: 4095 }),
    minor: fc.integer({ min: 0, max: 2 ** 20 - 1 }),
  }),
  fc.constantFrom({ kind: 'pipe' as const }, { kind: 'socket' as const }, { kind: 'folder' as const }),
);
/** Trees of any names, kinds and owners; what is in their files goes onto the shelf. */
export const anySystemTree = (shelf: Shelf): fc.Arbitrary<Tree> =>
  fc
    .array(fc.tuple(fc.array(anyPart, { minLength: 1, maxLength: 3 }), anyLeaf, anyOwned), { maxLength: 25 })
    .map((list) => {
      const kinds = new Map<string, string>();
      const tree: TreeEntry[] = [];
      for (const [parts, leaf, owned] of list) {
        const path = parts.join('/');
        const above = parts.slice(0, -1).map((_, i) => parts.slice(0, i + 1).join('/'));
        if (kinds.has(path) || above.some((one) => (kinds.get(one) ?? 'folder') !== 'folder')) continue;
        for (const one of above) if (!kinds.has(one)) kinds.set(one, 'folder');
        kinds.set(path, leaf.kind);
        const { mode, ...others } = owned;
        const own = leaf.kind === 'link' || mode === undefined ? others : owned;
        tree.push(
          (leaf.kind === 'file' ? { ...shelf.file(path, leaf.size), ...own } : { ...leaf, path, ...own }) as TreeEntry,
        );
      }
      return tree;
    });
