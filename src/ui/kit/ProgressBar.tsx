import type { JobProgress } from '@/contract/builds';
import { inBinary, inDecimal } from '@/core/quantity/units';

function secondsText(seconds: number): string {
  if (seconds < 1) return 'under a second left';
  return seconds < 90 ? `${Math.ceil(seconds)} s left` : `${Math.ceil(seconds / 60)} min left`;
}

/** Bytes, rate and time left of a job. */
export function ProgressBar({ progress, label }: { progress: JobProgress; label: string }) {
  const { phase, done, total, rate, secondsLeft } = progress;
  const share = total > 0 ? done / total : 0;
  return (
    <div className="my-2">
      <div
        role="progressbar"
        aria-label={label}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.floor(share * 100)}
        className="h-2 overflow-hidden rounded-full border border-line bg-paper"
      >
        <div className="h-full bg-clay" style={{ width: `${share * 100}%` }} />
      </div>
      <p className="mt-1 text-sm text-soft">
        {phase}
        {total > 0 && ` · ${inBinary(done)} of ${inBinary(total)}`}
        {rate > 0 && ` · ${inDecimal(Math.round(rate))}/s`}
        {secondsLeft !== null && done < total && ` · ${secondsText(secondsLeft)}`}
      </p>
    </div>
  );
}
