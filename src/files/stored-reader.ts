/** Reading parts of stored files, for changes that copy some: the file that was read last stays open. */
import type { FileHandle } from 'node:fs/promises';
import type { ReadStored } from '@/core/compose/source';
import { fileSource } from './file-source';
import { StoredGone } from './stored';
import { openPlain } from './plain-file';

/** Reads stored content from where `fileOf` says that it lies; whoever made it closes it. */
export class StoredReader {
  private last: { readonly file: string; readonly handle: FileHandle; readonly size: number } | undefined;

  constructor(private readonly fileOf: (sha256: string) => string) {}

  readonly read: ReadStored = async ({ from, at, length }) => {
    const { handle, size } = await this.opened(this.fileOf(from));
    if (at + length > size) throw new StoredGone(`A stored file ends at byte ${size}; ${at + length} were stored.`);
    return fileSource(handle, size).read(at, length);
  };

  private async opened(file: string) {
    if (this.last?.file === file) return this.last;
    await this.close();
    const handle = await openPlain(file, 'followed').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') throw new StoredGone('A file that the layout names is not stored here any more.');
      throw error;
    });
    this.last = { file, handle, size: (await handle.stat()).size };
    return this.last;
  }

  async close(): Promise<void> {
    await this.last?.handle.close();
    this.last = undefined;
  }
}
