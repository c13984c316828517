/** The terminal program run inside a test, in a folder of its own, and layouts to run it on. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import Ajv from 'ajv/dist/2020';
import { answersSchema } from '@/cli/answers-schema';
import { run } from '@/cli/program';
import type { Layout } from '@/core/layout/document';
import { writeLayout } from '@/core/layout/validate';
import { fatPart, layoutOn, part } from './samples';

const isAnswer = new Ajv({ strict: true, strictRequired: false }).compile(answersSchema());

/** Whatever is answered as JSON has the published shape. */
function expectAnswer(text: string): void {
  if (text === '') return;
  const answer: unknown = JSON.parse(text);
  expect([isAnswer(answer), isAnswer.errors]).toEqual([true, null]);
}

/** Runs the program; what it said, and how it ended. Answers for machines are held against their schema. */
export async function loess(args: readonly string[], stdin = '', signal = new AbortController().signal) {
  let [out, error] = ['', ''];
  const exit = await run(args, {
    out: (text) => (out += text),
    error: (text) => (error += text),
    stdin: () => Promise.resolve(stdin),
    signal,
    isTerminal: false,
  });
  if (args.includes('--json')) for (const text of [out, error]) expectAnswer(text);
  return { exit, out, error, json: () => JSON.parse(out) as Record<string, unknown> };
}

/** A folder that each test has anew, and that is gone after it; `now()` is where it lies. */
export function folderOfEachTest() {
  let folder = '';
  beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-terminal-'))));
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  const file = (name: string) => path.join(folder, name);
  /** Writes a document into it. */
  const document = (layout: Layout, name = 'layout.json') => {
    writeFileSync(file(name), writeLayout(layout));
    return file(name);
  };
  return { now: () => folder, file, document };
}

/** A layout of which nothing is found. */
export const sound = () => layoutOn('64 MiB', [fatPart('boot', '40 MiB', { label: 'GAUGE' }), part('log', 'rest')]);
/** A layout with an open risk. */
export const risky = () =>
  layoutOn('64 MiB', [part('boot', 'rest', { active: true })], {
    boots: ['bios'],
    machine: { loader: 'active partition' },
  });
/** A layout with a stop. */
export const stopped = () => layoutOn('64 MiB', [part('boot', '100 MiB')]);
