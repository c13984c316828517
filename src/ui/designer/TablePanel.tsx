'use client';

import { retable } from '@/core/layout/translate';
import { SIGNATURE, TABLE_NAMES, TABLES, type TableKind } from '@/core/layout/vocabulary';
import { type Entered, isEntered, lastSector } from '@/core/placement/placement';
import { grouped, sectorCount } from '@/core/quantity/units';
import { GPT_ENTRIES, gptPlaces, isGuid } from '@/core/tables/gpt';
import { CHS_REACH, chs, partitionId, PRIMARY_ENTRIES } from '@/core/tables/mbr';
import { typeName } from '@/core/tables/types';
import { Choice } from '../kit/Choice';
import { type Echo, TextField } from '../kit/TextField';
import { useDesigner } from './context';
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

function MbrTable() {
  const { table } = useDesigner((state) => state.document);
  const entered = useDesigner((state) => state.placement).placed.filter(isEntered);
  const commit = useDesigner((state) => state.commit);
  if (table.kind !== 'mbr') return null;
  return (
    <>
      <Fields>
        <TextField
          label="Signature"
          mono
          value={table.signature}
          echo={signatureEcho}
          onCommit={(signature) => commit({ do: 'change layout', patch: { table: { kind: 'mbr', signature } } })}
        />
      </Fields>
      <dl className="mt-2 border-t border-hair pt-2">
        {Array.from({ length: PRIMARY_ENTRIES }, (_, i) => (
          <Entry key={i} title={`Entry ${i + 1}`} one={entered[i]} isMbr />
        ))}
      </dl>
      <p className="border-t border-hair pt-2 text-soft">
        Bytes 0 to 439 are for boot code; Loess leaves them zero. Cylinder addresses end at 1023/254/63; beyond, that
        value stands for “use the sector number”.
      </p>
    </>
  );
}

function GptTable() {
  const { table } = useDesigner((state) => state.document);
  const { placed, sectorSize, sectors } = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  if (table.kind !== 'gpt') return null;
  const places = gptPlaces(sectorSize, sectors);
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
          onCommit={(diskId) => commit({ do: 'change layout', patch: { table: { kind: 'gpt', diskId } } })}
        />
      </Fields>
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
        {GPT_ENTRIES - entered.length} of {GPT_ENTRIES} entries are unused. Both copies say the same; each has its own
        checksums.
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
  gpt: '128 entries, a header and their copies at the end',
  none: 'a file system over the whole medium',
};

/** The table: its kind, its ids, and its entries as they will be written. */
export function TablePanel() {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const { kind } = layout.table;
  return (
    <>
      <PanelHead title={kind === 'none' ? 'No table' : TABLE_NAMES[kind]} detail={DETAILS[kind]} />
      <Fields>
        <span className="text-soft">Table</span>
        <Choice<TableKind>
          label="Kind of table"
          value={kind}
          options={TABLES.map((value) => ({ value, text: value === 'none' ? 'none' : TABLE_NAMES[value] }))}
          onChange={(next) => commit(retable(layout, next))}
        />
      </Fields>
      {kind === 'mbr' && <MbrTable />}
      {kind === 'gpt' && <GptTable />}
      {kind === 'none' && <NoTable />}
      <OpenLedger sector={0} text="Open sector 0 in the ledger" />
    </>
  );
}
