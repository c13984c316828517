/** `cut` and `clear` at the terminal: what would go, and a new image; the old one is only read. */
import { createHash } from 'node:crypto';
import { readFileSync, statSync, truncateSync } from 'node:fs';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import { MIB } from '@/core/quantity/units';
import { EXIT } from './exit';

const { file, document } = folderOfEachTest();
const sumOf = (name: string) =>
  createHash('sha256')
    .update(readFileSync(file(name)))
    .digest('hex');

async function built(): Promise<void> {
  const layout = layoutOn('64 MiB', [fatPart('e', '20 MiB', { variant: 16 }), part('d', '10 MiB')], {
    table: GPT_TABLE,
  });
  expect(await loess(['build', document(layout), '--into', file('a.img')])).toMatchObject({ exit: EXIT.done });
}

test('an image is cut behind its last partition, with its table at the new end', async () => {
  await built();
  const before = sumOf('a.img');
  const shown = await loess(['cut', file('a.img')]);
  expect(shown).toMatchObject({ exit: EXIT.done, error: '' });
  expect(shown.out).toContain('32 MiB ≈ 33.55 MB behind byte 33,554,432 go; 32 MiB ≈ 33.55 MB stay.');
  expect(shown.out).toContain('GPT header, copy: from byte 33,553,920, 512 B');
  const made = await loess(['cut', file('a.img'), '--into', file('b.img'), '--json']);
  expect(made).toMatchObject({ exit: EXIT.done });
  expect(made.json()).toMatchObject({ becomes: 32 * MIB, left: [], image: file('b.img') });
  expect(statSync(file('b.img')).size).toBe(32 * MIB);
  expect(sumOf('a.img')).toBe(before);
  const [old, cut] = [readFileSync(file('a.img')), readFileSync(file('b.img'))];
  expect(cut.subarray(MIB, 31 * MIB).equals(old.subarray(MIB, 31 * MIB))).toBe(true);
  const survey = await loess(['survey', file('b.img'), '--json']);
  expect(survey.json()).toMatchObject({ findings: [], survey: { partitions: [{}, {}] } });
  const again = await loess(['cut', file('b.img')]);
  expect(again).toMatchObject({ exit: EXIT.stop, error: expect.stringContaining('nothing behind') as string });
  const exact = await loess(['cut', file('a.img'), '--to', 'sector', '--json']);
  expect(exact.json()).toMatchObject({ becomes: 31 * MIB + 33 * 512 });
});

test('an image is cleared: what it was is said, and nothing is recognised any more', async () => {
  await built();
  const shown = await loess(['clear', file('a.img')]);
  expect(shown.out).toContain('Partition 1, e: FAT16, no label.');
  const made = await loess(['clear', file('a.img'), '--into', file('b.img')]);
  expect(made).toMatchObject({ exit: EXIT.done, error: '' });
  const survey = await loess(['survey', file('b.img'), '--json']);
  expect(survey.json()).toMatchObject({ survey: { table: 'none', partitions: [{ inside: { kind: 'zeros' } }] } });
  expect(await loess(['clear', file('a.img'), '--into', file('a.img')])).toMatchObject({ exit: EXIT.usage });
  truncateSync(file('b.img'), 0);
  expect((await loess(['cut', file('b.img')])).exit).not.toBe(EXIT.done);
});
