'use client';

import { SLOT_LIMIT } from '@/core/layout/vocabulary';
import { addingSlots, describeLine, readLines, slotsOf } from '@/core/layout/line-help';
import { writeLine } from '@/core/layout/line-write';
import { placementCsv, placementTable } from '@/core/placement/tabular';
import { counted } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { useDraft } from '../../kit/drafts';
import { Pointed } from '../../kit/size-echo';
import { copiedText, copyText } from '../state/clipboard';
import { useSizeFacts } from '../state/editing';
import { useDesigner } from '../state/context';
import { PanelHead } from './panel';

/** A layout as lines of text: pasted or typed ones become slots; a line that cannot be read stays, and is marked. */
export function LinesPanel({ begun = '' }: { begun?: string }) {
  const layout = useDesigner((state) => state.document);
  const placement = useDesigner((state) => state.placement);
  const notify = useDesigner((state) => state.notify);
  const { sectorSize } = placement;
  const commit = useDesigner((state) => state.commit);
  const { draft = begun, setDraft, keep } = useDraft(`Lines ${begun.slice(0, 80)}`);
  const text = draft;
  const setText = (next: string) => {
    setDraft(next);
    keep(next === '' ? undefined : next);
  };
  const lines = readLines(text);
  const good = lines.flatMap((one) => one.parsed ?? []);
  const bad = lines.filter((one) => one.error);
  const facts = useSizeFacts();
  const all = layout.slots.map(writeLine).join('\n');
  const copy = (content: string, what: string) => void copyText(content).then((done) => notify(copiedText(what, done)));
  const tooMany = layout.slots.length + good.length > SLOT_LIMIT;
  const add = () => {
    commit(addingSlots(layout, slotsOf(layout, good), layout.slots.length));
    setText(bad.map((one) => one.text).join('\n'));
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
        onChange={(event) => setText(event.target.value)}
        placeholder={
          'Boot: 256 MiB, boot, FAT32, label "BOOT", /boot\nSystem: rest, at least 8 GiB, system, /\nLoader: raw, from 8 KiB, 1016 KiB'
        }
        className="mt-2 w-full rounded-[5px] border border-edge bg-paper px-2 py-1 font-mono text-sm"
      />
      <ol className="mt-1" aria-label="What the lines mean">
        {lines.map((one) => (
          <li key={one.number} className={`border-b border-hair py-1 text-sm ${one.error ? 'text-stop' : ''}`}>
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
        ))}
      </ol>
      <p className="mt-2 flex flex-wrap items-center gap-1.5">
        <Button look="primary" disabled={good.length === 0 || tooMany} onClick={add}>
          Add {counted(good.length, 'slot')}
        </Button>
        {bad.length > 0 && (
          <span className="text-stop">{counted(bad.length, 'line')} cannot be read and will stay here.</span>
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
