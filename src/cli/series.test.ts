import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fatPart, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess, risky, sound, stopped } from '@tests/terminal';
import { EXIT } from './exit';

const { file, document, now } = folderOfEachTest();

test('copies have the bytes that each has when it is built alone, and the list says their ids', async () => {
  const doc = document(sound(), 'gauge.json');
  const { exit, out, error } = await loess([
    'series',
    doc,
    '--copies',
    '3',
    '--into',
    file('out'),
    '--list',
    file('ids.json'),
  ]);
  expect([exit, error]).toEqual([EXIT.done, '']);
  expect(readdirSync(file('out'))).toEqual(['gauge-1.img', 'gauge-2.img', 'gauge-3.img']);
  const { copies } = JSON.parse(readFileSync(file('ids.json'), 'utf8')) as {
    copies: { medium: string; slots: object[] }[];
  };
  expect(copies.map((one) => one.slots.length)).toEqual([2, 2, 2]);
  expect(new Set(copies.map((one) => one.medium)).size).toBe(3);
  const lines = out.split('\n');
  expect(lines[0]).toMatch(/^copy {2}image {8}medium {4}slot {2}partition {4}content$/);
  expect(lines[1]).toMatch(
    /^ {3}1 {2}gauge-1\.img {2}[0-9a-f]{8} {2}boot {2}[0-9a-f]{8}-01 {2}[0-9A-F]{4}-[0-9A-F]{4}$/,
  );
  expect(out).toContain(`3 images in ${file('out')}, 192 MiB in all.\n`);
  for (const copy of [1, 2, 3]) {
    expect((await loess(['build', doc, '--copy', String(copy), '--into', file('alone.img'), '--replace'])).exit).toBe(
      EXIT.done,
    );
    expect(readFileSync(file('alone.img')).equals(readFileSync(file(`out/gauge-${copy}.img`)))).toBe(true);
  }
});

test('numbers have as many digits as the last; machines get the list; files of all copies are found once', async () => {
  mkdirSync(file('files'));
  writeFileSync(file('files/A.TXT'), 'a');
  const doc = document(layoutOn('64 MiB', [fatPart('boot', 'rest', { filesFrom: 'files' })]), 'b.json');
  const answer = await loess(['series', doc, '--copies', '2', '--first', '9', '--into', file('out'), '--json']);
  expect(answer.json()).toMatchObject({ copies: [{ copy: 9, image: file('out/b-09.img') }, { copy: 10 }] });
  expect(readFileSync(file('out/b-10.img')).includes('A       TXT')).toBe(true);
});

test.each([
  ['a stop', () => document(stopped()), () => [], EXIT.stop],
  ['an open risk', () => document(risky()), () => [], EXIT.risk],
  ['no copies', () => document(sound()), () => ['--copies', '0'], EXIT.usage],
  ['too many', () => document(sound()), () => ['--first', '1000000'], EXIT.usage],
  ['a list that is there', () => document(sound()), () => ['--list', file('layout.json')], EXIT.file],
])('with %s nothing is left, not even a folder', async (_, make, more, exit) => {
  const args = ['series', make(), '--into', file('out'), '--copies', '2', ...more()];
  expect((await loess(args)).exit).toBe(exit);
  expect(existsSync(file('out'))).toBe(false);
});

test('a copy that is there already is not replaced, and the folder above has to be there', async () => {
  const doc = document(layoutOn('8 MiB', [part('a', 'rest')]), 'g.json');
  mkdirSync(file('out'));
  writeFileSync(file('out/g-2.img'), 'mine');
  const { exit, error } = await loess(['series', doc, '--copies', '2', '--into', file('out')]);
  expect([exit, error]).toEqual([
    EXIT.file,
    `“${path.join(file('out'), 'g-2.img')}” is there already; a series replaces nothing.\n`,
  ]);
  expect(readdirSync(file('out'))).toEqual(['g-2.img']);
  expect((await loess(['series', doc, '--copies', '2', '--into', file('none/out')])).error).toContain('make it first');
  expect(readdirSync(now()).sort()).toEqual(['g.json', 'out']);
});
