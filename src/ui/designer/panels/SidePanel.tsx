'use client';

import dynamic from 'next/dynamic';
import type { DesignerState } from '../state/designer';
import { addSlot } from '../state/actions';
import type { FreeSlot, PartitionSlot, RawSlot } from '@/core/layout/document';
import { isKept, isKeptRaw, type KeptSlot } from '@/core/layout/kept';
import { isRaw, type Placed, type Stratum } from '@/core/placement/placement';
import { grouped, inBoth } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { useDesigner, useDesignerNow } from '../state/context';
import { DraftPlace } from '../../kit/drafts';
import { LayoutPanel } from './LayoutPanel';
import { FreePanel, KeptPanel, KeptRawPanel, PartitionPanel, RawPanel } from './SlotPanel';
import { PanelHead } from './panel';

/** What is not on the screen at first comes with its first use. */
const SeveralPanel = dynamic(() => import('./SeveralPanel').then((file) => file.SeveralPanel), { loading: () => null });
const LedgerPanel = dynamic(() => import('./LedgerPanel').then((file) => file.LedgerPanel), { loading: () => null });
const HistoryPanel = dynamic(() => import('./HistoryPanel').then((file) => file.HistoryPanel), { loading: () => null });
const MachinePanel = dynamic(() => import('./MachinePanel').then((file) => file.MachinePanel), { loading: () => null });
const LinesPanel = dynamic(() => import('./LinesPanel').then((file) => file.LinesPanel), { loading: () => null });
const TablePanel = dynamic(() => import('./TablePanel').then((file) => file.TablePanel), { loading: () => null });
const ChartPanel = dynamic(() => import('./ChartPanel').then((file) => file.ChartPanel), { loading: () => null });

const GAP_TITLES: Readonly<Record<Extract<Stratum, { kind: 'gap' }>['cause'], string>> = {
  grain: 'Lost to the grain',
  closed: 'Closed to partitions',
  'before raw range': 'Free',
  'before pinned slot': 'Free',
  unclaimed: 'Free',
};

function GapPanel({ stratum }: { stratum: Extract<Stratum, { kind: 'gap' }> }) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const now = useDesignerNow();
  return (
    <>
      <PanelHead
        title={GAP_TITLES[stratum.cause]}
        detail={`sectors ${grouped(stratum.start)} – ${grouped(stratum.start + stratum.sectors - 1)}`}
      />
      <p className="mt-2 border-t border-hair pt-2">{inBoth(stratum.sectors * sectorSize)}.</p>
      <p className="mt-2">{stratum.text}</p>
      {stratum.cause !== 'grain' && stratum.cause !== 'closed' && (
        <p className="mt-3 flex gap-1.5">
          <Button onClick={() => addSlot(now(), 'partition')}>Add a partition here</Button>
          <Button onClick={() => addSlot(now(), 'free')}>Keep it free on purpose</Button>
        </p>
      )}
    </>
  );
}

function slotPanel(placed: Placed) {
  const { slot } = placed;
  if (isKept(slot)) return <KeptPanel key={slot.id} placed={placed as Placed & { slot: KeptSlot }} />;
  if (isKeptRaw(slot)) return <KeptRawPanel key={slot.id} placed={placed as Placed & { slot: RawSlot }} />;
  if (isRaw(placed)) return <RawPanel key={slot.id} placed={placed as Placed & { slot: RawSlot }} />;
  return slot.kind === 'free' ? (
    <FreePanel key={slot.id} placed={placed as Placed & { slot: FreeSlot }} />
  ) : (
    <PartitionPanel key={slot.id} placed={placed as Placed & { slot: PartitionSlot }} />
  );
}

function panelFor({ selection, placement }: Pick<DesignerState, 'selection' | 'placement'>) {
  switch (selection.kind) {
    case 'machine':
      return <MachinePanel />;
    case 'table':
      return <TablePanel />;
    case 'ledger':
      return <LedgerPanel sector={selection.sector} />;
    case 'history':
      return <HistoryPanel />;
    case 'lines':
      return (
        <LinesPanel
          key={selection.begun}
          {...(selection.begun !== undefined && { begun: selection.begun })}
          {...(selection.behind && { behind: selection.behind })}
        />
      );
    case 'several':
      return <SeveralPanel ids={selection.ids} />;
    case 'chart':
      return <ChartPanel />;
    case 'slot': {
      const placed = placement.placed.find((one) => one.slot.id === selection.id);
      return placed ? slotPanel(placed) : <LayoutPanel />;
    }
    case 'gap': {
      const gap = placement.strata.find((one) => one.kind === 'gap' && one.start === selection.start);
      return gap?.kind === 'gap' ? <GapPanel stratum={gap} /> : <LayoutPanel />;
    }
    case 'layout':
      return <LayoutPanel />;
  }
}

/** Properties of what is selected. */
export function SidePanel() {
  const selection = useDesigner((state) => state.selection);
  const placement = useDesigner((state) => state.placement);
  const id = useDesigner((state) => state.view.id);
  const notify = useDesigner((state) => state.notify);
  const fold = useDesigner((state) => state.fold);
  const selected =
    selection.kind === 'slot' ? placement.placed.find(({ slot }) => slot.id === selection.id) : undefined;
  return (
    <aside aria-label="Properties" className="relative overflow-y-auto border-l border-line bg-card px-4 py-3">
      <button
        type="button"
        onClick={() => fold(true)}
        aria-label="Fold the properties away"
        title="Fold the properties away"
        aria-expanded
        className="absolute top-2 right-2 rounded-sm px-1.5 text-soft hover:text-ink"
      >
        ▸
      </button>
      <DraftPlace
        name={`${id}:${selected ? selected.slot.id : selection.kind}`}
        of={selected?.slot.name ?? 'the layout'}
        tell={notify}
      >
        {panelFor({ selection, placement })}
      </DraftPlace>
    </aside>
  );
}
