import type { WrittenRange } from '@/contract/changes';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { Mark } from '../kit/Mark';
import { FactTable } from '../kit/Table';

/** What would be written, gathered, with what lies there now. */
export function Written({
  ranges,
  names,
}: {
  ranges: readonly WrittenRange[];
  /** Names of the slots, where there are some: then it is said whose a range is. */
  names?: ReadonlyMap<string, string>;
}) {
  const total = ranges.reduce((sum, { bytes }) => sum + bytes, 0);
  if (ranges.length === 0) return <p className="text-soft">Nothing would be written.</p>;
  return (
    <>
      <p className="text-soft">
        {inBoth(total)} in all; every other byte of the image stays. What lies there now is compared before it is
        written.
      </p>
      <FactTable
        columns={[
          ...(names ? [{ title: 'whose' }] : []),
          { title: 'what' },
          { title: 'from byte', figures: true },
          { title: 'ranges', figures: true },
          { title: 'bytes', figures: true },
          { title: 'there now' },
          { title: 'first bytes there', mono: true },
        ]}
        rows={ranges.map((one) => ({
          key: `${one.slot ?? ''}/${one.what}`,
          cells: [
            ...(names ? [one.slot === undefined ? 'table' : (names.get(one.slot) ?? one.slot)] : []),
            one.what,
            grouped(one.at),
            grouped(one.ranges),
            inBinary(one.bytes),
            one.there,
            <span key="bytes" className="whitespace-nowrap">
              {one.bytesThere.replace(/(..)(?=.)/g, '$1 ')}
            </span>,
          ],
        }))}
      />
      <Fields ranges={ranges} />
    </>
  );
}

/** So many fields are shown without a press. */
const AT_ONCE = 16;

/** What the fields of the ranges say now, and what they will say. */
function Fields({ ranges }: { ranges: readonly WrittenRange[] }) {
  const rows = ranges.flatMap(({ what, fields }) => fields.map((field) => ({ what, ...field })));
  if (rows.length === 0) return null;
  return (
    <details className="mt-2" open={rows.length <= AT_ONCE}>
      <summary className="cursor-pointer">
        {counted(rows.length, 'field')} that will say something else, as the ledger reads them
      </summary>
      <FactTable
        columns={[
          { title: 'sector', figures: true },
          { title: 'field' },
          { title: 'now', mono: true },
          { title: 'then', mono: true },
        ]}
        rows={rows.map(({ sector, field, before, after }, i) => ({
          key: String(i),
          cells: [grouped(sector), field, before, after],
        }))}
      />
    </details>
  );
}

/** What a survey would find in the new image. */
export function Left({ left }: { left: readonly SurveyFinding[] }) {
  if (left.length === 0) return <p className="text-soft">A survey of the new image would find nothing.</p>;
  return (
    <ul>
      {left.map((one, i) => (
        <li key={i} className="grid grid-cols-[14px_1fr] items-baseline gap-2 py-0.5">
          <Mark severity={one.severity} />
          <span>{one.sentence}</span>
        </li>
      ))}
    </ul>
  );
}
