'use client';

import type { Table } from '@/core/layout/document';
import { translation } from '@/core/layout/translate';
import {
  CONTAINER_TYPES,
  type ContainerType,
  HYBRID_LIMIT,
  SIGNATURE,
  TABLE_NAMES,
  type TableKind,
  TABLES,
} from '@/core/layout/vocabulary';
import { type Container, type Entered, isEntered, lastSector } from '@/core/placement/placement';
import { grouped, inBoth, sectorCount } from '@/core/quantity/units';
import { GPT_ENTRY_LENGTH, GPT_ENTRIES, isGuid, LEAST_ARRAY } from '@/core/tables/gpt';
import { chs, CHS_REACH, partitionId, PRIMARY_ENTRIES } from '@/core/tables/mbr';
import { typeName } from '@/core/tables/types';
import { Choice, SeveralChoice } from '../../kit/Choice';
import { exactEcho } from '../../kit/size-echo';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { OpenLedger } from './OpenLedger';
import { Fields, PanelHead } from './panel';

function signatureEcho(draft: string): Echo {
  return SIGNATURE.test(draft)
    ? { wrong: false, text: `partition ids ${partitionId(parseInt(draft, 16), 1)} and on` }
    : { wrong: true, text: 'Eight hexadecimal digits in lower case.' };
}

function diskIdEcho(draft: string): Echo | undefined {
  return isGuid(draft)
    ? undefined
    : { wrong: true, text: 'A GUID in lower case: 8, 4, 4, 4 and 12 hexadecimal digits.' };
}

/** Cylinder, head, sector of an LBA as the table will hold it. */
function chsText(sector: number): string {
  const [head, second, low] = chs(sector) as unknown as [number, number, number];
  return `${((second & 0xc0) << 2) | low}/${head}/${second & 0x3f}`;
}

function chsRange(first: number, last: number): string {
  return first >= CHS_REACH ? 'out of reach' : `${chsText(first)} – ${chsText(last)}`;
}

function Entry({ title, one, isMbr }: { title: string; one: Entered | undefined; isMbr: boolean }) {
  return (
    <div className="grid grid-cols-[76px_1fr] gap-x-2.5 py-1">
      <dt className="text-soft">{title}</dt>
      <dd className="min-w-0 font-mono text-sm">
        {one ? (
          <>
            <span className="block truncate">
              {isMbr && `${one.slot.active ? '80' : '00'} · type `}
              {typeName(one.entry.type)} · {one.slot.name}
            </span>
            <span className="block text-soft">
              {grouped(one.start)} – {grouped(lastSector(one))}
            </span>
            {isMbr && <span className="block text-soft">cyl/head/sec {chsRange(one.start, lastSector(one))}</span>}
            <span className="block text-soft">id {one.entry.id}</span>
          </>
        ) : (
          <span className="text-soft">unused, 16 zero bytes</span>
        )}
      </dd>
    </div>
  );
}

function useTable<Kind extends Table['kind']>(kind: Kind) {
  const table = useDesigner((state) => state.document.table);
  const commit = useDesigner((state) => state.commit);
  const own = table.kind === kind ? (table as Extract<Table, { kind: Kind }>) : undefined;
  return {
    table: own,
    change: (patch: object) => own && commit({ do: 'change layout', patch: { table: { ...own, ...patch } as Table } }),
  };
}

/** The container of logical partitions, as sector 0 will hold it. */
function ContainerEntry({ one }: { one: Container }) {
  return (
    <div className="grid grid-cols-[76px_1fr] gap-x-2.5 py-1">
      <dt className="text-soft">Entry {one.number}</dt>
      <dd className="min-w-0 font-mono text-sm">
        <span className="block">
          00 · type {typeName(one.type)} · container of {one.slots.length}
        </span>
        <span className="block text-soft">
          {grouped(one.start)} – {grouped(lastSector(one))}
        </span>
        <span className="block text-soft">cyl/head/sec {chsRange(one.start, lastSector(one))}</span>
      </dd>
    </div>
  );
}

