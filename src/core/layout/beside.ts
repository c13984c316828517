/**
 * What lies beside a document: folders, archives and files that it names by a path relative to its
 * own folder, with a sum or, as long as nobody looked, without one.
 */
import { NOT_SIZED, NOT_SUMMED, type Stored } from '../filesystems/fields';
import { kindOf } from '../filesystems/kinds';
import { fillingOf } from './contents';
import type { Layout, Slot } from './document';

/** A place of a document that names something by a path. */
export interface Beside {
  /** As in `slots[0].content.filesFrom`. */
  readonly at: string;
  /** Id of the slot; none for the code of sector 0. */
  readonly slot: string | undefined;
  /** `tree`: files for a volume; `file`: bytes that are taken as they are. */
  readonly what: 'tree' | 'file';
  readonly path: string;
  /** SHA-256 that the document says; undefined where it says none. */
  readonly sha256: string | undefined;
  /** The document says sum, name and size. */
  readonly isWhole: boolean;
  /** Times of the files matter. */
  readonly times: boolean;
  /** Owners, modes, links and devices are kept: a Linux file system holds them. */
  readonly keepsAll: boolean;
}

/** What was found at a path. */
export interface FoundBeside {
  readonly sha256: string;
  readonly name: string;
  readonly size: number;
}

/** Where a supplied file is named in a document, what it says there, and the document with something else there. */
interface Naming {
  readonly at: string;
  readonly slot: string | undefined;
  readonly stored: Stored;
  readonly with: (layout: Layout, stored: Stored) => Layout;
}

function changedSlot(layout: Layout, id: string, change: (slot: Slot) => Slot): Layout {
  return { ...layout, slots: layout.slots.map((slot) => (slot.id === id ? change(slot) : slot)) };
}

function namingOf(slot: Slot, i: number): Naming | undefined {
  if (slot.kind === 'raw' && slot.blob)
    return {
      at: `slots[${i}].blob`,
      slot: slot.id,
      stored: slot.blob,
      with: (layout, stored) =>
        changedSlot(layout, slot.id, (one) =>
          one.kind === 'raw' && one.blob ? { ...one, blob: { ...one.blob, ...stored } } : one,
        ),
    };
  const content = slot.kind === 'partition' ? slot.content : undefined;
  if (!content) return undefined;
  if ('sha256' in content)
    return {
      at: `slots[${i}].content`,
      slot: slot.id,
      stored: content,
      with: (layout, stored) =>
        changedSlot(layout, slot.id, (one) =>
          one.kind === 'partition' ? { ...one, content: { ...content, ...stored } } : one,
        ),
    };
  if (content.kind !== 'fat' || !content.code) return undefined;
  return {
    at: `slots[${i}].content.code`,
    slot: slot.id,
    stored: content.code,
    with: (layout, stored) =>
      changedSlot(layout, slot.id, (one) =>
        one.kind === 'partition' && one.content?.kind === 'fat'
          ? { ...one, content: { ...one.content, code: stored } }
          : one,
      ),
  };
}

/** Every place of a document that names a supplied file. */
function namingsOf({ table, slots }: Layout): Naming[] {
  const code = table.kind === 'none' ? undefined : table.code;
  const ahead: Naming[] = code
    ? [
        {
          at: 'table.code',
          slot: undefined,
          stored: code,
          with: (layout, stored) =>
            layout.table.kind === 'none'
              ? layout
              : { ...layout, table: { ...layout.table, code: { ...code, ...stored } } },
        },
      ]
    : [];
  return [...ahead, ...slots.flatMap((slot, i) => namingOf(slot, i) ?? [])];
}

/** Fields that are missing where a supplied file is named without a path, as in `table.code.sha256`. */
export function unnamed(layout: Layout): string[] {
  return namingsOf(layout).flatMap(({ at, stored: { sha256, name, size, path } }) => {
    if (path !== undefined) return [];
    return [
      ...(sha256 === NOT_SUMMED ? [`${at}.sha256`] : []),
      ...(name === NOT_SUMMED ? [`${at}.name`] : []),
      ...(size === NOT_SIZED ? [`${at}.size`] : []),
    ];
  });
}

/** Whether it says all that whoever does not see the file has to know. */
const isWhole = ({ sha256, name, size }: Stored) => sha256 !== NOT_SUMMED && name !== NOT_SUMMED && size !== NOT_SIZED;

/** Every place of a document that names something by a path. */
export function besidesOf(layout: Layout): Beside[] {
  const files = namingsOf(layout).flatMap(({ at, slot, stored }): Beside[] =>
    stored.path === undefined
      ? []
      : [
          {
            at,
            slot,
            what: 'file',
            path: stored.path,
            sha256: stored.sha256 === NOT_SUMMED ? undefined : stored.sha256,
            isWhole: isWhole(stored),
            times: false,
            keepsAll: false,
          },
        ],
  );
  const trees = layout.slots.flatMap((slot, i): Beside[] => {
    const filling = slot.kind === 'partition' ? fillingOf(slot) : undefined;
    if (filling?.filesFrom === undefined) return [];
    return [
      {
        at: `slots[${i}].content`,
        slot: slot.id,
        what: 'tree',
        path: filling.filesFrom,
        sha256: filling.files,
        isWhole: filling.files !== undefined,
        times: filling.times !== undefined,
        keepsAll: kindOf(filling).keepsAll === true,
      },
    ];
  });
  return [...files, ...trees];
}

/** Those of which a document does not say the sum, or the size. */
export function notSummed(layout: Layout): Beside[] {
  return besidesOf(layout).filter((one) => !one.isWhole);
}

/** The document with what was found at one of its paths. */
export function withFound(layout: Layout, beside: Beside, found: FoundBeside): Layout {
  if (beside.what === 'file') {
    const naming = namingsOf(layout).find(({ at }) => at === beside.at)!;
    const name = naming.stored.name || found.name;
    return naming.with(layout, { ...naming.stored, ...found, name });
  }
  return changedSlot(layout, beside.slot!, (slot) => {
    const filling = slot.kind === 'partition' ? fillingOf(slot) : undefined;
    return slot.kind === 'partition' && filling ? { ...slot, content: { ...filling, files: found.sha256 } } : slot;
  });
}

/**
 * The document with another path for the files, or the file, of a slot; undefined where nothing can come
 * from a path there. A sum that it says stays, and what is found has to have it.
 */
export function withPath(layout: Layout, id: string, path: string): Layout | undefined {
  const slot = layout.slots.find((one) => one.id === id);
  if (!slot || slot.kind === 'free') return undefined;
  const unknown = { sha256: NOT_SUMMED, name: NOT_SUMMED, size: NOT_SIZED };
  if (slot.kind === 'raw')
    return changedSlot(layout, id, () => ({ ...slot, blob: { ...unknown, ...slot.blob, path } }));
  const filling = fillingOf(slot);
  if (filling) return changedSlot(layout, id, () => ({ ...slot, content: { ...filling, filesFrom: path } }));
  const { content } = slot;
  if (!content || !('sha256' in content)) return undefined;
  return changedSlot(layout, id, () => ({ ...slot, content: { ...content, path } }));
}
