/** A repacked volume that is written while it is checked: whichever of the two fails, the reason is told and nothing is left. */
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { turn } from '@tests/until';
import type { Ordered, RepackRefusal } from '@/core/filesystems/ext/repack/order';
import { BrokenChain } from '@/core/filesystems/volume';
import { NotSound, type RepackJob, writeRepacked } from './repacked-image';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-repacked-'));
  writeFileSync(path.join(folder, 'old.img'), new Uint8Array(8192));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const REFUSAL: RepackRefusal = { why: 'it has 1 fault', faults: [] };

/** An order whose writing and check end as they are told to. */
function job(ranges: Ordered['ranges'], sound: Ordered['sound'], signal = new AbortController().signal): RepackJob {
  return {
    from: path.join(folder, 'old.img'),
    order: { bytes: 8192, block: 4096, free: 0, words: [], leftOut: [], ranges, sound },
    path: path.join(folder, 'new.img'),
    temporary: path.join(folder, 'new.img.part'),
    isNew: true,
    signal,
    onProgress: () => undefined,
  };
}

async function* whole() {
  yield { what: 'files', extent: { offset: 0, bytes: new Uint8Array(8192).fill(7) } };
}

function broken(error: Error): Ordered['ranges'] {
  return async function* () {
    yield* whole();
    throw error;
  };
}

/** A check that takes a while, and looks whether it is stopped. */
const slowly =
  (refusal: RepackRefusal | undefined): Ordered['sound'] =>
  async (options = {}) => {
    for (let i = 0; i < 20; i++) {
      await turn();
      await options.checkpoint?.();
    }
    return refusal;
  };

const left = () => readdirSync(folder).sort();

test('what is sound appears whole', async () => {
  expect(await writeRepacked(job(whole, slowly(undefined)))).toEqual({ size: 8192, written: 8192 });
  expect(left()).toEqual(['new.img', 'old.img']);
});

test('what is not sound does not appear, however much was written', async () => {
  await expect(writeRepacked(job(whole, slowly(REFUSAL)))).rejects.toBeInstanceOf(NotSound);
  expect(left()).toEqual(['old.img']);
});

test.each([
  ['a chain that is broken', new BrokenChain('a directory leads nowhere')],
  ['a number that is too large', new RangeError('offset is out of bounds')],
])('where its bytes stop the writing by %s, the check says why', async (_, error) => {
  await expect(writeRepacked(job(broken(error), slowly(REFUSAL)))).rejects.toBeInstanceOf(NotSound);
  expect(left()).toEqual(['old.img']);
  // Where the check finds nothing, what happened is told.
  await expect(writeRepacked(job(broken(error), slowly(undefined)))).rejects.toBe(error);
  expect(left()).toEqual(['old.img']);
});

test('a disk that fails stops the check, and is told', async () => {
  const full = Object.assign(new Error('no space left'), { code: 'ENOSPC' });
  let looked = 0;
  const check: Ordered['sound'] = async (options = {}) => {
    for (; looked < 5000; looked++) {
      await turn();
      await options.checkpoint?.();
    }
    return REFUSAL;
  };
  await expect(writeRepacked(job(broken(full), check))).rejects.toBe(full);
  expect(looked).toBeLessThan(5000);
  expect(left()).toEqual(['old.img']);
});

test('an order that is taken back leaves nothing', async () => {
  const abort = new AbortController();
  const stopped = new Error('taken back');
  const writing = writeRepacked(job(whole, slowly(undefined), abort.signal));
  abort.abort(stopped);
  await expect(writing).rejects.toBe(stopped);
  expect(left()).toEqual(['old.img']);
});
