/** `files` and `examine`: what lies in the volumes of an image, fetched from there, and whether they are sound. */
import { open, rm } from 'node:fs/promises';
import { type BlockSource } from '@/core/bytes/blocks';
import { checkWhole, type VolumeCheck } from '@/core/filesystems/ext/check/whole';
import { isExt, openVolume } from '@/core/filesystems/readers';
import {
  BrokenChain,
  contentOf,
  entryAt,
  type EntryOwned,
  type Listing,
  type Volume,
  type VolumeEntry,
} from '@/core/filesystems/volume';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import type { FoundPartition, Survey } from '@/core/survey/found';
import { insideText, isBrowsable, named } from '@/core/survey/structures';
import { moveNewFile } from '@/files/durable';
import { type Answer, answerText } from './answering';
import type { Answers } from './answers';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import { folderTrouble, type Io } from './io';
import { surveyed, withImage } from './open-image';
import { partFile } from './part-files';
import { columns, printable, word } from './text';

export interface VolumeArguments {
  readonly partition?: string;
  readonly sectorSize?: 512 | 4096;
  readonly json?: boolean;
}

export interface FilesArguments extends VolumeArguments {
  readonly into?: string;
}

/** The partition that is meant, among those that can be; without a word the only one. */
export function chosen(
  survey: Survey,
  image: string,
  { partition }: VolumeArguments,
  canBe: (one: FoundPartition) => boolean,
  what: string,
): FoundPartition {
  const all = survey.partitions.filter(canBe);
  const known = all.map((one) => `  --partition ${one.key}   ${named(one)}: ${insideText(one.inside)}`);
  const found = partition === undefined ? all : all.filter(({ key }) => key === partition);
  if (found.length === 1) return found[0]!;
  if (partition !== undefined && survey.partitions.some(({ key }) => key === partition))
    throw new Ended(EXIT.usage, 'not-such-a-volume', `Partition ${partition} of “${image}” holds no ${what}.`, known);
  if (partition !== undefined)
    throw new Ended(EXIT.usage, 'partition-unknown', `“${image}” has no partition “${partition}”.`, known);
  if (all.length === 0) throw new Ended(EXIT.usage, 'no-such-volume', `“${image}” holds no ${what}.`);
  throw new Ended(EXIT.usage, 'which-volume', `“${image}” holds several; say which.`, known);
}

const kindOf = ({ folder, special }: VolumeEntry) => (folder ? 'folder' : (special ?? 'file'));
const modeText = ({ mode, user, group }: EntryOwned) => `${mode.toString(8).padStart(4, '0')} ${user}:${group}`;

function listingText({ entries, trouble }: Listing, remark: string | undefined): string {
  const rows = entries.map((one) => [
    one.folder || one.special !== undefined ? '' : grouped(one.size),
    one.time?.replace('T', ' ') ?? '-',
    one.owned ? modeText(one.owned) : one.attributes.join(', '),
    `${one.name}${one.folder ? '/' : ''}${one.target === undefined ? '' : ` -> ${one.target}`}${one.special !== undefined && one.target === undefined ? ` (${one.special})` : ''}`,
  ]);
  const said = remark === undefined ? '' : `${remark}\n`;
  const damage = trouble === undefined ? '' : `This folder is damaged: ${trouble}. What could be read is shown.\n`;
  return said + damage + columns(['bytes', 'written', 'attributes', 'name'], rows, [0]);
}

function listingData(volume: Volume, path: string, { entries, trouble }: Listing): Answer<Answers['files']> {
  return {
    kind: volume.kind,
    path,
    remark: volume.remark,
    trouble,
    entries: entries.map((one) => ({
      name: one.name,
      kind: kindOf(one),
      size: one.size,
      written: one.time,
      attributes: [...one.attributes],
      target: one.target,
      owned: one.owned && { ...one.owned },
    })),
  };
}

/** Writes a file of a volume into a new file, which appears whole or not at all. */
async function fetched(io: Io, source: BlockSource, volume: Volume, entry: VolumeEntry, into: string): Promise<void> {
  const { file } = await partFile(into);
  try {
    await io.whole(async () => {
      const out = await open(file, 'wx');
      try {
        for await (const bytes of contentOf(volume, source, entry)) {
          if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; nothing was left.');
          await out.writeFile(bytes);
        }
        await out.sync();
      } finally {
        await out.close();
      }
      await moveNewFile(file, into);
    });
  } catch (error) {
    await rm(file, { force: true });
    if (error instanceof BrokenChain)
      throw new Ended(EXIT.file, 'file-damaged', `“${entry.name}” cannot be read: ${error.message}. Nothing was left.`);
    throw error instanceof Ended ? error : await folderTrouble(into, error);
  }
}

