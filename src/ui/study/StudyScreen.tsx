'use client';

import { siteIn } from '@/core/placement/site';
import type { Content, ContentOf } from '@/core/filesystems/shapes';
import { madeAs } from '@/core/filesystems/kinds';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import type { LayoutView } from '@/contract/layouts';
import { loadOfTree, type StudyRow } from '@/core/filesystems/fat/study';
import { leastClusters, mostClusters } from '@/core/filesystems/fat/variants';
import { treeOfSlot } from '@/core/layout/contents';
import { fatQuestion } from '@/core/filesystems/fat/kind';
import { isPartition, type PlacedPartition } from '@/core/placement/placement';
import { grouped, inBinary, inBoth, inDecimal } from '@/core/quantity/units';
import type { StudiedFiles, StudyAnswer } from '../../workers/study';
import { DesignerProvider, useDesigner } from '../designer/state/context';
import { useUndoKeys } from '../designer/keys/useUndoKeys';
import { buttonClass } from '../kit/Button';
import { Select } from '../kit/Select';
import { TopBar } from '../kit/TopBar';
import { AboutFiles, AboutText, useAbout } from './AboutFiles';
import { Choice, Gaps, LostCell } from './Choice';
import { CostChart, type Costs } from './CostChart';
import { ExtStudy } from './ExtStudy';
import { useStudy } from './useStudy';
import { Notice } from '../designer/bars/Notice';
import { UndoRedo } from '../designer/bars/UndoRedo';

const COPES = { yes: '●', mostly: '◐', no: '○' } as const;
const COPES_TEXTS = { yes: 'reads it', mostly: 'reads it mostly', no: 'does not read it' } as const;

const nameOf = (row: Pick<StudyRow, 'variant' | 'clusterBytes'>) => `FAT${row.variant}, ${inBinary(row.clusterBytes)}`;

/** The columns of the study; the borders of a variant stand in the tooltip of the margin. */
function Head({ readers }: { readonly readers: StudyRow['readers'] }) {
  return (
    <thead className="sticky top-0 bg-paper">
      <tr className="border-b border-line text-right text-xs text-soft">
        <th className="py-1 text-left font-normal">variant, cluster</th>
        <th className="px-2 font-normal">clusters</th>
        <th className="px-2 font-normal">to a border</th>
        <th className="px-2 font-normal">one FAT</th>
        <th className="px-2 font-normal">usable</th>
        <th className="px-2 font-normal">lost in last clusters</th>
        <th className="px-2 font-normal">files and folders take</th>
        <th className="px-2 font-normal">cluster 2 at</th>
        {readers.map(({ who, short }, i) => (
          <th key={who} title={who} className={`text-center font-normal ${i === 0 ? 'pr-1 pl-2' : 'px-1'}`}>
            {i === 0 ? `read by: ${short}` : short}
          </th>
        ))}
        <th />
      </tr>
    </thead>
  );
}

/** Both FATs, folders, and what is lost in last clusters. */
const COSTS: Costs<StudyRow> = {
  nameOf,
  parts: {
    'both FATs': (row) => 2 * row.fatBytes,
    'lost in last clusters': (row) => row.slack,
    folders: (row) => row.inFolders,
  },
  told: (row) => `FATs ${inBinary(2 * row.fatBytes)}, lost ${inBinary(row.slack)}, folders ${inBinary(row.inFolders)}`,
};

/** The figures of a choice, as the head names them. */
function Figures({ row }: { readonly row: StudyRow }) {
  const borders = `FAT${row.variant} has ${grouped(leastClusters(row.variant))} to ${grouped(mostClusters(row.variant))} clusters`;
  return (
    <>
      <td className="px-2">{grouped(row.clusters)}</td>
      <td className={`px-2 ${row.margin < 16 ? 'text-risk' : ''}`} title={borders}>
        {Number.isFinite(row.margin) ? grouped(row.margin) : '–'}
      </td>
      <td className="px-2">{inBinary(row.fatBytes)}</td>
      <td className="px-2" title={`${grouped(row.usable)} bytes, ${inDecimal(row.usable)}`}>
        {inBinary(row.usable)}
      </td>
      <LostCell {...row} />
      <td
        className={`px-2 ${row.fits ? '' : 'text-stop'}`}
        title={`${grouped(row.taken)} bytes in whole clusters, ${grouped(row.inFolders)} of them for folders`}
      >
        {inBinary(row.taken)}
        {!row.fits && (row.rootShort > 0 ? ': root directory full' : ': do not fit')}
      </td>
      <td className="px-2">
        {inBinary(row.cluster2)}
        {!row.onUnit && <span title="Not on the write unit of the medium"> off the unit</span>}
      </td>
      {row.readers.map(({ who, copes }) => (
        <td key={who} className="px-1 text-center font-sans" title={`${who}: ${COPES_TEXTS[copes]}`}>
          <span role="img" aria-label={`${who}: ${COPES_TEXTS[copes]}`}>
            {COPES[copes]}
          </span>
        </td>
      ))}
    </>
  );
}

function Legend({ rows }: { readonly rows: readonly StudyRow[] }) {
  const [first] = rows;
  return (
    <p className="mt-1 text-sm text-soft">
      Read by {first?.readers.map((one) => one.who).join('; ')}. {COPES.yes} yes, {COPES.mostly} mostly, {COPES.no} no.
      Facts of the trade; a device of one’s own may differ.
    </p>
  );
}

function chosenRow(rows: readonly StudyRow[], placed: PlacedPartition): StudyRow | undefined {
  const fat = madeAs(placed, 'fat');
  if (!fat?.ok) return undefined;
  const { variant, clusterBytes } = fat.value;
  return rows.find((row) => row.variant === variant && row.clusterBytes === clusterBytes);
}

