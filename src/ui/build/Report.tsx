import type { BuildReport, ReadBackRange, RepackedReport } from '@/contract/builds';
import type { ChangedReport } from '@/contract/changes';
import type { Slot } from '@/core/layout/document';
import { visible } from '@/core/bytes/record';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { FactTable } from '../kit/Table';

/** Ranges of files that a person supplied: those were compared while they were written. */
const COPIED = ['supplied file', 'image'];

/** Of an image that was made from another one: what was written, and what was compared. */
function ChangedText({ from, changed, equal, zeros, allocated, milliseconds }: ChangedReport & { milliseconds: number }) {
  return (
    <p className="mt-3 border-t border-hair pt-2">
      <b className="font-semibold">Read back:</b> {counted(changed, 'byte')} written, {grouped(equal)} equal to those of “{from}”,
      compared one by one; {inBinary(zeros)} of them are zeros in both. The old file takes {inBinary(allocated.old)} on the disk, the
      new one {inBinary(allocated.made)}. {Math.ceil(milliseconds)} ms in all.
    </p>
  );
}

/** Of a volume that was laid anew: what was written, and what did not go along. */
function RepackedText({
  report: { from, free, words, leftOut },
  size,
  writtenBytes,
  milliseconds,
}: { readonly report: RepackedReport } & Pick<BuildReport, 'size' | 'writtenBytes' | 'milliseconds'>) {
  return (
    <div className="mt-3 border-t border-hair pt-2">
      <p>
        <b className="font-semibold">Laid anew:</b> {from}, in {inBoth(size)}, of which {inBinary(free)} are free; {counted(writtenBytes, 'byte')}{' '}
        written and compared byte for byte. {words.join(' ')} {Math.ceil(milliseconds)} ms in all.
      </p>
      {leftOut.length > 0 && (
        <details className="mt-1">
          <summary className="cursor-pointer text-risk">{counted(leftOut.length, 'entry', 'entries')} did not go along</summary>
          <ul className="font-mono text-xs break-all">
            {leftOut.map((path) => (
              <li key={path}>{visible(path)}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** The read-back report: every fact compared, every range with its checksum. */
export function Report({ report, slots }: { report: BuildReport; slots: readonly Slot[] }) {
  const nameOf = (id: string | undefined) => (id === undefined ? 'medium' : (slots.find((slot) => slot.id === id)?.name ?? id));
  const agreeing = report.comparisons.filter((one) => one.agrees).length;
  const files = report.ranges.reduce((sum, range) => sum + (range.files ?? 0), 0);
  const isHole = (range: ReadBackRange) => range.sha256 === undefined && range.files === undefined && !COPIED.includes(range.what);
  const holes = report.ranges.filter(isHole).length;
  if (report.repacked) return <RepackedText report={report.repacked} {...report} />;
  if (report.change) return <ChangedText {...report.change} milliseconds={report.milliseconds} />;
  return (
    <div className="mt-3 border-t border-hair pt-2">
      <p>
        <b className="font-semibold">Read back:</b> {agreeing} of {report.comparisons.length} facts agree with the layout;{' '}
        {counted(report.ranges.length - holes, 'range')}, {counted(report.writtenBytes, 'byte')} in all, written and compared byte
        for byte; {counted(holes, 'range')} of zeros not written: holes of the new file, which take no room.{' '}
        {files > 0 && `${counted(files, 'file or folder was', 'files and folders were')} compared on the way. `}
        {Math.ceil(report.milliseconds)} ms in all.
      </p>
      {(report.accepted ?? []).length > 0 && (
        <ul className="mt-1">
          {report.accepted!.map((one, i) => (
            <li key={i}>
              <b className="font-semibold">Risk accepted:</b> {one.sentence}{' '}
              <span className="text-moss">Reason: {one.reason}</span>
            </li>
          ))}
        </ul>
      )}
      <details className="mt-1">
        <summary className="cursor-pointer text-soft">Facts compared</summary>
        <FactTable
          columns={[
            { title: 'place' },
            { title: 'fact' },
            { title: 'meant', mono: true },
            { title: 'found', mono: true },
          ]}
          rows={report.comparisons.map((one, i) => ({
            key: i,
            wrong: !one.agrees,
            cells: [nameOf(one.slot), one.fact, one.meant || '–', one.found || '–'],
          }))}
        />
      </details>
      <details className="mt-1">
        <summary className="cursor-pointer text-soft">Ranges and checksums</summary>
        <FactTable
          columns={[
            { title: 'place' },
            { title: 'range' },
            { title: 'first byte', figures: true },
            { title: 'length', figures: true },
            { title: 'SHA-256', figures: true },
          ]}
          rows={report.ranges.map((range) => ({
            key: range.offset,
            cells: [
              nameOf(range.owner),
              range.files === undefined ? range.what : `${grouped(range.files)} ${range.what}`,
              grouped(range.offset),
              inBinary(range.length),
              range.sha256 ? (
                <span title={range.sha256}>{range.sha256.slice(0, 16)}…</span>
              ) : isHole(range) ? (
                'never written: zeros'
              ) : (
                'compared with what is stored'
              ),
            ],
          }))}
        />
      </details>
    </div>
  );
}
