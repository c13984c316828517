'use client';

import Link from 'next/link';
import { useEffect } from 'react';
import { idsOf, type DesignerSelection, severalOf, slotQuery } from './state/selection';
import { addSlot } from './state/actions';
import { useSlotKeys } from './keys/useSlotKeys';
import { useScreenKeys } from './keys/useScreenKeys';
import type { Stratum } from '@/core/placement/placement';
import type { LayoutView } from '@/contract/layouts';
import { DEPTH, Log } from '../column/Log';
import { Patterns } from '../column/Patterns';
import { LANES, WIDE_LANE } from '../column/Row';
import { ScaleChoice } from '../column/ScaleChoice';
import { COLUMN, LEAD } from '../column/Strata';
import { buttonClass } from '../kit/Button';
import { TopBar } from '../kit/TopBar';
import { AddMenu } from './bars/AddMenu';
import { ContextBar } from './bars/ContextBar';
import { DesignerProvider, useDesigner, useDesignerNow } from './state/context';
import { Findings } from './bars/Findings';
import { COLUMN_ID, focusColumn } from './state/focus';
import { FocusHome } from '../kit/home';
import { SidePanel } from './panels/SidePanel';
import { Notice } from './bars/Notice';
import { UndoRedo } from './bars/UndoRedo';

/** The screen where a layout is designed. */
export function Designer({ view }: { view: LayoutView }) {
  return (
    <DesignerProvider view={view}>
      <Screen />
    </DesignerProvider>
  );
}

function selectionOf(stratum: Stratum): DesignerSelection {
  if (stratum.kind === 'table') return { kind: 'table', start: stratum.start };
  return stratum.kind === 'gap' ? { kind: 'gap', start: stratum.start } : { kind: 'slot', id: stratum.placed.slot.id };
}

function keyOfSelection(selection: DesignerSelection): string | undefined {
  if (selection.kind === 'slot') return selection.id;
  if (selection.kind === 'several') return selection.ids.at(-1);
  if (selection.kind === 'gap') return `gap-${selection.start}`;
  return selection.kind === 'table' ? `table-${selection.start ?? 0}` : undefined;
}

/** Adds a slot to what is selected, or takes it away. */
function toggled(selection: DesignerSelection, stratum: Stratum): DesignerSelection {
  if (stratum.kind !== 'slot') return selection;
  const { id } = stratum.placed.slot;
  const ids = idsOf(selection);
  return severalOf(ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id]);
}

function SaveText() {
  const revision = useDesigner((state) => state.view.revision);
  const save = useDesigner((state) => state.save);
  const select = useDesigner((state) => state.select);
  const text = {
    opening: 'opening …',
    saved: 'saved',
    saving: 'saving …',
    waiting: 'not saved yet',
    gone: 'not on the shelf',
  }[save.kind];
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

function TopActions() {
  const id = useDesigner((state) => state.view.id);
  const slot = useDesigner((state) => slotQuery(state.selection));
  const keeps = useDesigner((state) => state.document.found !== undefined);
  return (
    <>
      <UndoRedo />
      <Link className={buttonClass()} href={`/layouts/${id}/contents${slot}`}>
        Contents
      </Link>
      <Link className={buttonClass()} href={`/layouts/${id}/fit`}>
        Fit
      </Link>
      <Link className={buttonClass()} href={`/layouts/${id}/hand-over`} prefetch={false}>
        Hand over
      </Link>
      <a className={buttonClass()} href={`/api/layouts/${id}/document`} download>
        Export
      </a>
      <Link className={buttonClass('primary')} href={`/layouts/${id}/${keeps ? 'change' : 'build'}`}>
        {keeps ? 'Before and after' : 'Build image'}
      </Link>
    </>
  );
}

/** How the column is drawn, and what can be added to it. */
function ColumnTools() {
  const scale = useDesigner((state) => state.scale);
  const setScale = useDesigner((state) => state.setScale);
  const now = useDesignerNow();
  return (
    <div className="flex shrink-0 items-center gap-2 pr-4 whitespace-nowrap">
      <ScaleChoice value={scale} onChange={setScale} />
      <AddMenu onAdd={(kind) => addSlot(now(), kind)} />
    </div>
  );
}

function LogHead() {
  return (
    <div className="@container">
      <div className="flex h-[28px] items-center border-b border-line text-xs text-soft">
        <span className="pr-3 text-right" style={{ width: DEPTH }}>
          depth
        </span>
        <span style={{ width: COLUMN + LEAD }}>column</span>
        <span className={`flex-1 pl-2 ${LANES}`}>
          <span>slot</span>
          <span className={WIDE_LANE}>inside</span>
          <span>size asked, got</span>
          <span className={WIDE_LANE}>mounts at</span>
          <span />
        </span>
      </div>
    </div>
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
        id={COLUMN_ID}
        base={base}
        placement={placement}
        findings={findings}
        scale={scale}
        selectedKey={keyOfSelection(selection)}
        marked={idsOf(selection)}
        onSelect={(stratum, adds) => select(adds ? toggled(selection, stratum) : selectionOf(stratum))}
        onMove={(id, index) => commit({ do: 'move slot', id, index })}
        preview={preview}
        commit={commit}
        onKey={onKey}
      />
    </section>
  );
}

/** Below its least width the screen can be read, and says so. */
function Narrow() {
  return (
    <p className="hidden border-b border-line bg-selected px-4 py-1 max-[1023px]:block">
      Designing wants a window of 1,024 points and more. Everything can be read here; scroll sideways for the rest.
    </p>
  );
}

/** The properties, folded: a strip that opens them. */
function FoldedPanel() {
  const fold = useDesigner((state) => state.fold);
  return (
    <button
      type="button"
      onClick={() => fold(false)}
      aria-expanded={false}
      className="border-l border-line bg-card py-3 text-soft [writing-mode:vertical-rl] hover:text-ink focus-visible:-outline-offset-2"
    >
      Properties
    </button>
  );
}

function Screen() {
  const name = useDesigner((state) => state.document.name);
  const isFolded = useDesigner((state) => state.isFolded);
  useEffect(() => {
    document.title = `${name} · Loess`;
  }, [name]);
  useScreenKeys();
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <Patterns />
      <TopBar title={name} detail={<SaveText />}>
        <TopActions />
      </TopBar>
      <Notice />
      <ContextBar tools={<ColumnTools />} />
      <Narrow />
      <main
        id="main"
        tabIndex={-1}
        className={`grid min-h-0 flex-1 ${isFolded ? 'grid-cols-[1fr_30px]' : 'grid-cols-[1fr_368px] max-[1180px]:grid-cols-[1fr_340px]'}`}
      >
        <Middle />
        <FocusHome go={focusColumn}>{isFolded ? <FoldedPanel /> : <SidePanel />}</FocusHome>
      </main>
      <Findings />
    </div>
  );
}