/** The row that takes least for the files of those that hold them; the most usable bytes where nothing is known of files. */
function thriftiest(rows: readonly StudyRow[], files: number): StudyRow | undefined {
  const fitting = rows.filter((row) => row.fits);
  const cost = (row: StudyRow) => (files > 0 ? row.taken + 2 * row.fatBytes : -row.usable);
  return [...fitting].sort((a, b) => cost(a) - cost(b))[0];
}

interface ResultsProps {
  readonly answer: StudyAnswer;
  readonly placed: PlacedPartition;
  readonly onChoose: (row: StudyRow) => void;
}

/** Every variant and cluster size that can be here, what each costs, and what cannot be. */
function Results({ answer, placed, onChoose }: ResultsProps) {
  const { sectorSize } = useDesigner((state) => state.placement);
  const { rows, byRule } = answer.study;
  const now = chosenRow(rows, placed);
  const thrifty = thriftiest(rows, answer.files);
  return (
    <>
      <table className="mt-2 w-full">
        <Head readers={rows[0]?.readers ?? []} />
        <tbody>
          {rows.map((row) => (
            <Choice
              key={nameOf(row)}
              name={nameOf(row)}
              isNow={row === now}
              marks={[
                row.variant === byRule?.variant && row.clusterBytes === byRule.clusterBytes && 'by rule',
                row === thrifty && 'costs least',
              ]}
              onChoose={() => onChoose(row)}
            >
              <Figures row={row} />
            </Choice>
          ))}
        </tbody>
      </table>
      {rows.length === 0 && <p className="mt-2">No FAT volume can be made of {inBoth(placed.sectors * sectorSize)}.</p>}
      <Legend rows={rows} />
      <CostChart rows={rows} costs={COSTS} />
      <Gaps
        gaps={answer.study.gaps.map((gap) => ({
          name: nameOf(gap),
          why: `${gap.refusal.reason}${gap.refusal.clusters > 0 ? `, ${grouped(gap.refusal.clusters)} clusters` : ''}`,
        }))}
      />
    </>
  );
}

function Study({ placed, content }: { readonly placed: PlacedPartition; readonly content: ContentOf<'fat'> }) {
  const placement = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  const { sectorSize, contents } = placement;
  const { slot } = placed;
  const tree = treeOfSlot(slot, contents);
  const label = content.label ?? '';
  const about = useAbout(tree !== undefined && tree.length > 0);
  const load = useMemo(() => loadOfTree(tree ?? [], label), [tree, label]);
  const fat = madeAs(placed, 'fat');
  const usable = fat?.ok ? fat.value.bytesForFiles : placed.sectors * sectorSize;
  const files: StudiedFiles = about.sizes(usable) ?? { kind: 'load', load };
  const answer = useStudy({ question: fatQuestion(content, siteIn(placed, placement)), files });
  const choose = (row: StudyRow) => {
    commit({
      do: 'change slot',
      id: slot.id,
      patch: { content: { ...content, variant: row.variant, cluster: inBinary(row.clusterBytes) } },
    });
  };
  return (
    <>
      <AboutFiles files={about} hasFiles={tree !== undefined && tree.length > 0}>
        {answer && <AboutText answer={answer} about={about.kind} />}
      </AboutFiles>
      {!answer ? (
        <p className="mt-4 text-soft">Computing …</p>
      ) : (
        <Results answer={answer} placed={placed} onChoose={choose} />
      )}
    </>
  );
}

/** True for what is studied: FAT and ext. */
const isStudied = (content: Content | undefined) => content?.kind === 'fat' || content?.kind === 'ext';

function Screen({ first }: { readonly first: string | undefined }) {
  const view = useDesigner((state) => state.view);
  const placement = useDesigner((state) => state.placement);
  const [asked, setAsked] = useState(first);
  useUndoKeys();
  const volumes = placement.placed.filter(isPartition).filter(({ slot }) => isStudied(slot.content));
  const placed = volumes.find(({ slot }) => slot.id === asked) ?? volumes[0];
  const content = placed?.slot.content;
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <TopBar title={placement.layout.name} detail={placed ? `study of ${placed.slot.name}` : 'study'}>
        <UndoRedo />
        {placed && (
          <Link className={buttonClass()} href={`/layouts/${view.id}/contents?slot=${placed.slot.id}`}>
            Contents
          </Link>
        )}
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <Notice />
      <main id="main" tabIndex={-1} className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
        {placed && (content?.kind === 'fat' || content?.kind === 'ext') ? (
          <>
            <p className="mb-2 flex items-center gap-3">
              <span className="text-soft">Volume</span>
              <span className="w-64">
                <Select
                  label="Volume"
                  value={placed.slot.id}
                  options={volumes.map(({ slot }) => ({ value: slot.id, text: slot.name }))}
                  onChange={setAsked}
                />
              </span>
              <span className="font-mono text-sm text-soft">
                {inBoth(placed.sectors * placement.sectorSize)}, from sector {grouped(placed.start)}, unit of the medium{' '}
                {inBinary(placement.dataUnit)}
              </span>
            </p>
            {content.kind === 'fat' ? (
              <Study key={placed.slot.id} placed={placed} content={content} />
            ) : (
              <ExtStudy key={placed.slot.id} placed={placed} content={content} />
            )}
          </>
        ) : (
          <p className="text-soft">
            No slot of this layout holds FAT or ext. Choose one in the designer, then study it.
          </p>
        )}
      </main>
    </div>
  );
}

/** The screen that compares every variant and cluster size for a FAT slot. */
export function StudyScreen({ view, first }: { readonly view: LayoutView; readonly first: string | undefined }) {
  return (
    <DesignerProvider view={view}>
      <Screen first={first} />
    </DesignerProvider>
  );
}
