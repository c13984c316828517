/** Writing slots as lines; `line.ts` reads them, and says what the words are. */
import type { Content, ContentOf } from '../filesystems/shapes';
import { extTexts, type LineExt } from './line-ext';
import type { FreeSlot, PartitionSlot, RawSlot, Slot } from './document';
import type { Role } from './vocabulary';

/** What a line says of a FAT file system: everything but its id, and what is in it. */
export type LineFat = Omit<ContentOf<'fat'>, 'volumeId' | 'files' | 'times' | 'code'>;
/** Contents that a line can say. */
export type LineContent = LineFat | LineExt | ContentOf<'left'>;

/** What a line says of a partition: everything but its ids, contents that it has no words for, and how it is handed over. */
export type LinePartition = Omit<
  PartitionSlot,
  'id' | 'partitionId' | 'content' | 'mounting' | 'writes' | 'keeps' | 'repack'
> & {
  readonly content?: LineContent;
};
/** What a line says. */
export type LineSlot = LinePartition | Omit<RawSlot, 'id' | 'blob' | 'keeps'> | Omit<FreeSlot, 'id'>;

/** How roles are said. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  boot: 'boot',
  esp: 'ESP',
  'bios-boot': 'BIOS boot',
  system: 'system',
  data: 'data',
  swap: 'swap',
};

function quoted(text: string): string {
  return `"${text.replaceAll('"', '""')}"`;
}

function nameText(name: string): string {
  return /^[^:"\s][^:"]*$/.test(name) && name === name.trim() ? name : quoted(name);
}

function mountText(mount: string): string {
  return /[,;"]/.test(mount) ? `mount ${quoted(mount)}` : mount;
}

function contentTexts(content: LineContent | Content | undefined): string[] {
  if (content?.kind === 'left') return [content.expects === undefined ? 'left' : `left for ${content.expects}`];
  if (content?.kind === 'ext')
    return [...extTexts(content), ...(content.label === undefined ? [] : [`label ${quoted(content.label)}`])];
  if (content?.kind !== 'fat') return [];
  const { variant, cluster, rootEntries, padding, label } = content;
  return [
    `FAT${variant ?? ''}`,
    ...(cluster === undefined ? [] : [`cluster ${cluster}`]),
    ...(rootEntries === undefined ? [] : [`root entries ${rootEntries}`]),
    ...(padding === undefined ? [] : [`padding ${padding}`]),
    ...(label === undefined ? [] : [`label ${quoted(label)}`]),
  ];
}

function placingTexts({ at, grain, endsOnGrain }: Pick<FreeSlot, 'at' | 'grain' | 'endsOnGrain'>): string[] {
  return [
    ...(at === undefined ? [] : [`from ${at}`]),
    ...(grain === undefined ? [] : [`grain ${grain}`]),
    ...(endsOnGrain ? ['ends on the grain'] : []),
  ];
}

/** The canonical line of a slot. */
export function writeLine(slot: LineSlot | Slot): string {
  const parts =
    slot.kind === 'raw'
      ? ['raw', `from ${slot.at}`, slot.length]
      : slot.kind === 'free'
        ? ['free', slot.size, ...placingTexts(slot)]
        : [
            slot.size,
            ...(slot.role === 'data' ? [] : [ROLE_WORDS[slot.role]]),
            ...contentTexts(slot.content),
            ...(slot.mount === undefined ? [] : [mountText(slot.mount)]),
            ...(slot.active ? ['active'] : []),
            ...(slot.logical ? ['logical'] : []),
            ...placingTexts(slot),
            ...(slot.type === undefined ? [] : [`type ${slot.type}`]),
            ...(slot.attributes ?? []),
          ];
  return `${nameText(slot.name)}: ${parts.join(', ')}`;
}
