/** Each rule rejects what it is there for, and leaves its honest neighbour alone. */
import { Linter } from 'eslint';
import plugin, { RULES } from './deterministic-tests.mjs';

type Rule = keyof typeof RULES;

/** Planted code, and which rule rejects it. */
const PLANTED: readonly (readonly [Rule, string])[] = [
  ['no-retry', 'jest.retryTimes(3);'],
  ['no-retry', "await expect(async () => { await page.click('a'); }).toPass();"],
  ['no-retry', 'export default { retries: 2 };'],
  ['no-retry', "test.describe.configure({ mode: 'serial', retries: 1 });"],
  ['no-sleep', 'await page.waitForTimeout(300);'],
  ['no-sleep', 'await new Promise((resume) => setTimeout(resume, 50));'],
  ['no-sleep', 'await new Promise((resume) => { setTimeout(() => resume(), pause); });'],
  ['no-sleep', 'setTimeout(() => child.kill(), 100);'],
  ['no-sleep', 'globalThis.setTimeout(work, 20);'],
  ['no-sleep', "import { setTimeout as sleep } from 'node:timers/promises';"],
  ['no-sleep', 'const timer = setInterval(look, 20);'],
  ['no-sleep', 'Atomics.wait(state, 0, 0, 100);'],
  ['no-long-limit', "test('slow', async () => {}, 120_000);"],
  ['no-long-limit', 'beforeAll(prepare, 9 * 60_000);'],
  ['no-long-limit', "test.each(all)('%s', async () => {}, 60_000);"],
  ['no-long-limit', 'jest.setTimeout(30_000);'],
  ['no-long-limit', 'test.setTimeout(30_000 + ROUNDS * 12_000);'],
  ['no-long-limit', 'test.slow();'],
  ['no-long-limit', 'await expect(page).toHaveURL(there, { timeout: 2 * 60_000 });'],
  ['no-long-limit', 'export default { testTimeout: 180_000 };'],
  ['no-clock', 'expect(performance.now() - begun).toBeLessThan(2000);'],
  ['no-clock', 'for (let again = 0; again < 2 && process.cpuUsage().user > most; again++) work();'],
  ['no-clock', 'while (Date.now() < end) look();'],
  ['no-clock', 'const begun = process.hrtime.bigint();'],
  ['no-heap-difference', 'expect(process.memoryUsage().heapUsed - before).toBeLessThan(MOST);'],
  ['no-heap-difference', 'const held = process.memoryUsage.rss();'],
  ['no-silent-end', 'for (let i = 0; i < 50 && left() > 0; i++) await turn();'],
  ['no-silent-end', 'async function until() { while (!isSo() && tries++ < 100) { await turn(); } }'],
  ['no-skip', "test.skip('as root only', () => {});"],
  ['no-skip', "describe.only('this', () => {});"],
  ['no-skip', "test.fixme('later', () => {});"],
  ['no-skip', "xit('later', () => {});"],
];

const HONEST = [
  'setTimeout(work, 0);',
  'socket.setTimeout(5000);',
  "test('quick', () => {}, 20_000);",
  'export default { retries: 0, timeout: 30_000 };',
  'const old = new Date(Date.now() - 50 * HOUR);',
  'for (const one of all) await look(one);',
  'for (let i = 0; i < 50; i++) await look(i);',
  "test.each(all)('%s', look);",
  'await expect(page.getByText(name)).toBeVisible();',
];

/** Rules that reject the code, each once. */
function rejected(code: string): string[] {
  const rules = Object.fromEntries(Object.keys(RULES).map((name) => [`tests/${name}`, 'error' as const]));
  const config = {
    plugins: { tests: plugin },
    rules,
    languageOptions: { ecmaVersion: 2024, sourceType: 'module' },
  } as const;
  const messages = new Linter().verify(code, config);
  return [...new Set(messages.map(({ ruleId, message }) => ruleId?.replace('tests/', '') ?? message))];
}

test.each(PLANTED)('%s rejects %s', (rule, code) => {
  expect(rejected(code)).toEqual([rule]);
});

test.each(HONEST)('nothing rejects %s', (code) => {
  expect(rejected(code)).toEqual([]);
});

test('each rule has planted examples', () => {
  expect(new Set(PLANTED.map(([rule]) => rule))).toEqual(new Set(Object.keys(RULES)));
});
