'use client';

import type { DesignerSelection } from '../state/selection';
import type { ReactNode } from 'react';
import { boardOf, mediumText } from '@/core/layout/medium-spec';
import { TABLE_NAMES } from '@/core/layout/vocabulary';
import { grouped, inBinary, inBoth } from '@/core/quantity/units';
import { useDesigner } from '../state/context';

function Item({ title, selection, children }: { title: string; selection: DesignerSelection; children: ReactNode }) {
  const select = useDesigner((state) => state.select);
  const current = useDesigner((state) => state.selection);
  return (
    <button
      type="button"
      onClick={() => select(selection)}
      aria-pressed={current.kind === selection.kind}
      className="shrink-0 border-r border-hair px-4 py-2 text-left first:min-w-0 first:shrink max-[1180px]:px-2.5 hover:bg-card focus-visible:-outline-offset-2 aria-pressed:bg-card"
    >
      <span className="block truncate text-xs text-soft">{title}</span>
      <span className="block truncate">{children}</span>
    </button>
  );
}

/** Medium, what starts from it, table and grain: on top, because everything below follows from them. */
export function ContextBar({ tools }: { tools: ReactNode }) {
  const { medium: spec, boots, table } = useDesigner((state) => state.document);
  const board = useDesigner((state) => boardOf(state.document)?.name);
  const { medium, sectors, sectorSize, grain, strata } = useDesigner((state) => state.placement);
  const lost = strata.reduce((sum, one) => (one.kind === 'gap' && one.cause === 'grain' ? sum + one.sectors : sum), 0);
  const nominal = 'nominal' in spec.capacity ? spec.capacity.nominal : undefined;
  const starts = boots.map((one) => ({ uefi: 'UEFI', bios: 'BIOS', board: board ?? 'a board' })[one]);
  return (
    <nav aria-label="Medium, table and grain" className="flex h-[54px] overflow-hidden border-b border-line">
      <Item title="Medium" selection={{ kind: 'layout' }}>
        <b className="font-semibold">{mediumText(spec)}</b>{' '}
        <span className="font-mono text-sm text-soft">
          {/* Rounded down, so that “at least” holds. */}
          {nominal ? `≥ ${inBoth(medium.capacity, 'decimal').replace(/^≈ /, '')}` : inBoth(medium.capacity, 'decimal')}
          {/* A narrow window has the sectors at the end of the column. */}
          <span className="max-[1180px]:hidden">
            {' '}
            · {grouped(sectors)} sectors of {sectorSize}
          </span>
        </span>
      </Item>
      <Item title="Starts from it" selection={{ kind: 'machine' }}>
        <b className="font-semibold">{starts.length > 0 ? starts.join(' and ') : 'nothing'}</b>
      </Item>
      <Item title="Table" selection={{ kind: 'table' }}>
        <b className="font-semibold">{TABLE_NAMES[table.kind]}</b>
      </Item>
      <Item title="Grain" selection={{ kind: 'layout' }}>
        <b className="font-semibold">{inBinary(grain.bytes)}</b>{' '}
        <span className="text-soft">
          {lost > 0 ? `${inBinary(lost * sectorSize)} lost to it` : 'nothing lost to it'}
        </span>
      </Item>
      <span className="flex-1" />
      {tools}
    </nav>
  );
}
