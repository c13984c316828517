'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type KeyboardEvent, useEffect, useState } from 'react';
import type { FreeSlot, PartitionSlot, RawSlot } from '@/core/layout/document';
import { isRaw, type Placed, type Stratum } from '@/core/placement/placement';
import { grouped, inBoth } from '@/core/quantity/units';
import type { LayoutView } from '@/contract/layouts';
import { DEPTH, Log } from '../column/Log';
import { Patterns } from '../column/Patterns';
import { LANES } from '../column/Row';
import { COLUMN, LEAD } from '../column/Strata';
import { Button, buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { Key } from '../kit/Key';
import { TopBar } from '../kit/TopBar';
import { adding, AddMenu, type NewKind } from './AddMenu';
import { ContextBar } from './ContextBar';
import { DesignerProvider, useDesigner } from './context';
import { Findings } from './Findings';
import dynamic from 'next/dynamic';
import { HistoryPanel } from './HistoryPanel';
import { LayoutPanel } from './LayoutPanel';
import { PanelHead } from './panel';
import { ShortcutSheet } from './ShortcutSheet';
import { FreePanel, PartitionPanel, RawPanel, SIZE_FIELD } from './SlotPanel';
import type { DesignerState, Selection } from './store';
import { TablePanel } from './TablePanel';

/** Decoding comes with its first use: it is not part of the first load. */
const LedgerPanel = dynamic(() => import('./LedgerPanel').then((file) => file.LedgerPanel));

/** The screen where a layout is designed. */
export function Designer({ view }: { view: LayoutView }) {
  return (
    <DesignerProvider view={view}>
      <Screen />
    </DesignerProvider>
  );
}

function selectionOf(stratum: Stratum): Selection {
  if (stratum.kind === 'table') return { kind: 'table', copy: stratum.start > 0 };
  return stratum.kind === 'gap' ? { kind: 'gap', start: stratum.start } : { kind: 'slot', id: stratum.placed.slot.id };
}

function keyOfSelection(selection: Selection): string | undefined {
  if (selection.kind === 'slot') return selection.id;
  if (selection.kind === 'gap') return `gap-${selection.start}`;
  if (selection.kind !== 'table') return undefined;
  return selection.copy ? 'table-copy' : 'table';
}

/** True while a person types into a field, where letters are no shortcuts. */
function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.matches('input, textarea, select') || target.isContentEditable);
}

/** Adds a slot behind the selected one, or in a gap: there it takes what is free. */
function useAdding() {
  const layout = useDesigner((state) => state.document);
  const selection = useDesigner((state) => state.selection);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  return (kind: NewKind, behind?: Selection) => {
    const { edit, id } = adding(layout, behind ?? selection, kind, behind && 'rest');
    commit(edit);
    select({ kind: 'slot', id });
  };
}

/** Opens the ledger at the first sector of what is selected. */
function useLedger(): () => void {
  const selection = useDesigner((state) => state.selection);
  const { placed, usable } = useDesigner((state) => state.placement);
  const select = useDesigner((state) => state.select);
  return () => {
    const slot = selection.kind === 'slot' ? placed.find((one) => one.slot.id === selection.id) : undefined;
    const start =
      selection.kind === 'gap' ? selection.start : selection.kind === 'table' && selection.copy ? usable.end : 0;
    select({ kind: 'ledger', sector: slot?.start ?? start });
  };
}

