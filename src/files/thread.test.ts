import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { startThread } from './thread';

/** Answers with what it was given at the start and what it is asked; the answer to a longer word takes longer. */
const PROGRAM = `
import { parentPort, workerData } from 'node:worker_threads';
parentPort.on('message', (word) => {
  if (word === undefined) return parentPort.close();
  if (word === 'throw') throw new Error('the tide is out');
  if (word === 'end') return process.exit(0);
  const until = Date.now() + word.length;
  while (Date.now() < until);
  parentPort.postMessage(workerData + word);
});
`;

let folder: string;
let file: string;
beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-thread-'));
  file = path.join(folder, 'answering.mjs');
  writeFileSync(file, PROGRAM);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const started = () => startThread<string, string>(file, '> ', 'It has ended.');

test('what is asked at once is answered in the order in which it was asked', async () => {
  const { ask, close } = started();
  const words = ['a long word of the harbour', 'short', '', 'ebb'];
  const order: string[] = [];
  const answers = await Promise.all(
    words.map(async (word) => {
      const answer = await ask(word);
      order.push(word);
      return answer;
    }),
  );
  expect(answers).toEqual(words.map((word) => `> ${word}`));
  expect(order).toEqual(words);
  await close();
});

test.each([
  ['throw', 'the tide is out'],
  ['end', 'It has ended.'],
])('where it ends, with %s, all who wait are told, and whoever asks later', async (word, says) => {
  const { ask, close } = started();
  const before = ask('flood');
  const failing = [ask(word), ask('never'), ask('answered')].map((one) => expect(one).rejects.toThrow(says));
  expect(await before).toBe('> flood');
  await Promise.all(failing);
  await expect(ask('later')).rejects.toThrow(says);
  await close();
});
