'use client';

import { useRef } from 'react';
import { describeLine, type ReadLine, readLines } from '@/core/layout/line-help';
import { writeLine } from '@/core/layout/line-write';
import { addingLines, type Behind, carriedPlaces } from '@/core/layout/pasted';
import { SLOT_LIMIT } from '@/core/layout/vocabulary';
import { placementCsv, placementTable } from '@/core/placement/tabular';
import { counted } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { useDraft } from '../../kit/drafts';
import { Pointed } from '../../kit/size-echo';
import { useLongRows } from '../../kit/useLongRows';
import { copiedText, copyText } from '../state/clipboard';
import { useDesigner } from '../state/context';
import { useSizeFacts } from '../state/editing';
import { PanelHead } from './panel';

/** Height of what a line means, in pixels, before it is measured. */
const LINE = 40;

/** What each line means, or where it cannot be read; only those in view are drawn. */
function Meanings({ lines }: { readonly lines: readonly ReadLine[] }) {
  const { sectorSize } = useDesigner((state) => state.placement);
  const facts = useSizeFacts();
  const list = useRef<HTMLOListElement>(null);
  const { rows, above, below, measure } = useLongRows(list, lines.length, LINE);
  return (
    <div className="mt-1 max-h-[300px] overflow-y-auto">
      <ol ref={list} aria-label="What the lines mean" style={{ paddingTop: above, paddingBottom: below }}>
        {rows.map(({ index }) => {
          const one = lines[index]!;
          return (
            <li
              key={index}
              ref={measure}
              data-index={index}
              className={`border-b border-hair py-1 text-sm ${one.error ? 'text-stop' : ''}`}
            >
              <span className="font-mono text-soft">{one.number} </span>
              {one.parsed ? (
                <>
                  <b className="font-semibold">{one.parsed.name}</b>{' '}
                  <span className="text-soft">{describeLine(one.parsed, sectorSize, facts)}</span>
                </>
              ) : (
                <Pointed text={one.text} error={one.error!} />
              )}
            </li>
          );
        })}
      </ol>
    </div>
  );
}

/** The places of the lines, as they are kept beside their text. */
function useKeptPlaces(begun: string, first: readonly Behind[]) {
  const { draft, setDraft, keep } = useDraft(`Places ${begun.slice(0, 80)}`);
  const places =
    draft === undefined
      ? first
      : (JSON.parse(draft) as (string | null | 0)[]).map((one) => (one === 0 ? undefined : one));
  const put = (next: readonly Behind[]) => {
    const text = JSON.stringify(next.map((one) => one ?? (one === null ? null : 0)));
    setDraft(text);
    keep(next.length === 0 ? undefined : text);
  };
  return [places, put] as const;
}

interface Props {
  /** What was pasted and cannot be read. */
  readonly begun?: string;
  /** What each of those lines stands behind. */
  readonly behind?: readonly Behind[];
}

/** A layout as lines of text: pasted or typed ones become slots; a line that cannot be read holds its place, and is marked. */
export function LinesPanel({ begun = '', behind = [] }: Props) {
  const layout = useDesigner((state) => state.document);
  const placement = useDesigner((state) => state.placement);
  const notify = useDesigner((state) => state.notify);
  const commit = useDesigner((state) => state.commit);
  const { draft: text = begun, setDraft, keep } = useDraft(`Lines ${begun.slice(0, 80)}`);
  const [places, setPlaces] = useKeptPlaces(begun, behind);
  const put = (next: string, nextPlaces: readonly Behind[]) => {
    setDraft(next);
    keep(next === '' ? undefined : next);
    setPlaces(nextPlaces);
  };
  const lines = readLines(text, layout.table.kind);
  const good = lines.filter((one) => one.parsed).length;
  const bad = lines.length - good;
  const all = layout.slots.map(writeLine).join('\n');
  const copy = (content: string, what: string) => void copyText(content).then((done) => notify(copiedText(what, done)));
  const tooMany = layout.slots.length + good > SLOT_LIMIT;
  const add = () => {
    // Places are kept for every line of the text; empty ones are no lines that are read.
    const {
      edit,
      left,
      behind: waiting,
    } = addingLines(
      layout,
      lines,
      lines.map(({ number }) => places[number - 1]),
    );
    commit(edit);
    put(left.map((one) => one.text).join('\n'), waiting);
  };
  return (
    <>
      <PanelHead
        title="Slots as lines"
        detail="one slot a line: a name, a colon, and what is to be said, in any order"
      />
      <textarea
        aria-label="Lines to add, one slot each"
        value={text}
        rows={8}
        spellCheck={false}
        onChange={({ target: { value } }) => put(value, carriedPlaces(text.split('\n'), places, value.split('\n')))}
        placeholder={
          'Boot: 256 MiB, boot, FAT32, label "BOOT", /boot\nSystem: rest, at least 8 GiB, system, /\nLoader: raw, from 8 KiB, 1016 KiB'
        }
        className="mt-2 w-full rounded-[5px] border border-edge bg-paper px-2 py-1 font-mono text-sm"
      />
      <Meanings lines={lines} />
      <p className="mt-2 flex flex-wrap items-center gap-1.5">
        <Button look="primary" disabled={good === 0 || tooMany} onClick={add}>
          Add {counted(good, 'slot')}
        </Button>
        {bad > 0 && (
          <span className="text-stop">
            {counted(bad, 'line')} cannot be read;{' '}
            {bad === 1 ? 'it stays here and holds its place' : 'they stay here and hold their places'}.
          </span>
        )}
        {tooMany && <span className="text-stop">A layout has {SLOT_LIMIT} slots at most.</span>}
      </p>
      <h3 className="mt-4 border-t border-hair pt-2 text-soft">The layout as it is now, to be copied</h3>
      <p className="mt-1 flex flex-wrap gap-1.5">
        <Button onClick={() => copy(all, 'The layout')}>Lines</Button>
        <Button onClick={() => copy(placementTable(placement), 'The placement')}>Placement as text</Button>
        <Button onClick={() => copy(placementCsv(placement), 'The placement')}>Placement as CSV</Button>
      </p>
      <pre
        className="mt-1 overflow-x-auto rounded-[5px] border border-line bg-paper px-2 py-1 font-mono text-sm"
        tabIndex={0}
        aria-label="All slots as lines"
      >
        {all || 'No slot yet.'}
      </pre>
    </>
  );
}
