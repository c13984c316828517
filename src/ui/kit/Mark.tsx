import type { Severity } from '@/core/findings/severity';

const NAMES: Readonly<Record<Severity, string>> = { stop: 'Stop', risk: 'Risk', note: 'Note' };

/** The sign of a severity: told apart by shape as well as tone. Hollow: it was accepted. */
export function Mark({ severity, hollow = false }: { severity: Severity; hollow?: boolean }) {
  return (
    <svg
      width="12"
      height="12"
      viewBox="0 0 12 12"
      role="img"
      aria-label={hollow ? `${NAMES[severity]}, accepted` : NAMES[severity]}
      className="shrink-0"
    >
      {severity === 'stop' && <path d="M1 1H11V11H1Z" fill="var(--stop)" />}
      {severity === 'risk' && !hollow && <path d="M6 0L12 6L6 12L0 6Z" fill="var(--risk)" />}
      {severity === 'risk' && hollow && (
        <path d="M6 1L11 6L6 11L1 6Z" fill="none" stroke="var(--risk)" strokeWidth="1.6" />
      )}
      {severity === 'note' && <circle cx="6" cy="6" r="4.2" fill="none" stroke="var(--slate)" strokeWidth="1.6" />}
    </svg>
  );
}
