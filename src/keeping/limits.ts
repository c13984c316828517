/** How much may be kept, as a person set it. */
import { readdir, stat } from 'node:fs/promises';
import path from 'node:path';
import { eq, inArray } from 'drizzle-orm';
import type { Amount, Limits } from '@/contract/keeping';
import { ifThere } from '../files/system-errors';
import { storedFiles } from '../files/stored';
import type { Keeping } from './keeping';
import { settings } from './schema';

const NAMES = { contents: 'limit-contents', builds: 'limit-builds' } as const;

/** The limits in force. */
export async function limitsOf({ db }: Pick<Keeping, 'db'>): Promise<Limits> {
  const rows = await db.read
    .select()
    .from(settings)
    .where(inArray(settings.name, Object.values(NAMES)));
  const of = (name: string) => {
    const value = Number(rows.find((row) => row.name === name)?.value);
    return Number.isSafeInteger(value) && value > 0 ? value : null;
  };
  return { contents: of(NAMES.contents), builds: of(NAMES.builds) };
}

/** Sets the limits, in bytes; null for none. */
export async function setLimits({ db }: Pick<Keeping, 'db'>, limits: Limits): Promise<void> {
  await db.write(async (tx) => {
    for (const [key, name] of Object.entries(NAMES)) {
      const limit = limits[key as keyof Limits];
      await tx.delete(settings).where(eq(settings.name, name));
      if (limit !== null) await tx.insert(settings).values({ name, value: String(limit) });
    }
  });
}

/** How many contents there are, and their bytes. */
export async function storedAmount({ folder }: Pick<Keeping, 'folder'>): Promise<Amount> {
  let [number, bytes] = [0, 0];
  for await (const { size } of storedFiles(folder.store)) {
    number += 1;
    bytes += size;
  }
  return { number, bytes };
}

/** Files of a folder, and the bytes that they take on the disk: images are mostly holes. */
export async function takenIn(folder: string): Promise<Amount> {
  let [number, bytes] = [0, 0];
  const entries = (await ifThere(readdir(/* turbopackIgnore: true */ folder, { withFileTypes: true }))) ?? [];
  for (const entry of entries) {
    if (!entry.isFile()) continue;
    const found = await ifThere(stat(path.join(folder, entry.name)));
    if (!found) continue;
    number += 1;
    bytes += found.blocks * 512;
  }
  return { number, bytes };
}

/** Bytes that the limit of contents leaves; undefined without a limit. */
export async function roomForContents(keeping: Keeping): Promise<number | undefined> {
  const { contents } = await limitsOf(keeping);
  return contents === null ? undefined : Math.max(0, contents - (await storedAmount(keeping)).bytes);
}

/** Bytes that the limit of built images leaves; undefined without a limit. */
export async function roomForBuilds(keeping: Keeping): Promise<number | undefined> {
  const { builds } = await limitsOf(keeping);
  return builds === null ? undefined : Math.max(0, builds - (await takenIn(keeping.folder.builds)).bytes);
}
