'use client';

import { BELONGS, identifiersOf, type IdentifiedMedium } from '@/core/handover/identifiers';
import { IDS } from '@/core/naming/named';
import type { MachineMedium } from '@/core/naming/nameable';
import type { NamedBy } from '@/core/layout/vocabulary';
import { CopyButton } from './CopyButton';

const HEADS: Readonly<Record<Exclude<NamedBy, 'device name'>, string>> = {
  UUID: 'UUID, of the file system',
  PARTUUID: 'PARTUUID, of the partition',
  LABEL: 'LABEL, of the file system',
  PARTLABEL: 'PARTLABEL, of the partition',
};

function MediumIds({ medium, table, partitions }: IdentifiedMedium) {
  return (
    <section aria-label={`Ids of ${medium.name}`} className="mb-5">
      <h2 className="flex items-center gap-2 text-base font-semibold">
        {medium.name}
        {table && (
          <span className="font-mono text-sm font-normal text-soft">
            {table.kind} {table.id} <CopyButton text={table.id} name={`Copy the id of the ${table.kind}`} />
          </span>
        )}
      </h2>
      <table className="mt-1 w-full text-sm">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="py-1 pr-2 text-right font-normal">no.</th>
            <th className="pr-3 font-normal">slot</th>
            {IDS.map((by) => (
              <th key={by} className="pr-3 font-normal">
                {HEADS[by as keyof typeof HEADS]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {partitions.map(({ of, identifiers }) => (
            <tr key={of.placed.slot.id} className="border-b border-hair">
              <td className="py-1 pr-2 text-right tabular-nums">{of.number ?? '–'}</td>
              <td className="pr-3 font-semibold">{of.placed.slot.name}</td>
              {IDS.map((by) => {
                const one = identifiers.find((id) => id.by === by);
                return (
                  <td key={by} className="pr-3 font-mono">
                    {one ? (
                      <span className="inline-flex items-center">
                        <span className="break-all">{one.name}</span>
                        <CopyButton text={one.name} name={`Copy ${by} of ${of.placed.slot.name}`} />
                      </span>
                    ) : (
                      <span className="text-soft">
                        {by === 'UUID' && of.mounted?.known === 'later' ? 'made later' : '–'}
                      </span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Every id of the media, each copied with one press, and where it belongs. */
export function IdsPart({ media }: { readonly media: readonly MachineMedium[] }) {
  return (
    <>
      {identifiersOf(media).map((one) => (
        <MediumIds key={one.medium.name} {...one} />
      ))}
      <dl className="grid max-w-[980px] grid-cols-[110px_1fr] gap-x-3 gap-y-1">
        {IDS.map((by) => (
          <div key={by} className="contents">
            <dt className="font-mono text-sm">{by}=</dt>
            <dd className="text-soft">{BELONGS[by as keyof typeof BELONGS]}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
