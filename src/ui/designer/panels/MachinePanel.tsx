'use client';

import type { Board, Layout, Machine } from '@/core/layout/document';
import { useState } from 'react';
import { machineEdit } from '@/core/layout/edits';
import { readLines } from '@/core/layout/line-help';
import { writeLine } from '@/core/layout/line-write';
import { boardOf } from '@/core/layout/medium-spec';
import {
  BIOS_LIMIT_NAMES,
  type BiosLimit,
  BOOTS,
  type Boots,
  type Loader,
  type LoaderBringer,
  LOADERS,
  SLOT_NAME_LIMIT,
  TABLE_NAMES,
  type TableKind,
  TABLES,
  type Use,
  USES,
} from '@/core/layout/vocabulary';
import {
  BOARD_FAMILIES,
  type BoardFamily,
  boardProfile,
  FIRST_RULES,
  FIRST_TEXTS,
  type FirstRule,
} from '@/core/medium/boards';
import { exactText, inBinary } from '@/core/quantity/units';
import { Choice, SeveralChoice } from '../../kit/Choice';
import { Lines } from '../../kit/Lines';
import { Select } from '../../kit/Select';
import { exactEcho } from '../../kit/size-echo';
import { TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { nameEcho, PAGE_CHOICES, pageSizeChosen } from '../state/editing';
import { Fields, PanelHead } from './panel';

const BOOT_TEXTS: Readonly<Record<Boots, string>> = { uefi: 'UEFI', bios: 'BIOS', board: 'a board' };

type OwnBoard = Exclude<Board, { family: string }>;

const OWN_BOARDS = 'loess:boards';

/** Profiles of one's own that were made in this browser, to be used again. */
function keptBoards(): OwnBoard[] {
  try {
    const kept = JSON.parse(localStorage.getItem(OWN_BOARDS) ?? '[]') as OwnBoard[];
    return Array.isArray(kept) ? kept : [];
  } catch {
    return [];
  }
}

function keepBoard(board: OwnBoard): void {
  try {
    const others = keptBoards().filter((one) => one.name !== board.name);
    localStorage.setItem(OWN_BOARDS, JSON.stringify([board, ...others].slice(0, 50)));
  } catch {
    // A browser without storage keeps the profile in the layout only.
  }
}

const NEW_BOARD: OwnBoard = {
  name: 'My board',
  ranges: [{ name: 'First-stage loader', at: '32 KiB', length: '480 KiB' }],
  tables: ['mbr', 'gpt'],
  first: 'any',
};

function OwnBoardFields({ board, onChange }: { board: OwnBoard; onChange: (board: OwnBoard) => void }) {
  const text = board.ranges.map(({ name, at, length }) => writeLine({ kind: 'raw', name, at, length })).join('\n');
  const read = (draft: string): OwnBoard['ranges'] | string => {
    const lines = readLines(draft);
    const bad = lines.find((one) => one.error);
    if (bad) return `Line ${bad.number}: ${bad.error!.message}`;
    const other = lines.find((one) => one.parsed?.kind !== 'raw');
    if (other) return `Line ${other.number}: say raw, from, and a length.`;
    if (lines.length > 16) return 'A board has 16 ranges at most.';
    const choice = board.ranges.some((range) => range.instead);
    return lines.flatMap(({ parsed }) =>
      parsed?.kind === 'raw'
        ? [{ name: parsed.name, at: parsed.at, length: parsed.length, ...(choice && { instead: true as const }) }]
        : [],
    );
  };
  return (
    <>
      <TextField
        label="Its name"
        value={board.name}
        echo={nameEcho('A board', SLOT_NAME_LIMIT)}
        onCommit={(name) => onChange({ ...board, name: name.trim() })}
      />
      <TextField
        label="Source"
        value={board.source ?? ''}
        placeholder="manual, chapter, page"
        onCommit={(source) => onChange({ ...board, source: source.trim() || undefined })}
      />
      <span className="self-start pt-1 text-soft">Ranges</span>
      <Lines
        label="Raw ranges of the board, one a line"
        value={text}
        wrong={(draft) => {
          const ranges = read(draft);
          return typeof ranges === 'string' ? ranges : undefined;
        }}
        onCommit={(draft) => {
          const ranges = read(draft);
          if (typeof ranges !== 'string') onChange({ ...board, ranges });
        }}
      />
      <span className="text-soft">It needs</span>
      <Choice
        label="Which ranges it needs"
        dense
        value={board.ranges.some((range) => range.instead) ? 'one' : 'all'}
        options={[
          { value: 'all', text: 'all of them' },
          { value: 'one', text: 'one of them' },
        ]}
        onChange={(value) =>
          onChange({
            ...board,
            ranges: board.ranges.map(({ name, at, length }) => ({
              name,
              at,
              length,
              ...(value === 'one' && { instead: true as const }),
            })),
          })
        }
      />
      <span className="text-soft">Tables</span>
      <SeveralChoice<TableKind>
        label="Tables that it can start from"
        dense
        values={board.tables}
        options={TABLES.map((value) => ({ value, text: value === 'none' ? 'none' : TABLE_NAMES[value] }))}
        onChange={(tables) => tables.length > 0 && onChange({ ...board, tables })}
      />
      <span className="text-soft">Partitions</span>
      <Select<FirstRule>
        label="What it reads of the partitions"
        value={board.first}
        options={FIRST_RULES.map((value) => ({ value, text: FIRST_TEXTS[value] }))}
        onChange={(first) => onChange({ ...board, first })}
      />
    </>
  );
}

interface FieldProps {
  readonly machine: Machine;
  readonly change: (patch: Parameters<typeof machineEdit>[1]) => void;
}

function BoardFields({ machine, change }: FieldProps) {
  const layout = useDesigner((state) => state.document);
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const [own] = useState(keptBoards);
  const { board } = machine;
  const profile = boardOf(layout);
  const value = board === undefined ? '' : 'family' in board ? board.family : 'own';
  const choose = (next: string) => {
    if (next === '') change({ board: undefined });
    else if (next === 'own') change({ board: NEW_BOARD });
    else if (next.startsWith('own:')) change({ board: own[Number(next.slice(4))] });
    else change({ board: { family: next as BoardFamily } });
  };
  return (
    <>
      <span className="text-soft">Board</span>
      <Select
        label="Board"
        value={value}
        options={[
          { value: '', text: 'not said' },
          ...BOARD_FAMILIES.map((family) => ({ value: family, text: boardProfile(family).name })),
          ...own.map((one, i) => ({ value: `own:${i}`, text: `${one.name} (yours)` })),
          {
            value: 'own',
            text: value === 'own' && profile ? `${profile.name} (in this layout)` : 'a new one of your own',
          },
        ]}
        onChange={choose}
      />
      {board && !('family' in board) && (
        <OwnBoardFields
          board={board}
          onChange={(next) => {
            keepBoard(next);
            change({ board: next });
          }}
        />
      )}
      {profile && board && 'family' in board && (
        <p className="col-span-2 text-sm text-soft">
          {profile.ranges
            .map(
              (range) =>
                `${range.name} at ${range.at === 0 ? 'byte 0' : inBinary(range.at)}, ${exactText(range.length, sectorSize)}`,
            )
            .join(profile.ranges.some((one) => one.instead) ? ', or ' : '; ')}
          {profile.ranges.length > 0 && '. '}
          {profile.tables.map((kind) => TABLE_NAMES[kind]).join(' or ')}; {FIRST_TEXTS[profile.first]}. Source:{' '}
          {profile.source}.
        </p>
      )}
    </>
  );
}

const USE_TEXTS: Readonly<Record<Use, string>> = {
  desktop: 'desktop',
  server: 'server',
  device: 'device',
  storage: 'data only',
};

const LOADER_TEXTS: Readonly<Record<Loader, string>> = {
  'active partition': 'the active partition',
  gap: 'the gap ahead of the first partition',
  'bios boot partition': 'the BIOS boot partition',
};

/** Where the ESP is, where a BIOS finds its loader, and how far it reads. */
function FirmwareFields({ boots, machine, change }: FieldProps & { readonly boots: Layout['boots'] }) {
  return (
    <>
      {boots.includes('uefi') && (
        <>
          <span className="text-soft">ESP</span>
          <Choice<'here' | 'elsewhere' | 'kept'>
            label="Where the ESP is"
            dense
            value={machine.esp ?? 'here'}
            options={[
              { value: 'here', text: 'in this layout' },
              { value: 'elsewhere', text: 'on another disk' },
              { value: 'kept', text: 'in what stays' },
            ]}
            onChange={(esp) => change({ esp: esp === 'here' ? undefined : esp })}
          />
        </>
      )}
      {boots.includes('bios') && (
        <>
          <span className="text-soft">Loader in</span>
          <Select<Loader | 'unknown'>
            label="Where the loader of the BIOS lies"
            value={machine.loader ?? 'unknown'}
            options={[
              ...LOADERS.map((value) => ({ value, text: LOADER_TEXTS[value] })),
              { value: 'unknown', text: 'not said' },
            ]}
            onChange={(loader) => change({ loader: loader === 'unknown' ? undefined : loader })}
          />
          <span className="text-soft">Brought by</span>
          <Choice<LoaderBringer | 'unknown'>
            label="Who brings the loader of the BIOS"
            dense
            value={machine.loaderFrom ?? 'unknown'}
            options={[
              { value: 'installer', text: 'an installer' },
              { value: 'file', text: 'a file' },
              { value: 'own code', text: 'Loess' },
              { value: 'unknown', text: 'not said' },
            ]}
            onChange={(from) => change({ loaderFrom: from === 'unknown' ? undefined : from })}
          />
          <span className="text-soft">BIOS reads</span>
          <Select<BiosLimit | ''>
            label="How far the BIOS reads"
            value={machine.biosLimit ?? ''}
            options={[
              { value: '', text: 'all of the medium' },
              ...BIOS_LIMIT_NAMES.map((value) => ({ value, text: `up to its ${value} wall` })),
            ]}
            onChange={(limit) => change({ biosLimit: limit === '' ? undefined : limit })}
          />
        </>
      )}
    </>
  );
}

/** What the machine is for, its memory, and where its root is. */
function UseFields({ machine, change }: FieldProps) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  return (
    <>
      <span className="text-soft">Use</span>
      <Select<Use | 'unknown'>
        label="What the machine is for"
        value={machine.use ?? 'unknown'}
        options={[...USES.map((value) => ({ value, text: USE_TEXTS[value] })), { value: 'unknown', text: 'not said' }]}
        onChange={(use) => change({ use: use === 'unknown' ? undefined : use })}
      />
      <TextField
        label="Memory"
        mono
        value={machine.memory ?? ''}
        placeholder="not said"
        echo={exactEcho(sectorSize, { empty: 'needed for sizes like “memory × 1.5”' })}
        onCommit={(text) => change({ memory: text.trim() === '' ? undefined : text.trim() })}
      />
      <span className="text-soft">Hibernates</span>
      <Choice
        label="Whether the machine hibernates"
        dense
        value={machine.hibernates ? 'yes' : 'no'}
        options={[
          { value: 'yes', text: 'yes' },
          { value: 'no', text: 'no, or not said' },
        ]}
        onChange={(value) => change({ hibernates: value === 'yes' ? true : undefined })}
      />
      <span className="text-soft">Its pages</span>
      <Choice
        label="Pages of its memory"
        dense
        value={String(machine.pageSize ?? 'not said')}
        options={[{ value: 'not said', text: 'not said: 4 KiB' }, ...PAGE_CHOICES]}
        onChange={(value) => change({ pageSize: pageSizeChosen(value) })}
      />
      <span className="text-soft">Root</span>
      <Choice
        label="Where the root of the system is"
        dense
        value={machine.root ?? 'here'}
        options={[
          { value: 'here', text: 'in this layout, if anywhere' },
          { value: 'elsewhere', text: 'on another disk' },
        ]}
        onChange={(root) => change({ root: root === 'elsewhere' ? root : undefined })}
      />
    </>
  );
}

/** What is known about the machine: firmware, board, memory, use. Every answer may be missing. */
export function MachinePanel() {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const { boots, machine = {} } = layout;
  const change = (patch: Parameters<typeof machineEdit>[1]) => commit(machineEdit(layout, patch));
  return (
    <>
      <PanelHead title="Machine" detail="what starts the medium, and what it is for; nothing has to be said" />
      <Fields>
        <span className="text-soft">Starts from</span>
        <SeveralChoice
          label="What starts from this medium"
          values={boots}
          options={BOOTS.map((value) => ({ value, text: BOOT_TEXTS[value] }))}
          onChange={(next) =>
            commit({ do: 'change layout', patch: { boots: BOOTS.filter((one) => next.includes(one)) } })
          }
        />
        <FirmwareFields boots={boots} machine={machine} change={change} />
        {boots.includes('board') && <BoardFields machine={machine} change={change} />}
      </Fields>
      <Fields>
        <UseFields machine={machine} change={change} />
      </Fields>
    </>
  );
}
