'use client';

import dynamic from 'next/dynamic';
import { useMemo } from 'react';

const BarChart = dynamic(() => import('../chart/BarChart').then((file) => file.BarChart), { loading: () => null });

/** What the choices of a study cost: how each is named, what it is made of, and how it is told in one phrase. */
export interface Costs<Row> {
  readonly nameOf: (row: Row) => string;
  readonly parts: Readonly<Record<string, (row: Row) => number>>;
  readonly told: (row: Row) => string;
}

/** What each choice costs beside the files themselves. `costs` must be the same object at every drawing. */
export function CostChart<Row>({ rows, costs }: { readonly rows: readonly Row[]; readonly costs: Costs<Row> }) {
  const { nameOf, parts, told } = costs;
  const names = useMemo(() => rows.map(nameOf), [rows, nameOf]);
  const series = useMemo(
    () => Object.entries(parts).map(([name, bytesOf]) => ({ name, bytes: rows.map(bytesOf) })),
    [rows, parts],
  );
  if (rows.length === 0) return null;
  return (
    <section aria-label="What each costs" className="mt-3">
      <h2 className="font-semibold">What each costs beside the files themselves</h2>
      <div style={{ height: 60 + rows.length * 22 }}>
        <BarChart
          label={rows.map((row) => `${nameOf(row)}: ${told(row)}`).join('; ')}
          names={names}
          series={series}
          stacked
        />
      </div>
    </section>
  );
}
