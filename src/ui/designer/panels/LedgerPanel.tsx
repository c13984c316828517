'use client';

import { useEffect, useMemo, useState } from 'react';
import { compose } from '@/core/compose/compose';
import { composedSource, type ReadStored } from '@/core/compose/source';
import { stopsAmong } from '@/core/findings/layout/finding';
import { referredTo } from '@/core/layout/contents';
import type { Placement } from '@/core/placement/placement';
import { type Ledger as Sector, ledgerOf } from '@/core/survey/ledger';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { surveyMedium } from '@/core/survey/survey';
import { storedUrl } from '../../api';
import { Button } from '../../kit/Button';
import { LedgerTable, type Stop } from '../../ledger/Ledger';
import { useDesigner } from '../state/context';
import { PanelHead } from './panel';

interface Opened {
  readonly sector: Sector;
  readonly stops: readonly Stop[];
}

/** True where everything that the layout names is known here. */
function isKnown({ layout, contents }: Placement): boolean {
  const { trees, blobs } = referredTo(layout);
  return trees.every((one) => contents.tree(one)) && blobs.every((one) => contents.blob(one));
}

/** Bytes of stored content, fetched from the server. */
const readStored: ReadStored = async ({ from, at, length }) => {
  const answer = await fetch(storedUrl(from, 'content'), { headers: { range: `bytes=${at}-${at + length - 1}` } });
  if (!answer.ok) throw new Error(`the server answered ${answer.status}`);
  return new Uint8Array(await answer.arrayBuffer());
};

/** What a build would write, surveyed and opened at a sector. */
function useOpened(number: number): Opened | undefined {
  const placement = useDesigner((state) => state.base);
  const isStopped = stopsAmong(useDesigner((state) => state.findings)).length > 0;
  const [opened, setOpened] = useState<Opened>();
  const source = useMemo(
    () =>
      isStopped || !isKnown(placement)
        ? undefined
        : composedSource(compose(placement), placement.sectors * placement.sectorSize, readStored),
    [placement, isStopped],
  );
  useEffect(() => {
    let isLatest = true;
    const open = async () => {
      if (!source) return undefined;
      const { sectorSize } = placement;
      const structures = structuresOf(await surveyMedium(source, { sectorSize }));
      const bytes = await source.read(number * sectorSize, sectorSize);
      const stops = structures.filter((one) => one.form.kind !== 'unknown');
      return { sector: ledgerOf(bytes, number, structureAt(structures, number)), stops };
    };
    void open().then((next) => isLatest && setOpened(next));
    return () => {
      isLatest = false;
    };
  }, [source, placement, number]);
  return isStopped ? undefined : opened;
}

/** The ledger of the layout as it would be built. */
export function LedgerPanel({ sector }: { sector: number }) {
  const { sectors } = useDesigner((state) => state.base);
  const select = useDesigner((state) => state.select);
  const number = Math.min(Math.max(0, sector), sectors - 1);
  const opened = useOpened(number);
  const back = (
    <p className="mb-2">
      <Button look="quiet" onClick={() => select({ kind: 'layout' })}>
        Close the ledger
      </Button>
    </p>
  );
  if (!opened)
    return (
      <>
        {back}
        <PanelHead title="Ledger" detail="the bytes are computed when no stop stands and the files are known" />
      </>
    );
  return (
    <>
      {back}
      <LedgerTable
        sector={opened.sector}
        sectors={sectors}
        stops={opened.stops}
        onGo={(next) => select({ kind: 'ledger', sector: next })}
      />
    </>
  );
}
