'use client';

import { inBinary, inBoth } from '@/core/quantity/units';
import { BarChart } from '../../chart/BarChart';
import { useDesigner } from '../state/context';
import { PanelHead } from './panel';

/** How the space divides: one bar a slot, and what nobody has. */
export function ChartPanel() {
  const { placed, strata, sectorSize, sectors } = useDesigner((state) => state.placement);
  const free = strata.reduce((sum, one) => (one.kind === 'gap' ? sum + one.sectors : sum), 0);
  const bars = [
    ...placed.map(({ slot, span }) => ({ name: slot.name, bytes: span.end - span.start })),
    { name: 'in no slot', bytes: free * sectorSize },
  ];
  const whole = sectors * sectorSize;
  return (
    <>
      <PanelHead title="How the space divides" detail={`${inBoth(whole)} in all`} />
      <div className="mt-2 border-t border-hair pt-2" style={{ height: 40 + bars.length * 30 }}>
        <BarChart
          label={bars.map((one) => `${one.name} ${inBinary(one.bytes)}`).join(', ')}
          names={bars.map((one) => one.name)}
          series={[{ name: 'size', bytes: bars.map((one) => one.bytes) }]}
          stacked={false}
        />
      </div>
      <table className="mt-2 w-full">
        <tbody>
          {bars.map((one, i) => (
            <tr key={i} className="border-b border-hair">
              <td className="truncate py-0.5">{one.name}</td>
              <td className="text-right font-mono text-sm whitespace-nowrap">{inBoth(one.bytes)}</td>
              <td className="pl-2 text-right font-mono text-sm text-soft">
                {whole === 0 ? '–' : `${((one.bytes / whole) * 100).toFixed(1)} %`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
