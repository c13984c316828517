'use client';

import { type ReactNode, useRef } from 'react';
import { type ListPlace, useLongRows } from './useLongRows';

/** Height of a finding in pixels, before it is measured. */
const LINE = 47;

/** More findings than the page can hold: those around what is seen. */
export function LongFindings({ count, line }: { readonly count: number; readonly line: (at: ListPlace) => ReactNode }) {
  const list = useRef<HTMLUListElement>(null);
  const { rows, above, below, measure } = useLongRows(list, count, LINE);
  return (
    <ul ref={list} style={{ paddingTop: above, paddingBottom: below }}>
      {rows.map(({ index }) => line({ index, measure }))}
    </ul>
  );
}
