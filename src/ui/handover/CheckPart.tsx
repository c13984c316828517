'use client';

import { type ChangeEvent, type ReactNode, useDeferredValue, useMemo, useState } from 'react';
import { addedTo, clashText } from '@/core/handover/adding';
import { checkTable, mended, readAgainst, type TableCheck } from '@/core/findings/mounts/check';
import type { CheckedEntry, TableFinding } from '@/core/findings/mounts/finding';
import type { MachineMedium } from '@/core/naming/nameable';
import { tally } from '@/core/findings/tally';
import { counted } from '@/core/quantity/units';
import { FindingLine } from '../kit/FindingList';
import { Button } from '../kit/Button';
import { useDrop } from '../kit/useDrop';
import { CopyButton } from './CopyButton';
import { TiedLines } from './TiedLines';
import { type Tie, tieKey } from './ties';

/** More lines and findings than these are counted, and not drawn. */
const SHOWN_LINES = 60;
const SHOWN_FINDINGS = 100;
/** Larger files are no mount tables. */
const FILE_LIMIT = 4_000_000;

const WRONG_SLOT = 'table/wrong-slot';

/** What a line names: nothing for what is no partition, a stroke that leads nowhere for what nobody has. */
function tiesOf({ source, names, line }: CheckedEntry, findings: readonly TableFinding[]): Tie[] {
  if (source.by === undefined || source.by === 'device name') return [];
  const isWrong = findings.some((one) => one.rule === WRONG_SLOT && one.line === line);
  return [{ to: names[0] && tieKey(names[0]), by: source.by, isWrong }];
}

/** The text of a line with what was found in it marked. */
function Marked({ text, from, findings }: { text: string; from: number; findings: readonly TableFinding[] }) {
  const pieces: ReactNode[] = [];
  let at = 0;
  for (const one of [...findings].sort((a, b) => a.from - b.from)) {
    const [start, end] = [one.from - from, Math.min(text.length, one.to - from)];
    if (start < at || end <= start) continue;
    const tone = one.severity === 'stop' ? 'decoration-stop' : 'decoration-risk';
    pieces.push(
      text.slice(at, start),
      <span key={start} className={`underline decoration-wavy underline-offset-3 ${tone}`}>
        {text.slice(start, end)}
      </span>,
    );
    at = end;
  }
  return [...pieces, text.slice(at)];
}

interface Props {
  readonly media: readonly MachineMedium[];
  /** The table that is checked; it stays while other parts are shown. */
  readonly text: string;
  readonly onText: (text: string) => void;
}

/** The lines with their findings, and the strokes to what they name. */
function Found({ media, text, check }: { media: Props['media']; text: string; check: TableCheck }) {
  const { entries, findings } = check;
  const [asked, setAsked] = useState<string>();
  const [partition, setPartition] = useState<string>();
  const shown = entries.slice(0, SHOWN_LINES);
  const select = (key: string) => {
    setAsked(key);
    setPartition(undefined);
  };
  return (
    <>
      <TiedLines
        label="Lines of the table that is checked"
        media={media}
        lines={shown.map((entry) => {
          const own = findings.filter(({ line }) => line === entry.line);
          const line = text.slice(entry.from, entry.to);
          return {
            key: String(entry.line),
            content: (
              <>
                <span className="inline-block w-8 pr-2 text-right text-soft">{entry.line}</span>
                <Marked text={line} from={entry.from} findings={own} />
              </>
            ),
            text: `Line ${entry.line}: ${line}`,
            ties: tiesOf(entry, findings),
          };
        })}
        selected={asked}
        partition={partition}
        onSelect={select}
        onPartition={(key) => {
          setPartition(key);
          setAsked(undefined);
        }}
      />
      {entries.length > shown.length && (
        <p className="text-soft">{counted(entries.length - shown.length, 'more line')} not drawn; all were checked.</p>
      )}
    </>
  );
}

