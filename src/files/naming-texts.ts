/** Texts of the files of trees in which ids stand: read where they lie. */
import { open } from 'node:fs/promises';
import { copiedOf, type Tree } from '@/core/filesystems/tree';
import { namingFiles, textOfBytes } from '@/core/naming/naming-files';
import { ifThere } from './system-errors';

/** The texts, by the sums of the files; `fileOf` says where content lies. What is gone or cut is left out. */
export async function namingTexts(tree: Tree, fileOf: (sha256: string) => string): Promise<Map<string, string>> {
  const texts = new Map<string, string>();
  for (const { file, unread } of namingFiles(tree)) {
    if (unread !== undefined || texts.has(file.sha256)) continue;
    const { from, at, length } = copiedOf(file);
    if (length === 0) {
      texts.set(file.sha256, '');
      continue;
    }
    const handle = await ifThere(open(/* turbopackIgnore: true */ fileOf(from), 'r'));
    if (!handle) continue;
    try {
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, at);
      if (bytesRead === length) texts.set(file.sha256, textOfBytes(buffer));
    } finally {
      await handle.close();
    }
  }
  return texts;
}
