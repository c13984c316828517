'use client';

import { CHS_REACH, chs, partitionId } from '@/core/tables/mbr';
import { typeCode } from '@/core/tables/types';
import { isPartition, lastSector } from '@/core/placement/placement';
import { grouped } from '@/core/quantity/units';
import { type Echo, TextField } from '../kit/TextField';
import { useDesigner } from './context';
import { Fields, PanelHead } from './panel';

function signatureEcho(draft: string): Echo {
  return /^[0-9a-f]{8}$/.test(draft)
    ? { wrong: false, text: `partition ids ${partitionId(parseInt(draft, 16), 1)} and on` }
    : { wrong: true, text: 'Eight hexadecimal digits in lower case.' };
}

/** Cylinder, head, sector of an LBA as the table will hold it. */
function chsText(sector: number): string {
  const [head, second, low] = chs(sector) as unknown as [number, number, number];
  return `${((second & 0xc0) << 2) | low}/${head}/${second & 0x3f}`;
}

function chsRange(first: number, last: number): string {
  return first >= CHS_REACH ? 'out of reach' : `${chsText(first)} – ${chsText(last)}`;
}

/** The table in sector 0: its signature and its entries as they will be written. */
export function TablePanel() {
  const { table } = useDesigner((state) => state.document);
  const partitions = useDesigner((state) => state.placement).placed.filter(isPartition);
  const commit = useDesigner((state) => state.commit);
  return (
    <>
      <PanelHead title="MBR in sector 0" detail="four entries of 16 bytes, from byte 446" />
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
        {[0, 1, 2, 3].map((index) => {
          const one = partitions[index];
          return (
            <div key={index} className="grid grid-cols-[76px_1fr] gap-x-2.5 py-1">
              <dt className="text-soft">Entry {index + 1}</dt>
              <dd className="font-mono text-sm">
                {one ? (
                  <>
                    {one.slot.active ? '80' : '00'} · type {typeCode(one.partition.type)} · {one.slot.name}
                    <span className="block text-soft">
                      {grouped(one.start)} – {grouped(lastSector(one))}
                    </span>
                    <span className="block text-soft">cyl/head/sec {chsRange(one.start, lastSector(one))}</span>
                    <span className="block text-soft">id {one.partition.id}</span>
                  </>
                ) : (
                  <span className="text-soft">unused, 16 zero bytes</span>
                )}
              </dd>
            </div>
          );
        })}
      </dl>
      <p className="border-t border-hair pt-2 text-soft">
        Bytes 0 to 439 are for boot code; Loess leaves them zero. Cylinder addresses end at 1023/254/63; beyond, that
        value stands for “use the sector number”.
      </p>
    </>
  );
}
