/** What tests of the data folder do to it: contents of their own, other times, bytes that change. */
import { closeSync, openSync, readFileSync, readSync, writeFileSync, writeSync } from 'node:fs';
import type { Layout } from '@/core/layout/document';
import { fatPart, layoutOn } from '@tests/samples';
import type { Context } from '@/server/context';
import { addFile } from '@/server/store';
import { inPieces } from './archives';

/** Hours in milliseconds. */
export const HOUR = 3600 * 1000;

/** The same context at another time: so many hours later. */
export function later(context: Context, hours: number): Context {
  return { ...context, now: () => new Date(Date.now() + hours * HOUR).toISOString() };
}

/** Stores one file in a tree of its own; returns the name of the tree. */
export async function storedTreeOf(context: Context, text: string): Promise<string> {
  const target = { into: undefined, under: '' };
  const { sha256 } = await addFile(context, target, { name: 'A.TXT', time: undefined }, inPieces(Buffer.from(text)));
  return sha256!;
}

/** A layout with one FAT slot that holds a tree. */
export function layoutWith(files: string, name = 'Kept'): Layout {
  return { ...layoutOn('64 MiB', [fatPart('a', 'rest', { files })]), name };
}

/** Changes one byte of a file. */
export function flip(file: string, at = 0): void {
  const handle = openSync(file, 'r+');
  const byte = Buffer.alloc(1);
  readSync(handle, byte, 0, 1, at);
  writeSync(handle, Buffer.from([byte[0]! ^ 1]), 0, 1, at);
  closeSync(handle);
}

/** Changes text inside of a file that may be a database: both must be of one length. */
export function replaceBytes(file: string, from: string, to: string): number {
  const bytes = readFileSync(file);
  let changed = 0;
  for (let at = bytes.indexOf(from); at >= 0; at = bytes.indexOf(from, at + 1)) {
    bytes.write(to, at, 'latin1');
    changed += 1;
  }
  writeFileSync(file, bytes);
  return changed;
}
