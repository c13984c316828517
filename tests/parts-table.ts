/** The table of the parts of the tests, as CONTRIBUTING.md has it. */
import { PARTS } from '../scripts/test-parts.mjs';

const [BEGIN, END] = ['<!-- table of the tests: npm run test:table -->', '<!-- end of the table -->'];

type Times = Readonly<Record<string, number | undefined>>;

const minutes = (time: number | undefined) =>
  time === undefined ? 'not measured' : time < 1 ? `${Math.round(time * 60)} s` : `${Math.round(time)} min`;

function tableOf(times: Times): string {
  const rows = PARTS.map(
    ({ name, tier, what, finds }) =>
      `| \`${name}\` | ${tier === 'first' ? 'first' : 'second'} | ${what} | ${finds} | ${minutes(times[name])} |`,
  );
  return [
    '| part | tier | what runs | what only it finds | time on two cores |',
    '| --- | --- | --- | --- | --- |',
    ...rows,
  ].join('\n');
}

/** A page with the table that belongs to these times, in minutes by part. Throws an Error where the page has no place for it. */
export function withTable(page: string, times: Times): string {
  const [from, until] = [page.indexOf(BEGIN), page.indexOf(END)];
  if (from < 0 || until < from) throw new Error(`The page lacks “${BEGIN}” or “${END}”.`);
  return `${page.slice(0, from + BEGIN.length)}\n\n${tableOf(times)}\n\n${page.slice(until)}`;
}
