'use client';

import dynamic from 'next/dynamic';
import { useMemo } from 'react';
import { usualPerInode } from '@/core/filesystems/ext/geometry';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import { type ExtStudyRow, thriftiestExt } from '@/core/filesystems/ext/study';
import { madeAs } from '@/core/filesystems/kinds';
import { treeOfSlot } from '@/core/layout/contents';
import type { PlacedPartition } from '@/core/placement/placement';
import { siteIn } from '@/core/placement/site';
import { exactBytes } from '@/core/quantity/size-language';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import type { ExtStudyAnswer } from '../../workers/study';
import { useDesigner } from '../designer/state/context';
import { Button } from '../kit/Button';
import { AboutFiles, AboutText, useAbout } from './AboutFiles';
import { useStudy } from './useStudy';

const BarChart = dynamic(() => import('../chart/BarChart').then((file) => file.BarChart), { loading: () => null });

const nameOf = ({ block, perInode }: Pick<ExtStudyRow, 'block' | 'perInode'>) =>
  `${inBinary(block)}, inode for ${inBinary(perInode)}`;

const HEADS = [
  'inodes',
  'free of them',
  'structures',
  'usable',
  'lost in last blocks',
  'files and folders take',
] as const;

function RowOf({
  row,
  isNow,
  isThrifty,
  onChoose,
}: {
  readonly row: ExtStudyRow;
  readonly isNow: boolean;
  readonly isThrifty: boolean;
  readonly onChoose: () => void;
}) {
  const share = row.taken > 0 ? ` ${((100 * row.slack) / row.taken).toFixed(1)} %` : '';
  return (
    <tr className={`border-b border-hair text-right font-mono text-sm ${isNow ? 'bg-selected' : ''}`}>
      <th scope="row" className="py-0.5 text-left font-sans font-semibold">
        {nameOf(row)}{' '}
        <span className="font-normal text-soft">
          {[isNow && 'now', isThrifty && 'costs least'].filter(Boolean).join(', ')}
        </span>
      </th>
      <td className="px-2">{grouped(row.inodes)}</td>
      <td className="px-2">{grouped(row.inodesLeft)}</td>
      <td className="px-2" title={`${grouped(row.structures)} bytes`}>
        {inBinary(row.structures)}
      </td>
      <td className="px-2" title={`${grouped(row.usable)} bytes`}>
        {inBinary(row.usable)}
      </td>
      <td className="px-2" title={`${grouped(row.slack)} bytes`}>
        {inBinary(row.slack)}
        {share}
      </td>
      <td
        className={`px-2 ${row.fits ? '' : 'text-stop'}`}
        title={`${grouped(row.inFolders)} bytes of them for folders`}
      >
        {inBinary(row.taken)}
        {!row.fits && ': do not fit'}
      </td>
      <td className="py-0.5 font-sans">
        <Button onClick={onChoose} disabled={isNow} aria-label={`Use ${nameOf(row)}`}>
          {isNow ? 'In use' : 'Use it'}
        </Button>
      </td>
    </tr>
  );
}

/** What each choice costs beside the files themselves. */
function CostChart({ rows }: { readonly rows: readonly ExtStudyRow[] }) {
  const names = useMemo(() => rows.map(nameOf), [rows]);
  const series = useMemo(
    () => [
      { name: 'structures', bytes: rows.map((row) => row.structures) },
      { name: 'lost in last blocks', bytes: rows.map((row) => row.slack) },
      { name: 'folders', bytes: rows.map((row) => row.inFolders) },
    ],
    [rows],
  );
  if (rows.length === 0) return null;
  return (
    <section aria-label="What each costs" className="mt-3">
      <h2 className="font-semibold">What each costs beside the files themselves</h2>
      <div style={{ height: 60 + rows.length * 22 }}>
        <BarChart
          label={rows
            .map((row) => `${nameOf(row)}: structures ${inBinary(row.structures)}, lost ${inBinary(row.slack)}`)
            .join('; ')}
          names={names}
          series={series}
          stacked
        />
      </div>
    </section>
  );
}

function Results({
  answer: { study },
  placed,
  content,
  onChoose,
}: {
  readonly answer: ExtStudyAnswer;
  readonly placed: PlacedPartition;
  readonly content: ExtContent;
  readonly onChoose: (row: ExtStudyRow) => void;
}) {
  const { sectorSize } = useDesigner((state) => state.placement);
  const { rows, gaps } = study;
  const thrifty = thriftiestExt(rows);
  const made = madeAs(placed, 'ext');
  const bytes = placed.sectors * sectorSize;
  const perInode = content.perInode === undefined ? usualPerInode(bytes) : exactBytes(content.perInode, sectorSize);
  const isNow = (row: ExtStudyRow) => made?.ok === true && made.value.block === row.block && perInode === row.perInode;
  return (
    <>
      <table className="mt-2 w-full">
        <thead className="sticky top-0 bg-paper">
          <tr className="border-b border-line text-right text-xs text-soft">
            <th className="py-1 text-left font-normal">block, bytes for an inode</th>
            {HEADS.map((head) => (
              <th key={head} className="px-2 font-normal">
                {head}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <RowOf
              key={nameOf(row)}
              row={row}
              isNow={isNow(row)}
              isThrifty={row === thrifty}
              onChoose={() => onChoose(row)}
            />
          ))}
        </tbody>
      </table>
      {rows.length === 0 && (
        <p className="mt-2">
          No {content.version} can be made of {inBoth(placed.sectors * sectorSize)}.
        </p>
      )}
      <CostChart rows={rows} />
      {gaps.length > 0 && (
        <details className="mt-3">
          <summary className="cursor-pointer text-soft">
            {counted(gaps.length, 'combination')} that cannot be here, and why
          </summary>
          <ul className="columns-2 gap-6 text-sm text-soft">
            {gaps.map((gap) => (
              <li key={nameOf(gap)}>
                {nameOf(gap)}: {gap.refusal.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** The study of an ext slot: every block with every number of inodes. */
export function ExtStudy({ placed, content }: { readonly placed: PlacedPartition; readonly content: ExtContent }) {
  const placement = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  const { slot } = placed;
  const tree = treeOfSlot(slot, placement.contents);
  const hasFiles = tree !== undefined && tree.length > 0;
  const about = useAbout(hasFiles);
  const site = siteIn(placed, placement);
  const sizes = about.sizes(placed.sectors * placement.sectorSize);
  const extFiles = sizes ?? ({ kind: 'tree', tree: tree ?? [] } as const);
  const answer = useStudy({ content, site, extFiles }, JSON.stringify([content, site, sizes ?? content.files]));
  const choose = (row: ExtStudyRow) => {
    const wishes = { block: inBinary(row.block), perInode: inBinary(row.perInode) };
    commit({ do: 'change slot', id: slot.id, patch: { content: { ...content, ...wishes } } });
  };
  return (
    <>
      <AboutFiles files={about} hasFiles={hasFiles}>
        {answer && <AboutText answer={answer} about={about.kind} />}
      </AboutFiles>
      {!answer ? (
        <p className="mt-4 text-soft">Computing …</p>
      ) : (
        <Results answer={answer} placed={placed} content={content} onChoose={choose} />
      )}
    </>
  );
}
