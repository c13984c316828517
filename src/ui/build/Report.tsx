import type { BuildReport } from '@/contract/builds';
import type { Slot } from '@/core/layout/document';
import { grouped, inBinary } from '@/core/quantity/units';

/** The read-back report: every fact compared, every range with its checksum. */
export function Report({ report, slots }: { report: BuildReport; slots: readonly Slot[] }) {
  const nameOf = (id: string | undefined) => (id === undefined ? 'medium' : (slots.find((slot) => slot.id === id)?.name ?? id));
  const agreeing = report.comparisons.filter((one) => one.agrees).length;
  const holes = report.ranges.filter((range) => range.sha256 === undefined).length;
  return (
    <div className="mt-3 border-t border-hair pt-2">
      <p>
        <b className="font-semibold">Read back:</b> {agreeing} of {report.comparisons.length} facts agree with the layout;{' '}
        {report.ranges.length} ranges compared byte for byte. {grouped(report.writtenBytes)} bytes were written in{' '}
        {Math.ceil(report.milliseconds)} ms; {holes} ranges of zeros take no room.
      </p>
      <details className="mt-1">
        <summary className="cursor-pointer text-soft">Facts compared</summary>
        <table className="mt-1 w-full border-collapse">
          <thead>
            <tr className="border-b border-line text-left text-xs text-soft">
              <th className="py-1 font-normal">place</th>
              <th className="py-1 font-normal">fact</th>
              <th className="py-1 font-normal">meant</th>
              <th className="py-1 font-normal">found</th>
            </tr>
          </thead>
          <tbody>
            {report.comparisons.map((one, i) => (
              <tr key={i} className={`border-b border-hair ${one.agrees ? '' : 'text-stop'}`}>
                <td className="py-0.5">{nameOf(one.slot)}</td>
                <td className="py-0.5">{one.fact}</td>
                <td className="py-0.5 font-mono text-sm">{one.meant || '–'}</td>
                <td className="py-0.5 font-mono text-sm">{one.found || '–'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      <details className="mt-1">
        <summary className="cursor-pointer text-soft">Ranges and checksums</summary>
        <table className="mt-1 w-full border-collapse">
          <thead>
            <tr className="border-b border-line text-left text-xs text-soft">
              <th className="py-1 font-normal">place</th>
              <th className="py-1 font-normal">range</th>
              <th className="py-1 text-right font-normal">first byte</th>
              <th className="py-1 text-right font-normal">length</th>
              <th className="py-1 pl-3 font-normal">SHA-256</th>
            </tr>
          </thead>
          <tbody>
            {report.ranges.map((range) => (
              <tr key={range.offset} className="border-b border-hair">
                <td className="py-0.5">{nameOf(range.owner)}</td>
                <td className="py-0.5">{range.what}</td>
                <td className="py-0.5 text-right font-mono text-sm">{grouped(range.offset)}</td>
                <td className="py-0.5 text-right font-mono text-sm">
                  {inBinary(range.length)}
                  
                </td>
                <td className="py-0.5 pl-3 font-mono text-sm" title={range.sha256}>
                  {range.sha256 ? `${range.sha256.slice(0, 16)}…` : 'all zeros, as meant'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </div>
  );
}