function ChainFields() {
  const { table, change } = useTable('mbr');
  const { containers } = useDesigner((state) => state.placement);
  if (!table || containers.length === 0) return null;
  return (
    <>
      <span className="text-soft">Records</span>
      <Choice
        label="Where the records of logical partitions stand"
        dense
        value={table.packed ? 'packed' : 'grain'}
        options={[
          { value: 'grain', text: 'a grain ahead' },
          { value: 'packed', text: 'one sector ahead' },
        ]}
        onChange={(value) => change({ packed: value === 'packed' ? true : undefined })}
      />
      <span className="text-soft">Container</span>
      <Choice<ContainerType | 'rule'>
        label="Type of the container"
        dense
        value={table.containerType ?? 'rule'}
        options={[{ value: 'rule', text: 'by rule' }, ...CONTAINER_TYPES.map((value) => ({ value, text: value }))]}
        onChange={(value) => change({ containerType: value === 'rule' ? undefined : value })}
      />
    </>
  );
}

function MbrTable() {
  const { table, change } = useTable('mbr');
  const { placed, containers } = useDesigner((state) => state.placement);
  if (!table) return null;
  const entered = placed.filter(isEntered);
  const primaries = entered.filter((one) => one.recordAt === undefined);
  const logical = entered.filter((one) => one.recordAt !== undefined);
  return (
    <>
      <Fields>
        <TextField
          label="Signature"
          mono
          value={table.signature}
          echo={signatureEcho}
          onCommit={(signature) => change({ signature })}
        />
        <ChainFields />
      </Fields>
      <dl className="mt-2 border-t border-hair pt-2">
        {Array.from({ length: PRIMARY_ENTRIES }, (_, i) => {
          const box = containers.find((one) => one.number === i + 1);
          const own = primaries.find((one) => one.entry.number === i + 1);
          return box ? (
            <ContainerEntry key={i} one={box} />
          ) : (
            <Entry key={i} title={`Entry ${i + 1}`} one={own} isMbr />
          );
        })}
        {logical.map((one) => (
          <Entry key={one.slot.id} title={`Logical ${one.entry.number}`} one={one} isMbr />
        ))}
      </dl>
      <p className="border-t border-hair pt-2 text-soft">
        Bytes 0 to 439 are for boot code; Loess leaves them zero. Cylinder addresses end at 1023/254/63; beyond, that
        value stands for “use the sector number”.
      </p>
    </>
  );
}

function entriesEcho(draft: string): Echo {
  const n = Number(draft);
  return Number.isInteger(n) && n >= 4 && n <= 1024
    ? { wrong: false, text: `${inBoth(n * GPT_ENTRY_LENGTH)}; UEFI asks for ${inBoth(LEAST_ARRAY)} at least` }
    : { wrong: true, text: 'A whole number from 4 to 1024.' };
}

/** What can be otherwise about a GPT: room for a loader, and entries for readers that know only an MBR. */
function GptShapeFields() {
  const { table, change } = useTable('gpt');
  const slots = useDesigner((state) => state.document.slots);
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  if (!table) return null;
  const hybrid = table.hybrid ?? [];
  const partitions = slots.filter((slot) => slot.kind === 'partition');
  return (
    <Fields>
      <TextField
        label="Entries"
        mono
        value={String(table.entries ?? GPT_ENTRIES)}
        echo={entriesEcho}
        onCommit={(text) => change({ entries: Number(text) === GPT_ENTRIES ? undefined : Number(text) })}
      />
      <TextField
        label="They begin"
        mono
        value={table.array ?? ''}
        placeholder="in sector 2"
        echo={exactEcho(sectorSize, { empty: 'in sector 2, as usual; elsewhere to leave room for a loader' })}
        onCommit={(text) => change({ array: text.trim() === '' ? undefined : text.trim() })}
      />
      <span className="self-start pt-1 text-soft">Also in MBR</span>
      <SeveralChoice
        label="Partitions that an MBR shows too"
        dense
        values={hybrid}
        options={partitions.map((slot) => ({
          value: slot.id,
          text: slot.name,
          disabled: !hybrid.includes(slot.id) && hybrid.length >= HYBRID_LIMIT ? 'Three at most.' : undefined,
        }))}
        onChange={(ids) => change({ hybrid: ids.length === 0 ? undefined : ids.slice(0, HYBRID_LIMIT) })}
      />
      <span className="text-soft">Protective</span>
      <Choice
        label="Mark on the protective entry"
        dense
        value={table.markProtective ? 'marked' : 'plain'}
        options={[
          { value: 'plain', text: 'unmarked' },
          { value: 'marked', text: 'marked active' },
        ]}
        onChange={(value) => change({ markProtective: value === 'marked' ? true : undefined })}
      />
    </Fields>
  );
}

