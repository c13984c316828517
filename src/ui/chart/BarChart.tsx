'use client';

import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useRef } from 'react';
import { inBinary, inBoth } from '@/core/quantity/units';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

interface Props {
  /** What the picture says, for those who do not see it. */
  readonly label: string;
  readonly names: readonly string[];
  readonly series: readonly { readonly name: string; readonly bytes: readonly number[] }[];
  readonly stacked: boolean;
}

/** Tones that are told apart in grey print too: from dark to light. */
const TONES = [
  '--s-table',
  '--s-system-b',
  '--s-boot-b',
  '--s-data-b',
  '--s-swap-b',
  '--s-loader-b',
  '--s-boot-a',
  '--s-system-a',
  '--s-data-a',
  '--s-free-b',
] as const;

/** A step between lines that is a power of two, so that binary units read well: about six lines to the end. */
function stepFor(end: number): number {
  return 2 ** Math.ceil(Math.log2(Math.max(8, end) / 8));
}

/** Bytes at the end of the longest bar. */
function longest({ series, stacked }: Pick<Props, 'series' | 'stacked'>): number {
  const bars = (series[0]?.bytes ?? []).map((_, i) => series.map(({ bytes }) => bytes[i]!));
  return Math.max(1, ...bars.map((bar) => (stacked ? bar.reduce((a, b) => a + b, 0) : Math.max(...bar))));
}

/** Bars of bytes, lying. The chart takes its tones and letters from the page, in both themes. */
export function BarChart({ label, names, series, stacked }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!canvas.current) return;
    const style = getComputedStyle(document.documentElement);
    const tone = (name: string) => style.getPropertyValue(name).trim();
    const family = getComputedStyle(document.body).fontFamily;
    Chart.defaults.font = { ...Chart.defaults.font, family, size: 11 };
    const step = stepFor(longest({ series, stacked }));
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: [...names],
        datasets: series.map(({ name, bytes }, i) => ({
          label: name,
          data: [...bytes],
          backgroundColor: tone(stacked ? TONES[i % TONES.length]! : '--s-data-b'),
          borderColor: tone('--paper'),
          borderWidth: stacked ? 1 : 0,
        })),
      },
      options: {
        indexAxis: 'y',
        animation: false,
        maintainAspectRatio: false,
        plugins: {
          legend: { display: stacked, position: 'bottom', labels: { color: tone('--ink'), boxWidth: 12 } },
          tooltip: {
            callbacks: {
              label: ({ dataset, raw }) => `${dataset.label ?? ''}: ${inBoth(Number(raw))}`,
            },
          },
        },
        scales: {
          x: {
            stacked,
            ticks: { stepSize: step, color: tone('--soft'), callback: (value) => inBinary(Number(value)) },
            grid: { color: tone('--hair') },
          },
          y: { stacked, ticks: { color: tone('--ink') }, grid: { display: false } },
        },
      },
    });
    return () => chart.destroy();
  }, [names, series, stacked]);
  return <canvas ref={canvas} role="img" aria-label={label} />;
}
