'use client';

import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useRef } from 'react';
import type { MapCell, RoomMap } from '@/core/filesystems/room-map';
import { inBinary } from '@/core/quantity/units';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

const freeOf = ({ bytes, structures, used }: MapCell) => Math.max(0, bytes - structures - used);

/** What a stretch is made of, from below; the tones are told apart in grey print too. */
const PARTS = [
  { name: 'structures', tone: '--s-table', of: ({ structures }: MapCell) => structures },
  { name: 'in use', tone: '--s-data-b', of: ({ used }: MapCell) => used },
  { name: 'free', tone: '--s-free-a', of: freeOf },
] as const;

/** Bytes of a map by what they are. */
function roomTotals({ cells }: RoomMap): readonly { readonly name: string; readonly bytes: number }[] {
  return PARTS.map(({ name, of }) => ({ name, bytes: cells.reduce((sum, cell) => sum + of(cell), 0) }));
}

interface Props {
  readonly map: RoomMap;
  /** What the picture says, for those who do not see it. */
  readonly label: string;
}

/** A volume from its front to its end in stretches of one length: how full each is, and of what. */
export function RoomChart({ map, label }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!canvas.current) return;
    const style = getComputedStyle(document.documentElement);
    const tone = (name: string) => style.getPropertyValue(name).trim();
    const family = getComputedStyle(document.body).fontFamily;
    const { cells } = map;
    const share = (cell: MapCell, bytes: number) => (cell.bytes === 0 ? 0 : (100 * bytes) / cell.bytes);
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: cells.map(({ from }) => inBinary(from)),
        datasets: PARTS.map(({ name, tone: of, of: part }) => ({
          label: name,
          data: cells.map((cell) => share(cell, part(cell))),
          backgroundColor: tone(of),
          borderColor: tone('--s-free-b'),
          borderWidth: name === 'free' ? { top: 1, left: 0, right: 0, bottom: 0 } : 0,
          barPercentage: 1,
          categoryPercentage: 1,
        })),
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        plugins: {
          legend: { display: false },
          tooltip: {
            callbacks: {
              title: ([item]) => {
                const cell = item && cells[item.dataIndex];
                return cell ? `from ${inBinary(cell.from)}, ${inBinary(cell.bytes)}` : '';
              },
              label: ({ datasetIndex, dataIndex }) => {
                const part = PARTS[datasetIndex]!;
                return `${part.name}: ${inBinary(part.of(cells[dataIndex]!))}`;
              },
            },
          },
        },
        scales: {
          x: {
            stacked: true,
            ticks: { color: tone('--soft'), maxTicksLimit: 4, maxRotation: 0, font: { family, size: 11 } },
            grid: { display: false },
          },
          y: {
            stacked: true,
            max: 100,
            ticks: {
              color: tone('--soft'),
              stepSize: 50,
              callback: (value) => `${value} %`,
              font: { family, size: 11 },
            },
            grid: { color: tone('--hair') },
          },
        },
      },
    });
    return () => chart.destroy();
  }, [map]);
  return <canvas ref={canvas} role="img" aria-label={label} />;
}

/** What the tones of the picture mean, with how much there is of each. */
export function RoomKey({ map }: Pick<Props, 'map'>) {
  return (
    <ul className="mt-1 flex flex-wrap gap-x-3">
      {roomTotals(map).map(({ name, bytes }, i) => (
        <li key={name} className="flex items-center gap-1.5">
          <span
            aria-hidden
            className="inline-block size-[10px] border border-edge"
            style={{ background: `var(${PARTS[i]!.tone})` }}
          />
          {name} <span className="font-mono text-sm">{inBinary(bytes)}</span>
        </li>
      ))}
    </ul>
  );
}