function GptTable() {
  const { table, change } = useTable('gpt');
  const { placed, gpt: places } = useDesigner((state) => state.placement);
  if (!table || !places) return null;
  const entered = placed.filter(isEntered);
  const range = (from: number, to: number) => `${grouped(from)} – ${grouped(to)}`;
  const parts = [
    ['Protective', '0'],
    ['Header', '1'],
    ['Entries', range(places.array, places.firstUsable - 1)],
    ['Usable', range(places.firstUsable, places.lastUsable)],
    ['Their copy', range(places.backupArray, places.backupHeader - 1)],
    ['Header copy', grouped(places.backupHeader)],
  ] as const;
  return (
    <>
      <Fields>
        <TextField
          label="Disk id"
          mono
          value={table.diskId}
          echo={diskIdEcho}
          onCommit={(diskId) => change({ diskId })}
        />
      </Fields>
      <GptShapeFields />
      <dl className="mt-2 grid grid-cols-[76px_1fr] gap-x-2.5 border-t border-hair pt-2">
        {parts.map(([name, where]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="font-mono text-sm">{where}</dd>
          </div>
        ))}
      </dl>
      <dl className="mt-2 border-t border-hair pt-2">
        {entered.map((one) => (
          <Entry key={one.slot.id} title={`Entry ${one.entry.number}`} one={one} isMbr={false} />
        ))}
      </dl>
      <p className="border-t border-hair pt-2 text-soft">
        {places.entries - entered.length} of {places.entries} entries are unused. Both copies say the same; each has its
        own checksums.
      </p>
    </>
  );
}

function NoTable() {
  const { sectors } = useDesigner((state) => state.placement);
  return (
    <p className="mt-2 border-t border-hair pt-2 text-soft">
      One volume from the first of {sectorCount(sectors)} to the last, as old instruments and cameras expect it of small
      cards. Nothing says where it ends, and there are no ids of partitions.
    </p>
  );
}

const DETAILS: Readonly<Record<TableKind, string>> = {
  mbr: 'four entries of 16 bytes, from byte 446 of sector 0',
  gpt: 'entries, a header and their copies at the end',
  none: 'a file system over the whole medium',
};

/** The table: its kind, its ids, and its entries as they will be written. */
export function TablePanel() {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const notify = useDesigner((state) => state.notify);
  const { kind } = layout.table;
  const change = (next: TableKind) => {
    const { edit, remarks } = translation(layout, next);
    commit(edit);
    if (remarks.length > 0) notify(`${remarks.join(' ')} Undo brings everything back.`);
  };
  return (
    <>
      <PanelHead title={kind === 'none' ? 'No table' : TABLE_NAMES[kind]} detail={DETAILS[kind]} />
      <Fields>
        <span className="text-soft">Table</span>
        <Choice<TableKind>
          label="Kind of table"
          value={kind}
          options={TABLES.map((value) => ({ value, text: value === 'none' ? 'none' : TABLE_NAMES[value] }))}
          onChange={change}
        />
      </Fields>
      {kind === 'mbr' && <MbrTable />}
      {kind === 'gpt' && <GptTable />}
      {kind === 'none' && <NoTable />}
      <OpenLedger sector={0} text="Open sector 0 in the ledger" />
    </>
  );
}
