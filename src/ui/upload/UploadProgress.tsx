'use client';

import { inBinary, inDecimal } from '@/core/quantity/units';
import { Button } from '../kit/Button';
import type { Sending } from './upload';

/** Progress, rate and time left of an upload, and the way to stop it. */
export function SendingProgress({ sending }: { sending: Sending }) {
  const { name, size, done, rate, stop } = sending;
  const left = rate > 0 ? Math.ceil((size - done) / rate) : undefined;
  return (
    <div className="flex items-center gap-3 border-b border-hair py-1.5">
      <span className="font-mono text-sm font-semibold">{name}</span>
      <progress aria-label={`Sending ${name}`} value={done} max={size} className="h-2 flex-1 accent-clay" />
      <span className="text-sm text-soft">
        {inBinary(done)} of {inBinary(size)}
        {rate > 0 && ` · ${inDecimal(Math.round(rate))}/s`}
        {left !== undefined && (left > 0 ? ` · ${left} s left` : ' · being stored')}
      </span>
      <Button onClick={stop}>Stop</Button>
    </div>
  );
}
