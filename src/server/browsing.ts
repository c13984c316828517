/** Use cases of browsing: folders and files of volumes in images, and taking them into the store. */
import type { FileSource, FolderView, TreeView } from '@/contract/contents';
import type { BlockSource } from '@/core/bytes/blocks';
import { visible } from '@/core/bytes/record';
import { openVolume, BROWSABLE } from '@/core/filesystems/readers';
import { pathTrouble, type Tree } from '@/core/filesystems/tree';
import { BrokenChain, contentOf, type Volume, type VolumeEntry, walk } from '@/core/filesystems/volume';
import { insideText, isBrowsable, named } from '@/core/survey/structures';
import { takeVolume, tellsAll } from '../files/volume-tree';
import { listImages } from './builds';
import type { Context } from './context';
import { listImageFiles } from './image-folder';
import { Refusal } from './refusal';
import { addEntries, type UploadTarget } from './store';
import { type Ask, withSurvey } from './surveys';

/** Which volume: an image as a survey names it, and the key of a partition in it. */
export interface VolumeAsked {
  readonly of: string;
  readonly partition: string;
}

interface Opened {
  readonly volume: Volume;
  readonly source: BlockSource;
  readonly name: string;
  readonly text: string;
  /** Where a path leads to in the volume. */
  readonly entry: (path: string) => Promise<VolumeEntry | 'root'>;
}

/** A volume whose folders are read by the thread that reads; bytes of its files come by ranges, and are read here. */
function listedElsewhere(volume: Volume, at: number, ask: Ask): Volume {
  return {
    ...{ kind: volume.kind, remark: volume.remark },
    ...(volume.numbers && { numbers: volume.numbers }),
    ...(volume.says && { says: volume.says }),
    ...(volume.factsOf && { factsOf: (entry) => volume.factsOf!(entry) }),
    canBeChecked: volume.canBeChecked === true,
    view: volume.view,
    list: (folder) => ask('folder', { at, folder }),
    pieces: (file) => volume.pieces(file),
  };
}

function withVolume<T>(
  context: Context,
  { of, partition }: VolumeAsked,
  work: (opened: Opened) => Promise<T>,
): Promise<T> {
  return withSurvey(context, { of }, async ({ survey, source, name, ask }) => {
    const found = survey.partitions.find((one) => one.key === partition);
    if (!found)
      throw new Refusal(
        404,
        'partition-unknown',
        `“${name}” has no partition “${partition.slice(0, 40)}”.`,
        'partition',
      );
    const at = found.start * survey.sectorSize;
    const isThere = found.inside.kind !== 'out of reach';
    const volume = isThere ? await openVolume(source, at, await ask('unfinished', { at })) : undefined;
    if (!volume)
      throw new Refusal(
        422,
        'nothing-to-browse',
        `${named(found)} holds ${insideText(found.inside)}; only ${BROWSABLE.join(', ')} can be browsed.`,
        'partition',
      );
    const entry = async (path: string) => {
      const leads = await ask('entry', { at, path });
      if (!leads) throw new Refusal(404, 'path-unknown', `There is no “${path.slice(0, 200)}” in this volume.`, 'path');
      return leads;
    };
    return work({ volume: listedElsewhere(volume, at, ask), source, name, text: named(found), entry });
  });
}

/** What is in a folder of a volume. */
export function listFolder(context: Context, asked: VolumeAsked & { readonly path: string }): Promise<FolderView> {
  return withVolume(context, asked, async ({ volume, name, text, entry }) => {
    const folder = await entry(asked.path);
    if (folder !== 'root' && !folder.folder)
      throw new Refusal(400, 'not-a-folder', `“${asked.path.slice(0, 200)}” is a file.`, 'path');
    const { entries, trouble } = await volume.list(folder === 'root' ? undefined : folder);
    const { of, partition, path } = asked;
    const { kind, remark = null, numbers = 'first cluster', says = [], canBeChecked = false } = volume;
    const place = { of, name, partition, volume: text, path };
    return { ...place, kind, entries, trouble: trouble ?? null, remark, numbers, says, canBeChecked };
  });
}

