'use client';

import { useState } from 'react';
import { fieldsOf, inColumns, mountLines, mountTableText } from '@/core/naming/mount-table';
import type { MachineMedium } from '@/core/naming/nameable';
import { isPartition } from '@/core/placement/placement';
import { useDesigner } from '../designer/state/context';
import { Button } from '../kit/Button';
import { CopyButton } from './CopyButton';
import { LineWords, mountedAs } from './LineWords';
import { TiedLines } from './TiedLines';
import { WrittenInto } from './WrittenInto';
import { tieKey } from './ties';

interface Props {
  readonly media: readonly MachineMedium[];
  /** The medium that is edited here. */
  readonly own: MachineMedium;
}

/** The mount table that the layouts give, and every word of it. */
export function MountsPart({ media, own }: Props) {
  const lines = mountLines(media);
  const commit = useDesigner((state) => state.commit);
  const [asked, setAsked] = useState<string>();
  const chosen = lines.find((line) => tieKey(line.of) === asked) ?? lines[0];
  const rows = inColumns(lines.map(fieldsOf));
  const text = mountTableText(media);
  const leftOut = own.placement.placed.filter(isPartition).filter(({ slot }) => slot.mounting?.leftOut);
  const absent = leftOut.length > 0 && (
    <p className="mt-3 flex flex-wrap items-center gap-2 text-soft">
      Left out of the table:
      {leftOut.map(({ slot }) => (
        <Button
          key={slot.id}
          onClick={() => commit({ do: 'change slot', id: slot.id, patch: mountedAs(slot, { leftOut: undefined }) })}
        >
          Put {slot.name} in
        </Button>
      ))}
    </p>
  );
  if (!chosen)
    return (
      <>
        <p className="text-soft">
          Nothing is mounted: no partition has a mount point, and there is no swap space. Give a slot a mount point in
          the designer, with its line or in its properties.
        </p>
        {absent}
      </>
    );
  return (
    <>
      <div className="mb-2 flex items-center gap-2">
        <CopyButton text={text} name="Copy the mount table">
          Copy the table
        </CopyButton>
        <a
          className="text-soft underline hover:text-ink"
          href={`data:text/plain;charset=utf-8,${encodeURIComponent(text)}`}
          download="fstab"
        >
          Save it as a file
        </a>
        <span className="text-sm text-soft">
          Every word has its reason below; what can be chosen is kept in the layout.
        </span>
      </div>
      <WrittenInto what="mount table" own={own} />
      <TiedLines
        label="Lines of the mount table"
        media={media}
        lines={lines.map((line, i) => ({
          key: tieKey(line.of),
          content: rows[i]!,
          text: `${line.of.placed.slot.name}: ${fieldsOf(line).join(' ')}`,
          ties: [{ to: tieKey(line.of), by: line.by, isWrong: false }],
        }))}
        selected={tieKey(chosen.of)}
        partition={tieKey(chosen.of)}
        onSelect={setAsked}
        onPartition={setAsked}
      >
        <LineWords key={tieKey(chosen.of)} line={chosen} isOwn={chosen.of.medium === own} />
        {absent}
      </TiedLines>
    </>
  );
}
