/**
 * One server a data folder. The lock is SQLite's own on a small file in the folder: the kernel
 * holds it for the open file, whatever path leads there, from whatever container, and drops it
 * with the process, however that ends.
 */
import path from 'node:path';
import { createClient } from '@libsql/client';
import type { DataFolder } from '../files/data-folder';
import { urlOf } from './database';

/**
 * Takes the folder for this process until the returned function is called or the process ends.
 * Throws an Error with a sentence for people if another process has it.
 */
export async function lockDataFolder({ root }: DataFolder): Promise<() => void> {
  const client = createClient({ url: urlOf(path.join(/* turbopackIgnore: true */ root, 'in-use.db')) });
  try {
    const held = await client.transaction('write');
    return () => {
      held.close();
      client.close();
    };
  } catch (error) {
    client.close();
    // No error of the system, but one of whoever starts a second server: it stands for itself.
    throw isHeld(error) ? inUse(root) : error;
  }
}

const isHeld = (error: unknown) => /^SQLITE_(BUSY|LOCKED)/.test(String((error as { code?: string }).code));

function inUse(root: string): Error {
  return new Error(
    `The data folder ${root} is in use by another server. Stop that one, or name another folder in LOESS_DATA.`,
  );
}
