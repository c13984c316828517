/**
 * The demo images: media as they came from the field. Each is a layout that is built, with marks put over it: of file systems
 * that only others make, and of what somebody broke.
 */
import { open, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import type { Context } from './context';
import { validateLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { writeImage } from '../files/image-file';
import { contentsFor, storedPath } from '../files/stored';
import { moveFile } from '../files/durable';
import { ifThere } from '../files/system-errors';
import { imageFilePath, STORY } from './image-folder';

/** How a demo image is described. */
interface DemoImage {
  readonly file: string;
  readonly story: string;
  readonly layout: unknown;
  readonly marks: readonly { readonly at: number; readonly hex?: string; readonly text?: string }[];
  /** Bytes of the larger medium that it was copied onto. */
  readonly grownTo?: number;
}

async function addImage(context: Context, { file, story, layout, marks, grownTo }: DemoImage): Promise<void> {
  const into = imageFilePath(context, file);
  if (await ifThere(stat(into))) return;
  const valid = validateLayout(layout);
  if (!valid.ok) throw new Error(`${file}: ${valid.error.map((one) => `${one.path} ${one.message}`).join('; ')}`);
  const unfinished = `${into}.unfinished`;
  const { store } = context.folder;
  await writeImage({
    placement: place(valid.value, await contentsFor(store, valid.value)),
    path: unfinished,
    fileOf: (sha256) => storedPath(store, sha256),
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  const handle = await open(unfinished, 'r+');
  try {
    for (const { at, hex, text } of marks) {
      const bytes = hex === undefined ? Buffer.from(text ?? '', 'latin1') : Buffer.from(hex, 'hex');
      await handle.write(bytes, 0, bytes.length, at);
    }
    if (grownTo !== undefined) await handle.truncate(grownTo);
  } finally {
    await handle.close();
  }
  await writeFile(into + STORY, story);
  await moveFile(unfinished, into);
}

/** Puts every image that a folder describes among the image files. */
export async function addDemoImages(context: Context, folder: string): Promise<void> {
  const names = (await readdir(folder)).filter((name) => name.endsWith('.json')).sort();
  for (const name of names)
    await addImage(context, JSON.parse(await readFile(path.join(folder, name), 'utf8')) as DemoImage);
}
