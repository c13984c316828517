/** Lines to add to a mount table that exists: its text stays to the byte, new lines stand below it under a comment. */
import { readAgainst } from '../findings/mounts/check';
import { lineEnd } from '../findings/mounts/together';
import { commentText, fieldsOf, inColumns, type MountLine } from '../naming/mount-table';
import type { MachineMedium } from '../naming/nameable';

/** A line that was not added, and the line of the table that is in its way. */
export interface Clash {
  readonly wanted: MountLine;
  readonly line: number;
  /** What both want: to name the same partition, or the same mount point. */
  readonly over: 'partition' | 'mount point';
}

/** What is in the way, without a point at its end. */
export function clashText({ wanted, line, over }: Clash): string {
  const { name, mount } = wanted.of.placed.slot;
  return over === 'partition'
    ? `Line ${line} names ${name} already, and mounts it elsewhere`
    : `Line ${line} mounts something at ${mount} already`;
}

export interface Added {
  readonly text: string;
  readonly lines: readonly MountLine[];
  /** Lines that stand there already, as they should. */
  readonly present: readonly MountLine[];
  readonly clashes: readonly Clash[];
}

/** A table with the lines of the layouts that it lacks. */
export function addedTo(
  text: string,
  media: readonly MachineMedium[],
  { entries, wanted } = readAgainst(text, media),
): Added {
  const present: MountLine[] = [];
  const clashes: Clash[] = [];
  const lines = wanted.filter((line) => {
    const own = entries.find(({ names }) => names.includes(line.of));
    const { mount } = line.of.placed.slot;
    const isSwap = line.point.text === 'none';
    if (own) {
      if (isSwap || own.point === mount) present.push(line);
      else clashes.push({ wanted: line, line: own.line, over: 'partition' });
      return false;
    }
    const there = isSwap ? undefined : entries.find(({ point }) => point === mount);
    if (there) clashes.push({ wanted: line, line: there.line, over: 'mount point' });
    return !there;
  });
  if (lines.length === 0) return { text, lines, present, clashes };
  const end = lineEnd(text);
  const ahead = text === '' || text.endsWith('\n') ? '' : end;
  const head = `# Added for ${media.map(({ name }) => commentText(name)).join(' and ')}`;
  const rows = [head, ...inColumns(lines.map(fieldsOf))];
  return { text: `${text}${ahead}${rows.map((row) => row + end).join('')}`, lines, present, clashes };
}
