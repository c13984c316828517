'use client';

import { usualPerInode } from '@/core/filesystems/ext/geometry';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import { type ExtStudyRow, thriftiestExt } from '@/core/filesystems/ext/study';
import { madeAs } from '@/core/filesystems/kinds';
import { treeOfSlot } from '@/core/layout/contents';
import type { PlacedPartition } from '@/core/placement/placement';
import { siteIn } from '@/core/placement/site';
import { exactBytes } from '@/core/quantity/size-language';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import type { ExtStudyAnswer } from '../../workers/study';
import { useDesigner } from '../designer/state/context';
import { AboutFiles, AboutText, useAbout } from './AboutFiles';
import { Choice, Gaps, LostCell } from './Choice';
import { CostChart, type Costs } from './CostChart';
import { useStudy } from './useStudy';

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

const COSTS: Costs<ExtStudyRow> = {
  nameOf,
  parts: {
    structures: (row) => row.structures,
    'lost in last blocks': (row) => row.slack,
    folders: (row) => row.inFolders,
  },
  told: (row) => `structures ${inBinary(row.structures)}, lost ${inBinary(row.slack)}`,
};

/** The figures of a choice, as HEADS names them. */
function Figures({ row }: { readonly row: ExtStudyRow }) {
  return (
    <>
      <td className="px-2">{grouped(row.inodes)}</td>
      <td className="px-2">{grouped(row.inodesLeft)}</td>
      <td className="px-2" title={`${grouped(row.structures)} bytes`}>
        {inBinary(row.structures)}
      </td>
      <td className="px-2" title={`${grouped(row.usable)} bytes`}>
        {inBinary(row.usable)}
      </td>
      <LostCell {...row} />
      <td
        className={`px-2 ${row.fits ? '' : 'text-stop'}`}
        title={`${grouped(row.inFolders)} bytes of them for folders`}
      >
        {inBinary(row.taken)}
        {!row.fits && ': do not fit'}
      </td>
    </>
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
            <Choice
              key={nameOf(row)}
              name={nameOf(row)}
              isNow={isNow(row)}
              marks={[row === thrifty && 'costs least']}
              onChoose={() => onChoose(row)}
            >
              <Figures row={row} />
            </Choice>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && (
        <p className="mt-2">
          No {content.version} can be made of {inBoth(placed.sectors * sectorSize)}.
        </p>
      )}
      <CostChart rows={rows} costs={COSTS} />
      {gaps.length > 0 && <Gaps gaps={gaps.map((gap) => ({ name: nameOf(gap), why: gap.refusal.reason }))} />}
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
