/** `minimum` and `repack` at the terminal: an ext of an image in another length, in a new file, which the image outlives as it is. */
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { inMemory } from '@tests/filled';
import { planted, sound } from '@tests/planted-ext';
import { factsOf } from '@tests/repacked';
import { folderOfEachTest, loess } from '@tests/terminal';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { MIB } from '@/core/quantity/units';
import { EXIT } from './exit';

const { file } = folderOfEachTest();
const put = (bytes: Uint8Array) => writeFileSync(file('gauge.img'), bytes);
const sum = () =>
  createHash('sha256')
    .update(readFileSync(file('gauge.img')))
    .digest('hex');
const names = () => readdirSync(path.dirname(file('gauge.img'))).sort();

interface MinimumAnswer {
  readonly volumes: readonly { readonly renumbered: number; readonly kept: number; readonly block: number }[];
}

async function leastOf(): Promise<MinimumAnswer['volumes'][number]> {
  const { exit, json } = await loess(['minimum', file('gauge.img'), '--json']);
  expect(exit).toBe(EXIT.done);
  return (json() as unknown as MinimumAnswer).volumes[0]!;
}

test('the least is told, made, and one block less is refused', async () => {
  const { bytes } = sound('current');
  put(bytes);
  const before = sum();
  const text = await loess(['minimum', file('gauge.img')]);
  expect(text.out).toMatch(/least, with inodes numbered anew: .* blocks of 1,024 bytes\n/);
  expect(text.out).toMatch(/inodes in use, the highest has number [\d,]+/);
  const { renumbered, block } = await leastOf();
  const shown = await loess(['repack', file('gauge.img')]);
  expect(shown).toMatchObject({ exit: EXIT.done, out: expect.stringMatching(/would have .*; 0 B of them free/) });
  expect(names()).toEqual(['gauge.img']);
  const made = await loess(['repack', file('gauge.img'), '--into', file('small.img'), '--json']);
  expect(made.json()).toMatchObject({ answer: 'repack', size: renumbered, block, free: 0, leftOut: [] });
  expect(statSync(file('small.img')).size).toBe(renumbered);
  expect(await factsOf(new Uint8Array(readFileSync(file('small.img'))))).toEqual(await factsOf(bytes));
  const short = await loess([
    'repack',
    file('gauge.img'),
    '--size',
    `${renumbered - block} B`,
    '--into',
    file('b.img'),
  ]);
  expect(short).toMatchObject({ exit: EXIT.stop, error: expect.stringMatching(/do not hold it: it needs/) });
  expect(names()).toEqual(['gauge.img', 'small.img']);
  expect(sum()).toBe(before);
});

test('larger, with the numbers kept; a file that is there stays', async () => {
  const { bytes } = sound('mapped');
  put(bytes);
  writeFileSync(file('there.img'), 'mine');
  const order = ['repack', file('gauge.img'), '--size', '64 MiB', '--keep-numbers', '--into', file('there.img')];
  expect((await loess(order)).exit).toBe(EXIT.file);
  expect(readFileSync(file('there.img'), 'utf8')).toBe('mine');
  const made = await loess([...order, '--replace']);
  expect(made.out).toMatch(/were written and compared, byte by byte/);
  const large = new Uint8Array(readFileSync(file('there.img')));
  expect(large.length).toBe(64 * MIB);
  expect(await factsOf(large)).toEqual(await factsOf(bytes));
  expect(await loess(['repack', file('gauge.img'), '--into', file('gauge.img'), '--replace'])).toMatchObject({
    exit: EXIT.usage,
  });
});

test('faults are told and nothing is left; without the files that they touch all else goes along', async () => {
  const one = planted('mapped');
  one.bytes.writeUInt32LE(0x7fff_ffff, one.at(one.node('bin/tide').node.inode) + 0x28);
  put(one.bytes);
  const refused = await loess(['repack', file('gauge.img'), '--into', file('a.img')]);
  expect(refused).toMatchObject({ exit: EXIT.stop, error: expect.stringMatching(/is not repacked/) });
  expect(names()).toEqual(['gauge.img']);
  const order = ['repack', file('gauge.img'), '--without-faulty', '--size', '40 MiB', '--into', file('a.img')];
  const { exit, out } = await loess(order);
  expect(exit).toBe(EXIT.done);
  expect(out).toMatch(/entr(y|ies) of it do not go along:\n(?: {2}.*\n)* {2}bin\/tide\n/);
  const bytes = new Uint8Array(readFileSync(file('a.img')));
  const { faults, entries } = await checkExt(inMemory(bytes), 0, bytes.length);
  expect(faults).toEqual([]);
  expect(entries.some(({ path: at }) => at === 'bin/tide')).toBe(false);
  expect(entries.some(({ path: at }) => at === 'bin/su')).toBe(true);
});

test('a fault that only the check sees stops what was being written', async () => {
  const one = planted('current');
  one.group(1, 'freeBlocks', 3);
  put(one.bytes);
  const { exit, error } = await loess(['repack', file('gauge.img'), '--into', file('a.img')]);
  expect(exit).toBe(EXIT.stop);
  expect(error).toMatch(/group 1, group\/free blocks/);
  expect(names()).toEqual(['gauge.img']);
});

test('words that are none', async () => {
  put(sound('current').bytes);
  const odd = ['repack', file('gauge.img'), '--size', 'much'];
  expect(await loess(odd)).toMatchObject({ exit: EXIT.usage, error: expect.stringMatching(/“much” is no size/) });
  writeFileSync(file('zeros.img'), new Uint8Array(MIB));
  for (const name of ['minimum', 'repack']) expect((await loess([name, file('zeros.img')])).exit).toBe(EXIT.usage);
});
