import { chmodSync, readdirSync, readFileSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { folderOfEachTest, loess, risky } from '@tests/terminal';
import { writeLayout } from '@/core/layout/validate';
import { EXIT } from './exit';

const { now, file } = folderOfEachTest();
const RULE = 'boot/no-code-in-sector-0';
const written = (text: string, name = 'a layout.json') => {
  writeFileSync(file(name), text);
  return file(name);
};

test('a risk is accepted in the document, of which all else stays as it was written', async () => {
  const name = written(
    writeLayout(risky()).replace('{\n', '{\n  // of the pier\n').replace('"boots"', '"boots" /* one */'),
  );
  const before = await loess(['check', name]);
  expect(before.exit).toBe(EXIT.risk);
  expect(before.out).toContain(`accept it: loess accept '${name}' --rule ${RULE} --reason '…'`);
  const { exit, out } = await loess(['accept', name, '--rule', RULE, '--reason', ' it comes later ']);
  expect(exit).toBe(EXIT.done);
  expect(out).toMatch(new RegExp(`^accepted: ${RULE}: .*\n$`));
  const text = readFileSync(name, 'utf8');
  expect(text).toContain('  // of the pier\n');
  expect(text).toContain('"boots" /* one */');
  expect(text).toContain('"reason": "it comes later"');
  const after = await loess(['check', name]);
  expect(after).toMatchObject({ exit: EXIT.done, out: expect.stringContaining('reason: it comes later') as string });
  expect(await loess(['accept', name, '--all', '--reason', 'x'])).toMatchObject({
    exit: EXIT.usage,
    error: expect.stringContaining('No risk is open.\n') as string,
  });
  expect(readdirSync(now())).toEqual(['a layout.json']);
});

test('an acceptance whose figures changed is told, and replaced by the next one', async () => {
  const accepted = [
    { rule: RULE, sentence: 'It was another figure.', reason: 'the first reason' },
    { rule: 'esp/none', sentence: 'Something else.', reason: 'stays' },
  ];
  const name = written(writeLayout({ ...risky(), accepted }));
  const { out } = await loess(['check', name]);
  expect(out).toContain('accepted before, and open again: it said then: It was another figure.');
  expect(out).toContain('the reason was: the first reason');
  expect((await loess(['accept', name, '--all', '--reason', 'the second', '--json'])).json()).toMatchObject({
    accepted: [{ rule: RULE, reason: 'the second' }],
  });
  const { accepted: now } = JSON.parse(readFileSync(name, 'utf8')) as { accepted: { reason: string }[] };
  expect(now.map((one) => one.reason)).toEqual(['stays', 'the second']);
});

test('through the standard input the document goes to the output', async () => {
  const { out, exit } = await loess(['accept', '-', '--all', '--reason', 'later'], `\ufeff${writeLayout(risky())}`);
  expect(exit).toBe(EXIT.done);
  expect(out.startsWith('\ufeff{')).toBe(true);
  expect((await loess(['check', '-'], out)).exit).toBe(EXIT.done);
});

test('a link leads to the file still, and who may read it stays', async () => {
  const name = written(writeLayout(risky()), 'real.json');
  chmodSync(name, 0o640);
  symlinkSync('real.json', file('link.json'));
  expect(await loess(['accept', file('link.json'), '--all', '--reason', 'later'])).toMatchObject({ exit: EXIT.done });
  expect(statSync(name).mode & 0o777).toBe(0o640);
  expect(readFileSync(name, 'utf8')).toContain('later');
  expect(readdirSync(now()).sort()).toEqual(['link.json', 'real.json']);
});

test.each([
  ['no risk named', [], 'Say which risk'],
  ['both', ['--rule', RULE, '--all'], 'Say which risk'],
  ['another rule', ['--rule', 'esp/none'], `Open are:\n  ${RULE}: `],
  ['another slot', ['--rule', RULE, '--slot', 'boot'], 'Open are:'],
  ['an empty reason', ['--all', '--reason', ' '], 'A reason is one line'],
  ['a reason of two lines', ['--all', '--reason', 'a\nb'], 'A reason is one line'],
  ['a reason that is too long', ['--all', '--reason', 'x'.repeat(301)], 'A reason is one line'],
])('%s is a wrong call, and changes nothing', async (_, args, says) => {
  const name = written(writeLayout(risky()));
  const reason = args.includes('--reason') ? [] : ['--reason', 'x'];
  const { exit, error } = await loess(['accept', name, ...args, ...reason]);
  expect(exit).toBe(EXIT.usage);
  expect(error).toContain(says);
  expect(readFileSync(name, 'utf8')).toBe(writeLayout(risky()));
});

test('a document of an older version is not mixed with words of this one', async () => {
  const old = JSON.parse(writeLayout(risky())) as Record<string, unknown>;
  const name = written(JSON.stringify({ ...old, version: 1 }));
  const { exit, error } = await loess(['accept', name, '--all', '--reason', 'x']);
  expect(exit).toBe(EXIT.document);
  expect(error).toContain('older version');
});