/** Keys that work everywhere on the screen but in fields and dialogs. */
function useScreenKeys(showSheet: () => void) {
  const undo = useDesigner((state) => state.undo);
  const redo = useDesigner((state) => state.redo);
  const scale = useDesigner((state) => state.scale);
  const setScale = useDesigner((state) => state.setScale);
  const id = useDesigner((state) => state.view.id);
  const router = useRouter();
  const add = useAdding();
  const openLedger = useLedger();
  useEffect(() => {
    const letters: Readonly<Record<string, () => void>> = {
      '?': showSheet,
      s: () => setScale(scale === 'true' ? 'legible' : 'true'),
      b: () => router.push(`/layouts/${id}/build`),
      n: () => add('partition'),
      r: () => add('raw'),
      f: () => add('free'),
      l: openLedger,
    };
    const onKey = (event: globalThis.KeyboardEvent) => {
      const key = event.key.toLowerCase();
      const control = event.ctrlKey || event.metaKey;
      if (isTyping(event.target) || document.querySelector('[role="dialog"], [role="menu"]')) return;
      if (control && key === 'z') {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      } else if (!control && !event.altKey && letters[key]) {
        event.preventDefault();
        letters[key]();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}

/** Keys on the column that act on the selected slot. */
function useSlotKeys() {
  const selection = useDesigner((state) => state.selection);
  const slots = useDesigner((state) => state.document.slots);
  const commit = useDesigner((state) => state.commit);
  return (event: KeyboardEvent<HTMLElement>) => {
    if (selection.kind !== 'slot') return;
    const { id } = selection;
    const index = slots.findIndex((slot) => slot.id === id);
    const step = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (event.altKey && step !== 0) {
      event.preventDefault();
      const to = index + step;
      if (to >= 0 && to < slots.length) commit({ do: 'move slot', id, index: to });
    } else if (event.key === 'Delete') commit({ do: 'remove slot', id });
    else if (event.key === 'Enter') {
      event.preventDefault();
      const field = document.getElementById(SIZE_FIELD);
      if (field instanceof HTMLInputElement) {
        field.focus();
        field.select();
      }
    }
  };
}

function SaveText() {
  const revision = useDesigner((state) => state.view.revision);
  const save = useDesigner((state) => state.save);
  const select = useDesigner((state) => state.select);
  const text = { saved: 'saved', saving: 'saving …', waiting: 'not saved yet' }[save.kind];
  return (
    <button
      type="button"
      onClick={() => select({ kind: 'history' })}
      className="rounded-sm hover:underline"
      aria-live="polite"
      title="Show all revisions"
    >
      revision {revision}, {text}
    </button>
  );
}

function TopActions({ showSheet }: { showSheet: () => void }) {
  const view = useDesigner((state) => state.view);
  const steps = useDesigner((state) => state.steps);
  const undo = useDesigner((state) => state.undo);
  const redo = useDesigner((state) => state.redo);
  return (
    <>
      <Button look="quiet" onClick={showSheet} aria-label="Keys">
        <Key>?</Key> keys
      </Button>
      <Button onClick={undo} disabled={!view.canUndo && steps.length === 0}>
        Undo
      </Button>
      <Button onClick={redo} disabled={!view.canRedo}>
        Redo
      </Button>
      <a className={buttonClass()} href={`/api/layouts/${view.id}/document`} download>
        Export
      </a>
      <Link className={buttonClass('primary')} href={`/layouts/${view.id}/build`}>
        Build image
      </Link>
    </>
  );
}

function Notice() {
  const save = useDesigner((state) => state.save);
  const notice = useDesigner((state) => state.notice);
  const dismiss = useDesigner((state) => state.dismiss);
  const sentence = save.kind === 'waiting' ? save.sentence : notice;
  if (!sentence) return null;
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-line bg-selected px-4 py-1">
      <span className="flex-1">{sentence}</span>
      {save.kind !== 'waiting' && <Button onClick={dismiss}>Understood</Button>}
    </div>
  );
}

/** How the column is drawn, and what can be added to it. */
function ColumnTools() {
  const scale = useDesigner((state) => state.scale);
  const setScale = useDesigner((state) => state.setScale);
  const add = useAdding();
  return (
    <div className="flex items-center gap-2 pr-4">
      <Choice
        label="Scale of the column"
        value={scale}
        options={[
          { value: 'legible', text: 'legible scale' },
          { value: 'true', text: 'true scale' },
        ]}
        onChange={setScale}
      />
      <AddMenu onAdd={(kind) => add(kind)} />
    </div>
  );
}

function LogHead() {
  return (
    <div className="flex h-[28px] items-center border-b border-line text-xs text-soft">
      <span className="pr-3 text-right" style={{ width: DEPTH }}>
        depth
      </span>
      <span style={{ width: COLUMN + LEAD }}>column</span>
      <span className={`flex-1 pl-2 ${LANES}`}>
        <span>slot</span>
        <span>file system</span>
        <span>size asked, got</span>
        <span>mounts at</span>
        <span />
      </span>
    </div>
  );
}

/** The slot right above a depth: what is added in a gap comes behind it. */
function slotAbove(strata: readonly Stratum[], start: number): Selection {
  const above = strata.filter((one) => one.kind === 'slot' && one.start < start).at(-1);
  return above?.kind === 'slot' ? { kind: 'slot', id: above.placed.slot.id } : { kind: 'layout' };
}

function GapPanel({ stratum }: { stratum: Extract<Stratum, { kind: 'gap' }> }) {
  const { sectorSize, strata } = useDesigner((state) => state.placement);
  const add = useAdding();
  return (
    <>
      <PanelHead
        title={stratum.cause === 'grain' ? 'Lost to the grain' : 'Free'}
        detail={`sectors ${grouped(stratum.start)} – ${grouped(stratum.start + stratum.sectors - 1)}`}
      />
      <p className="mt-2 border-t border-hair pt-2">{inBoth(stratum.sectors * sectorSize)}.</p>
      <p className="mt-2">{stratum.text}</p>
      {stratum.cause === 'unclaimed' && (
        <p className="mt-3 flex gap-1.5">
          <Button onClick={() => add('partition', slotAbove(strata, stratum.start))}>Add a partition here</Button>
          <Button onClick={() => add('free', slotAbove(strata, stratum.start))}>Keep it free on purpose</Button>
        </p>
      )}
    </>
  );
}

function slotPanel(placed: Placed) {
  const { slot } = placed;
  if (isRaw(placed)) return <RawPanel key={slot.id} placed={placed as Placed & { slot: RawSlot }} />;
  return slot.kind === 'free' ? (
    <FreePanel key={slot.id} placed={placed as Placed & { slot: FreeSlot }} />
  ) : (
    <PartitionPanel key={slot.id} placed={placed as Placed & { slot: PartitionSlot }} />
  );
}

function panelFor({ selection, placement }: Pick<DesignerState, 'selection' | 'placement'>) {
  if (selection.kind === 'table') return <TablePanel />;
  if (selection.kind === 'ledger') return <LedgerPanel sector={selection.sector} />;
  if (selection.kind === 'history') return <HistoryPanel />;
  if (selection.kind === 'slot') {
    const placed = placement.placed.find((one) => one.slot.id === selection.id);
    if (placed) return slotPanel(placed);
  }
  if (selection.kind === 'gap') {
    const gap = placement.strata.find((one) => one.kind === 'gap' && one.start === selection.start);
    if (gap?.kind === 'gap') return <GapPanel stratum={gap} />;
  }
  return <LayoutPanel />;
}

function SidePanel() {
  const selection = useDesigner((state) => state.selection);
  const placement = useDesigner((state) => state.placement);
  return (
    <aside aria-label="Properties" className="overflow-y-auto border-l border-line bg-card px-4 py-3">
      {panelFor({ selection, placement })}
    </aside>
  );
}

function Middle() {
  const base = useDesigner((state) => state.base);
  const placement = useDesigner((state) => state.placement);
  const findings = useDesigner((state) => state.findings);
  const scale = useDesigner((state) => state.scale);
  const selection = useDesigner((state) => state.selection);
  const select = useDesigner((state) => state.select);
  const preview = useDesigner((state) => state.preview);
  const commit = useDesigner((state) => state.commit);
  const onKey = useSlotKeys();
  return (
    <section aria-label="Column" className="flex min-h-0 min-w-0 flex-col">
      <LogHead />
      <Log
        base={base}
        placement={placement}
        findings={findings}
        scale={scale}
        selectedKey={keyOfSelection(selection)}
        onSelect={(stratum) => select(selectionOf(stratum))}
        preview={preview}
        commit={commit}
        onKey={onKey}
      />
    </section>
  );
}

function Screen() {
  const name = useDesigner((state) => state.document.name);
  const [sheet, setSheet] = useState(false);
  useScreenKeys(() => setSheet(true));
  return (
    <div className="flex h-screen min-w-[1080px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={name} aside={<SaveText />}>
        <TopActions showSheet={() => setSheet(true)} />
      </TopBar>
      <Notice />
      <ContextBar tools={<ColumnTools />} />
      <main className="grid min-h-0 flex-1 grid-cols-[1fr_368px]">
        <Middle />
        <SidePanel />
      </main>
      <Findings />
      <ShortcutSheet open={sheet} onOpenChange={setSheet} />
    </div>
  );
}
