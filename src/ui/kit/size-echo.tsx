import { parseExact, parseSize, describeSize, type SizeError, type SizeFacts } from '@/core/quantity/size-language';
import type { Echo } from './TextField';

/** The typed text again with the offending character marked, and what is wrong with it. */
export function Pointed({ text, error }: { text: string; error: SizeError }) {
  const end = Math.min(text.length, error.at + error.length);
  const marked = text.slice(error.at, end) || '␣';
  return (
    <>
      <span className="font-mono" aria-hidden="true">
        {text.slice(0, error.at)}
        <mark className="rounded-sm bg-stop px-px text-card">{marked}</mark>
        {text.slice(end)}
      </span>{' '}
      {error.message}
    </>
  );
}

interface UnreadProps {
  readonly draft: string;
  readonly error: SizeError;
  readonly examples: readonly string[];
}

/** What cannot be read, and what would have been understood. */
function Unread({ draft, error, examples }: UnreadProps) {
  return (
    <>
      <Pointed text={draft} error={error} />
      {examples.length > 0 && (
        <span className="block text-soft">
          For instance <span className="font-mono">{examples.join(' · ')}</span>
        </span>
      )}
    </>
  );
}

/** Echo of a size rule: its exact meaning in both unit families, or the place of the error. */
export function sizeEcho(
  sectorSize: number,
  facts: SizeFacts = {},
  examples: () => readonly string[] = () => [],
): (draft: string) => Echo {
  return (draft) => {
    const read = parseSize(draft);
    if (!read.ok) return { wrong: true, text: <Unread draft={draft} error={read.error} examples={examples()} /> };
    return { wrong: false, text: describeSize(read.value, sectorSize, facts) };
  };
}

/** The same for a field that takes exact sizes only; `zero` allows a bare 0, `empty` says what nothing means. */
export function exactEcho(
  sectorSize: number,
  { zero = false, empty, examples = [] }: { zero?: boolean; empty?: string; examples?: readonly string[] } = {},
) {
  return (draft: string): Echo => {
    if (draft.trim() === '' && empty !== undefined) return { wrong: false, text: empty };
    if (zero && draft.trim() === '0') return { wrong: false, text: '0 bytes: the first byte of the medium' };
    const read = parseExact(draft);
    if (!read.ok) return { wrong: true, text: <Unread draft={draft} error={read.error} examples={examples} /> };
    return { wrong: false, text: describeSize({ kind: 'exact', amount: read.value }, sectorSize) };
  };
}
