/** An initial RAM disk: a cpio archive in the "newc" form that the Linux kernel unpacks (initramfs buffer format). */

export interface ArchiveFile {
  readonly name: string;
  readonly mode: number;
  readonly data: Uint8Array;
}

const DIRECTORY = 0o040755;

function padded(bytes: Buffer): Buffer {
  return Buffer.concat([bytes, Buffer.alloc((4 - (bytes.length % 4)) % 4)]);
}

function entry(name: string, mode: number, data: Uint8Array, inode: number): Buffer {
  const numbers = [inode, mode, 0, 0, 1, 0, data.length, 0, 0, 0, 0, name.length + 1, 0];
  const header = `070701${numbers.map((n) => n.toString(16).padStart(8, '0')).join('')}${name}\0`;
  return Buffer.concat([padded(Buffer.from(header, 'latin1')), padded(Buffer.from(data))]);
}

/** The archive of these files, with every folder that they need. */
export function archive(files: readonly ArchiveFile[]): Buffer {
  const folders = new Set<string>();
  for (const { name } of files) {
    const parts = name.split('/').slice(0, -1);
    parts.forEach((_, i) => folders.add(parts.slice(0, i + 1).join('/')));
  }
  const entries = [...folders].sort().map((name, i) => entry(name, DIRECTORY, new Uint8Array(0), i + 1));
  files.forEach(({ name, mode, data }, i) => entries.push(entry(name, 0o100000 | mode, data, 1000 + i)));
  return Buffer.concat([...entries, entry('TRAILER!!!', 0, new Uint8Array(0), 0)]);
}