/** A file of a volume, streamed to `work` while the image is open. */
export function withVolumeFile<T>(
  context: Context,
  asked: VolumeAsked & { readonly path: string },
  work: (file: VolumeEntry, bytes: AsyncIterable<Uint8Array>) => Promise<T>,
): Promise<T> {
  return withVolume(context, asked, async (opened) => {
    const file = await opened.entry(asked.path);
    if (file !== 'root' && file.special !== undefined)
      throw new Refusal(
        400,
        'not-a-file',
        `“${asked.path.slice(0, 200)}” is a ${file.special}: it has no bytes of its own.`,
        'path',
      );
    if (file === 'root' || file.folder)
      throw new Refusal(
        400,
        'not-a-file',
        `“${asked.path.slice(0, 200)}” is a folder; open it and fetch its files.`,
        'path',
      );
    return work(file, contentOf(opened.volume, opened.source, file));
  });
}

/** Takes a folder of a volume, or one file, with all that is in it among the files of a tree. */
export function takeFromVolume(
  context: Context,
  asked: VolumeAsked & { readonly path: string },
  target: UploadTarget,
  keepsAll = false,
): Promise<TreeView> {
  return withVolume(context, asked, async (opened) => {
    const { volume } = opened;
    if (tellsAll(volume)) {
      const begun = await opened.entry(asked.path);
      return addEntries(context, target, (upload) =>
        takeVolume(volume, opened.source, begun, upload, { leaveOut: true, keepsAll }),
      );
    }
    // Files whose chains cross could be many times what the image is.
    let left = opened.source.size;
    const begun = await opened.entry(asked.path);
    return addEntries(context, target, async (upload) => {
      const entries: Tree[number][] = [];
      const leftOut: { path: string; why: string }[] = [];
      const take = async (path: string, entry: VolumeEntry) => {
        const facts = {
          path,
          ...(entry.time && { time: entry.time }),
          ...(entry.attributes.length > 0 && { attributes: entry.attributes }),
        };
        const why = pathTrouble(path);
        if (why) leftOut.push({ path, why });
        else if (entry.special !== undefined) leftOut.push({ path, why: `is a ${entry.special}` });
        else if (entry.folder) entries.push({ kind: 'folder', ...facts });
        else if ((left -= entry.written ?? entry.size) < 0)
          leftOut.push({ path, why: 'the files before it are as large as the whole image: some share their clusters' });
        else
          try {
            entries.push({
              kind: 'file',
              ...facts,
              ...(await upload.add(contentOf(opened.volume, opened.source, entry))),
            });
          } catch (error) {
            if (!(error instanceof BrokenChain)) throw error;
            leftOut.push({ path, why: `cannot be read: ${error.message}` });
          }
      };
      if (begun !== 'root' && !begun.folder) await take(begun.name, begun);
      else {
        const from = { path: '', folder: begun === 'root' ? undefined : begun };
        for await (const { path, entry } of walk(volume, (path, why) => leftOut.push({ path, why }), from))
          await take(path, entry);
      }
      return { entries, leftOut };
    });
  });
}

/** Most images that are looked into for volumes. */
const IMAGES_LOOKED_AT = 20;

/** Volumes of the images at hand whose files can be taken. */
export async function listSources(context: Context): Promise<FileSource[]> {
  const files = (await listImageFiles(context)).map(({ name }) => ({ of: `file:${name}`, name }));
  const builds = (await listImages(context)).map(({ id, name }) => ({ of: `build:${id}`, name }));
  const found: FileSource[] = [];
  for (const { of, name } of [...files, ...builds].slice(0, IMAGES_LOOKED_AT))
    try {
      found.push(
        ...(await withSurvey(context, { of }, ({ survey }) =>
          Promise.resolve(
            survey.partitions.filter(isBrowsable).map((one) => ({
              of,
              partition: one.key,
              size: survey.size,
              text: `${visible(name)}: ${named(one)} (${insideText(one.inside)})`,
            })),
          ),
        )),
      );
    } catch (error) {
      // An image that cannot be read offers nothing; its survey says why.
      if (!(error instanceof Refusal)) throw error;
    }
  return found;
}
