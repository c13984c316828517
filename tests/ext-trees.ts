/** Made-up trees of Linux systems for the machine tests. */
import { createHash } from 'node:crypto';
import type { Shelf } from './filled';
import { textOfBytes } from '@/core/bytes/utf8';
import type { Tree, TreeEntry, TreeFile } from '@/core/filesystems/tree';

const base64 = (bytes: Uint8Array | string) => Buffer.from(bytes).toString('base64');

/** An access list in the kernel's form. */
function accessList(entries: readonly (readonly [tag: number, rights: number, id?: number])[]): Uint8Array {
  const out = Buffer.alloc(4 + 8 * entries.length);
  out.writeUInt32LE(2, 0);
  entries.forEach(([tag, rights, id = 0xffffffff], i) => {
    out.writeUInt16LE(tag, 4 + 8 * i);
    out.writeUInt16LE(rights, 6 + 8 * i);
    out.writeUInt32LE(id, 8 + 8 * i);
  });
  return out;
}

/** A file with holes: of every piece only its bytes are stored. */
export function sparse(
  shelf: Shelf,
  path: string,
  size: number,
  pieces: readonly (readonly [at: number, length: number])[],
): TreeFile {
  const stored = shelf.file(
    path,
    pieces.reduce((sum, [, length]) => sum + length, 0),
  );
  let from = 0;
  const placed = pieces.map(([at, length]) => {
    const piece = [at, from, length] as const;
    from += length;
    return piece;
  });
  return { ...stored, size, pieces: placed };
}

/** One of everything that a Linux system has. */
export function systemTree(shelf: Shelf): Tree {
  const at = (time: string) => ({ time });
  const folder = (path: string, more: Partial<TreeEntry> = {}) => ({ kind: 'folder', path, ...more }) as TreeEntry;
  const file = (path: string, size: number, more: Partial<TreeFile> = {}) => ({ ...shelf.file(path, size), ...more });
  return [
    folder('etc', at('2026-01-02T03:04:05.123456789')),
    file('etc/passwd', 300, { mode: 0o644, ...at('2025-12-31T23:59:59.999999999') }),
    file('etc/shadow', 200, { mode: 0o640, group: 42, time: '1969-12-31T23:59:00' }),
    folder('home/marram', { user: 1000, group: 1000, mode: 0o2750 }),
    file('home/marram/notes with blanks and ümläuts.txt', 5000, { user: 1000, group: 1000, mode: 0o600 }),
    file(textOfBytes(Buffer.from('home/marram/not utf-8 \xff\xfe\xc3', 'latin1')), 12, {
      user: 70_000,
      group: 4_000_000_000,
    }),
    folder('tmp', { mode: 0o1777 }),
    folder('bin'),
    file('bin/su', 70_000, { mode: 0o4755 }),
    file('bin/tide', 1_300_000, { mode: 0o755, time: '2100-05-06T07:08:09.5' }),
    { kind: 'second name', path: 'bin/tide-log', of: 'bin/tide' },
    { kind: 'second name', path: 'home/marram/tide', of: 'bin/tide' },
    { kind: 'link', path: 'bin/sh', target: 'tide' },
    { kind: 'link', path: 'short', target: 'x'.repeat(59), user: 5 },
    { kind: 'link', path: 'long', target: `${'deep/'.repeat(20)}end` },
    { kind: 'link', path: 'turn/and/turn', target: '../../turn' },
    folder('dev', { mode: 0o755 }),
    { kind: 'device', path: 'dev/null', device: 'character', major: 1, minor: 3, mode: 0o666 },
    { kind: 'device', path: 'dev/mmcblk0p2', device: 'block', major: 179, minor: 2, mode: 0o660, group: 6 },
    { kind: 'device', path: 'dev/large', device: 'block', major: 259, minor: 70_000 },
    { kind: 'pipe', path: 'run/pipe', mode: 0o600 },
    { kind: 'second name', path: 'run/pipe2', of: 'run/pipe' },
    { kind: 'socket', path: 'run/socket', mode: 0o777 },
    file('srv/list', 10, {
      mode: 0o674,
      extended: {
        'system.posix_acl_access': base64(
          accessList([
            [1, 6],
            [2, 7, 1000],
            [2, 4, 70_000],
            [4, 5],
            [8, 6, 100],
            [16, 7],
            [32, 4],
          ]),
        ),
      },
    }),
    folder('srv/inherits', {
      mode: 0o755,
      extended: {
        'system.posix_acl_default': base64(
          accessList([
            [1, 7],
            [4, 5],
            [8, 7, 33],
            [16, 7],
            [32, 5],
          ]),
        ),
      },
    }),
    file('srv/marked', 0, {
      extended: {
        'user.note': base64('from the coast'),
        'user.empty': '',
        'trusted.seal': base64('wax'),
        'security.capability': base64(Buffer.from('0000000200200000000000000000000000000000', 'hex')),
      },
    }),
    file('srv/much', 3, {
      extended: {
        'user.large': base64(createHash('sha512').update('x').digest().toString('hex').repeat(4)),
        'user.small': base64('1'),
      },
    }),
    { kind: 'link', path: 'srv/tagged', target: 'list', extended: { 'trusted.on-link': base64('yes') } },
    sparse(shelf, 'var/lastlog', 30_000_000, [
      [0, 1000],
      [40_960, 8192],
      [29_999_000, 1000],
    ]),
    sparse(shelf, 'var/only-hole', 5_000_000, []),
    sparse(shelf, 'var/odd', 100_000, [
      [5000, 10],
      [5010, 3000],
      [70_001, 20_000],
    ]),
    file('var/empty', 0),
    folder('lost+found', { mode: 0o711, user: 3 }),
    file('lost+found/#12', 40),
  ];
}

/** A folder with so many names. */
export function wideTree(shelf: Shelf, names: number): Tree {
  const one = shelf.file('wide/a reading', 20);
  return Array.from({ length: names }, (_, i): TreeEntry => ({ ...one, path: `wide/reading ${i} of the coast` }));
}