/** A mount table that exists: pasted, dropped or typed, checked against the layouts, mended, and added to. */
export function CheckPart({ media, text, onText }: Props) {
  const settled = useDeferredValue(text);
  const read = useMemo(() => readAgainst(settled, media), [settled, media]);
  const check = useMemo(() => checkTable(settled, media, read), [settled, media, read]);
  const added = useMemo(() => addedTo(settled, media, read), [settled, media, read]);
  const [trouble, setTrouble] = useState<string>();
  const take = async (file: File | undefined) => {
    if (!file) return;
    if (file.size > FILE_LIMIT) setTrouble(`“${file.name}” is larger than any mount table.`);
    else {
      setTrouble(undefined);
      onText(await file.text());
    }
  };
  const drop = useDrop((transfer) => void take(transfer.files[0]));
  const { findings, more } = check;
  const shown = findings.slice(0, SHOWN_FINDINGS);
  return (
    <>
      <div
        {...drop.handlers}
        className={`rounded-[6px] border border-dashed p-2 ${drop.isOver ? 'border-clay bg-selected' : 'border-line'}`}
      >
        <div className="mb-1 flex items-center gap-3">
          <span className="text-soft">Paste a mount table, drop one here, or</span>
          <label className="text-soft underline focus-within:outline-2 hover:text-ink">
            choose a file
            <input
              type="file"
              className="sr-only"
              aria-label="A file of a mount table"
              onChange={(event: ChangeEvent<HTMLInputElement>) => void take(event.target.files?.[0])}
            />
          </label>
          {trouble && <span className="text-stop">{trouble}</span>}
        </div>
        <textarea
          aria-label="Mount table to check"
          value={text}
          rows={Math.min(12, Math.max(4, text.split('\n', 13).length))}
          spellCheck={false}
          wrap="off"
          onChange={(event) => onText(event.target.value)}
          className="w-full rounded-[5px] border border-edge bg-paper px-2 py-1 font-mono text-sm"
        />
      </div>
      {text !== '' && (
        <>
          <section aria-label="Findings in the table" className="my-3">
            <h2 className="flex gap-3 text-sm">
              <b className="font-semibold">Findings</b>
              <span className="text-soft" aria-live="polite">
                {findings.length === 0 ? 'Nothing was found.' : tally(findings)}
                {more > 0 && `, and ${counted(more, 'more finding')}`}
              </span>
            </h2>
            <ul>
              {shown.map((one, i) => (
                <FindingLine
                  key={i}
                  finding={one}
                  place={{ text: `${one.line}:${one.column}`, go: () => goTo(settled, one) }}
                >
                  {one.remedies.map((remedy) => (
                    <Button key={remedy.label} onClick={() => onText(mended(settled, remedy))}>
                      {remedy.label}
                    </Button>
                  ))}
                </FindingLine>
              ))}
            </ul>
            {findings.length > shown.length && (
              <p className="text-soft">{counted(findings.length - shown.length, 'more finding')} below these.</p>
            )}
          </section>
          {check.entries.length > 0 && <Found media={media} text={settled} check={check} />}
          <Lacking added={added} onText={onText} />
        </>
      )}
    </>
  );
}

/** Puts the caret where a finding is. */
function goTo(text: string, { from, to }: TableFinding): void {
  const area = document.querySelector<HTMLTextAreaElement>('textarea[aria-label="Mount table to check"]');
  if (!area || area.value !== text) return;
  area.focus();
  area.setSelectionRange(from, Math.max(to, from));
}

/** The lines that the table lacks. */
function Lacking({ added, onText }: { added: ReturnType<typeof addedTo>; onText: (text: string) => void }) {
  const { lines, clashes } = added;
  return (
    <section aria-label="Lines to add" className="mt-4 border-t border-line pt-2">
      <h2 className="text-sm font-semibold">Lines to add</h2>
      <p className="flex items-center gap-3 text-soft">
        {lines.length === 0
          ? 'None: everything that the layouts mount stands in it, or is in its way.'
          : `${counted(lines.length, 'line')} of the layouts ${lines.length === 1 ? 'is' : 'are'} not in it. What stands in it stays as it is; they come below, under a comment.`}
        {lines.length > 0 && (
          <>
            <Button onClick={() => onText(added.text)}>Add {counted(lines.length, 'line')}</Button>
            <CopyButton text={added.text} name="Copy the table with the lines added">
              Copy it with them
            </CopyButton>
          </>
        )}
      </p>
      <ul>
        {clashes.map((clash) => (
          <li key={tieKey(clash.wanted.of)} className="text-risk">
            {clashText(clash)}.
          </li>
        ))}
      </ul>
    </section>
  );
}