/** `files`: what is in a folder of a volume; with `--into`, a file of it. */
export function files(io: Io, image: string, path: string | undefined, options: FilesArguments): Promise<Exit> {
  return withImage(image, async (source) => {
    const survey = await surveyed(source, options.sectorSize);
    const found = chosen(survey, image, options, isBrowsable, 'volume whose files can be listed');
    const volume = await openVolume(source, found.start * survey.sectorSize);
    if (!volume) throw new Ended(EXIT.usage, 'no-such-volume', `${named(found)} of “${image}” cannot be read.`);
    const at = (path ?? '').replace(/^\/+|\/+$/g, '');
    const entry = await entryAt(volume, at);
    if (!entry) throw new Ended(EXIT.usage, 'path-unknown', `There is no “${at}” in ${named(found)}.`);
    const isFolder = entry === 'root' || entry.folder;
    const { into } = options;
    if (into !== undefined) {
      if (isFolder || entry.special !== undefined)
        throw new Ended(
          EXIT.usage,
          'not-a-file',
          `“${at || '/'}” is a ${isFolder ? 'folder' : entry.special}; --into fetches one file.`,
        );
      await fetched(io, source, volume, entry, into);
      const { size, name } = entry;
      io.out(
        options.json
          ? answerText('fetch', { path: at, size, file: into })
          : printable(`${into}: “${name}”, ${counted(size, 'byte')}.\n`),
      );
      return EXIT.done;
    }
    const listing: Listing = isFolder
      ? await volume.list(entry === 'root' ? undefined : entry)
      : { entries: [entry], trouble: undefined };
    io.out(
      options.json
        ? answerText('files', listingData(volume, at, listing))
        : printable(listingText(listing, volume.remark)),
    );
    return listing.trouble === undefined ? EXIT.done : EXIT.stop;
  });
}

function checkText(what: string, { refused, words, faults, isCutShort, files: many, folders }: VolumeCheck): string {
  if (refused !== undefined) return `${what}: it cannot be checked: ${refused}.\n`;
  const lines = faults.map(({ code, where, says, files: touched }) => {
    const names = touched ? `    ${touched.map(word).join(' ')}\n` : '';
    return `fault: ${where}, ${code}: ${says}\n${names}`;
  });
  const head = `${what}: ${counted(folders, 'folder')} and ${counted(many, 'file')} were looked at.\n`;
  const more = isCutShort ? 'There may be more: after so many no more are told.\n' : '';
  return head + words.map((one) => `${one}\n`).join('') + (lines.join('') || 'Nothing is amiss.\n') + more;
}

/** `examine`: checks all of the ext volumes of an image, or one of them. */
export function examine(io: Io, image: string, options: VolumeArguments): Promise<Exit> {
  return withImage(image, async (source) => {
    const survey = await surveyed(source, options.sectorSize);
    const canBe = ({ inside }: FoundPartition) => inside.kind === 'known' && isExt(inside.content);
    const all =
      options.partition === undefined
        ? survey.partitions.filter(canBe)
        : [chosen(survey, image, options, canBe, 'ext volume')];
    if (all.length === 0) throw new Ended(EXIT.usage, 'no-such-volume', `“${image}” holds no ext volume.`);
    const progress = (text: string) => io.isTerminal && !options.json && io.error(text);
    const told: { partition: FoundPartition; check: VolumeCheck }[] = [];
    for (const one of all) {
      const [at, available] = [one.start * survey.sectorSize, one.sectors * survey.sectorSize];
      const check = await checkWhole(source, at, available, {
        onProgress: (phase, done, total) =>
          progress(`\r\u001b[K${named(one)}: ${phase}${total > 0 ? `, ${inBinary(done)} of ${inBinary(total)}` : ''}`),
      });
      told.push({ partition: one, check });
    }
    progress('\r\u001b[K');
    io.out(
      options.json
        ? answerText('examine', {
            volumes: told.map(({ partition, check }) => ({
              partition: partition.key,
              ...check,
              words: [...check.words],
              faults: check.faults.map(({ files: touched, ...fault }) => ({
                ...fault,
                ...(touched && { files: [...touched] }),
              })),
            })),
          })
        : printable(
            told
              .map(({ partition, check }) =>
                checkText(`${named(partition)}, ${inBoth(partition.sectors * survey.sectorSize)}`, check),
              )
              .join(''),
          ),
    );
    return told.some(({ check }) => check.refused !== undefined || check.faults.length > 0) ? EXIT.stop : EXIT.done;
  });
}
