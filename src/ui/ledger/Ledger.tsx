'use client';

import { useState } from 'react';
import type { Ledger as Sector, LedgerGroup } from '@/core/survey/ledger';
import { grouped } from '@/core/quantity/units';
import { Button } from '../kit/Button';

/** A place to go to: a structure by its name. */
export interface Stop {
  readonly what: string;
  readonly start: number;
}

interface Props {
  readonly sector: Sector;
  readonly sectors: number;
  readonly stops: readonly Stop[];
  readonly onGo: (sector: number) => void;
}

function Group({ group }: { group: LedgerGroup }) {
  return (
    <section className="mt-2">
      <h3 className="font-semibold">{group.title}</h3>
      {group.fields.length > 0 && (
        <table className="w-full border-collapse">
          <tbody>
            {group.fields.map((field) => (
              <tr key={`${field.offset}-${field.name}`} className="border-b border-hair align-top">
                <td className="w-[38px] py-0.5 pr-2 text-right font-mono text-sm text-soft">{field.offset}</td>
                <td className="py-0.5 pr-2">
                  {field.name}
                  {field.means && <span className="block text-sm text-soft">{field.means}</span>}
                </td>
                <td className="max-w-[190px] py-0.5 font-mono text-sm break-words">{field.text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** Where the ledger is open, and ways to go elsewhere. */
function Navigation({ sector, sectors, stops, onGo }: Props) {
  const [draft, setDraft] = useState<string>();
  const wanted = Number((draft ?? '').replaceAll(/[\s,_]/g, ''));
  const isUsable =
    draft !== undefined && draft.trim() !== '' && Number.isInteger(wanted) && wanted >= 0 && wanted < sectors;
  const here = [...stops].reverse().find((one) => one.start === sector.sector);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Button onClick={() => onGo(sector.sector - 1)} disabled={sector.sector === 0} aria-label="Sector before">
        ‹
      </Button>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (isUsable) onGo(wanted);
          if (isUsable) setDraft(undefined);
        }}
      >
        <input
          aria-label="Sector"
          aria-invalid={draft !== undefined && !isUsable}
          value={draft ?? grouped(sector.sector)}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={() => setDraft(undefined)}
          className="w-[118px] rounded-[5px] border border-edge bg-paper px-2 py-[2px] text-right font-mono text-sm"
        />
      </form>
      <Button onClick={() => onGo(sector.sector + 1)} disabled={sector.sector + 1 >= sectors} aria-label="Sector after">
        ›
      </Button>
      <select
        aria-label="Go to a structure"
        value={here ? String(stops.indexOf(here)) : ''}
        onChange={(event) => event.target.value !== '' && onGo(stops[Number(event.target.value)]!.start)}
        className="max-w-[190px] rounded-[5px] border border-edge bg-card px-1 py-[3px]"
      >
        <option value="">go to …</option>
        {stops.map((stop, i) => (
          <option key={`${stop.start}-${stop.what}`} value={i}>
            {stop.what}
          </option>
        ))}
      </select>
    </div>
  );
}

/** One sector decoded field by field, and its bytes. */
export function LedgerTable(props: Props) {
  const { sector, sectors } = props;
  return (
    <div>
      <h2 className="text-base font-semibold">Ledger: {sector.what}</h2>
      <p className="mb-2 text-soft">
        sector {grouped(sector.sector)} of {grouped(sectors)}, byte {grouped(sector.at)}
      </p>
      <Navigation {...props} />
      {sector.groups.length === 0 && <p className="mt-2 text-soft">No record is known for this sector: its bytes.</p>}
      {sector.groups.map((group, i) => (
        <Group key={i} group={group} />
      ))}
      <h3 className="mt-3 font-semibold">Bytes</h3>
      <Bytes key={sector.sector} sector={sector} />
    </div>
  );
}

/** Lines of bytes; runs of equal lines are told once. */
function Bytes({ sector }: { sector: Sector }) {
  const { lines } = sector;
  const shown = lines.filter((line, i) => i === 0 || i === lines.length - 1 || line.hex !== lines[i - 1]!.hex);
  return (
    <table className="font-mono text-[10.5px] leading-[1.5] whitespace-pre">
      <tbody>
        {shown.map((line, i) => {
          const next = shown[i + 1];
          const skipped = next && next.offset - line.offset > 16;
          return (
            <tr key={line.offset} title={line.text}>
              <td className="pr-2 text-right text-soft">{line.offset}</td>
              <td>
                {line.hex}
                {skipped && <span className="block text-soft">the same to {next.offset - 1}</span>}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
