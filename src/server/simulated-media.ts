/** The simulated media that ship: put on the bench of a data folder, each once. */
import { open, readdir, readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { makeFolder, writeSmallFile } from '../files/durable';
import { simulatedPath } from './bench';
import type { Context } from './context';

const ENDING = '.json';

/** Puts the simulated media of `folder` on the bench, each once: a description, and a sparse file of its size. */
export async function addSimulatedMedia(context: Context, folder: string): Promise<void> {
  await makeFolder(context.folder.bench);
  for (const file of (await readdir(folder)).filter((name) => name.endsWith(ENDING)).sort()) {
    const name = file.slice(0, -ENDING.length);
    const target = path.join(context.folder.bench, file);
    if (await stat(target).catch(() => undefined)) continue;
    const text = await readFile(path.join(folder, file), 'utf8');
    const { size } = JSON.parse(text) as { size: number };
    const image = await open(simulatedPath(context, name), 'a');
    await image.truncate(size);
    await image.close();
    // The description comes last: a medium is there when both are.
    await writeSmallFile(target, text);
  }
}
