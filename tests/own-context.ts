/** A server context of a test's own, in a folder that goes with it. */
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type Context, openContext } from '@/server/context';

/** Opens a context before each test of the file and closes it behind; what it gives is asked for inside of tests. */
export function ownContext(): {
  readonly context: () => Context;
  /** The data folder. */
  readonly root: () => string;
  /** Names of all files in the folder of stored contents, unfinished ones too. */
  readonly stored: () => string[];
} {
  let root: string;
  let context: Context;
  beforeEach(async () => {
    root = mkdtempSync(path.join(tmpdir(), 'loess-own-'));
    context = await openContext({ data: root });
  });
  afterEach(async () => {
    await context.close();
    rmSync(root, { recursive: true, force: true });
  });
  return {
    context: () => context,
    root: () => root,
    stored: () =>
      readdirSync(context.folder.store, { recursive: true, withFileTypes: true })
        .filter((one) => one.isFile() && one.name !== 'database.json')
        .map((one) => one.name),
  };
}
