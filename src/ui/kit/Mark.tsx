import type { Severity } from '@/core/findings/finding';

const NAMES: Readonly<Record<Severity, string>> = { stop: 'Stop', risk: 'Risk', note: 'Note' };

/** The sign of a severity: told apart by shape as well as tone. */
export function Mark({ severity }: { severity: Severity }) {
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={NAMES[severity]} className="shrink-0">
      {severity === 'stop' && <path d="M1 1H11V11H1Z" fill="var(--stop)" />}
      {severity === 'risk' && <path d="M6 0L12 6L6 12L0 6Z" fill="var(--risk)" />}
      {severity === 'note' && <circle cx="6" cy="6" r="4.2" fill="none" stroke="var(--slate)" strokeWidth="1.6" />}
    </svg>
  );
}
