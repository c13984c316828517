/** Use cases of the room of a volume in an image: where it is, how small an ext can be, and that ext in another length. */
import { stat } from 'node:fs/promises';
import type { BuildReport, BuildView } from '@/contract/builds';
import type { VolumeRoomView } from '@/contract/surveys';
import type { RepackRefusal, RepackWish } from '@/core/filesystems/ext/repack/order';
import { isExt } from '@/core/filesystems/readers';
import { amountInBytes, parseExact } from '@/core/quantity/size-language';
import type { FoundPartition } from '@/core/survey/found';
import { isBrowsable, named } from '@/core/survey/structures';
import { imagePath, UNFINISHED } from '@/files/data-folder';
import { Reading } from '../files/reading/reading';
import type { VolumeAsked } from './browsing';
import { orderImage } from './builds';
import type { Context } from './context';
import { forJob } from './log';
import { Refusal } from './refusal';
import { placeOfImage, withSurvey } from './surveys';

/** Cells of the map: as many as are told apart on a screen. */
const CELLS = 64;
const BLOCK = 512;

function partitionOf(partitions: readonly FoundPartition[], name: string, key: string): FoundPartition {
  const found = partitions.find((one) => one.key === key);
  if (!found) throw new Refusal(404, 'partition-unknown', `“${name}” has no partition “${key}”.`, 'partition');
  return found;
}

const canBeRepacked = ({ inside }: FoundPartition) => inside.kind === 'known' && isExt(inside.content);

/** Where the room of a volume is, and how small it can be. */
export function volumeRoom(context: Context, asked: VolumeAsked): Promise<VolumeRoomView> {
  return withSurvey(context, asked, async ({ survey, name, ask }) => {
    const found = partitionOf(survey.partitions, name, asked.partition);
    if (!isBrowsable(found))
      throw new Refusal(
        422,
        'not-browsable',
        `${named(found)} of “${name}” holds no volume that is read.`,
        'partition',
      );
    const at = found.start * survey.sectorSize;
    const map = (await ask('map', { at, cells: CELLS })) ?? null;
    if (!canBeRepacked(found)) return { map, minima: null, refused: null };
    const minima = await ask('minimum', { at });
    return minima.ok ? { map, minima: minima.value, refused: null } : { map, minima: null, refused: minima.error };
  });
}

/** What is ordered: a size of the size language, or `minimum`. */
export interface RepackAsked extends VolumeAsked {
  readonly size: string;
  readonly keepsNumbers: boolean;
  readonly withoutFaulty: boolean;
}

function bytesOf({ size }: RepackAsked, sectorSize: number): number | undefined {
  if (size === 'minimum') return undefined;
  const amount = parseExact(size);
  if (!amount.ok)
    throw new Refusal(400, 'no-size', `“${size}” is no size: say for example 512 MiB, 40 GB, or minimum.`, 'size');
  return amountInBytes(amount.value, sectorSize);
}

function refusalWords({ why, faults }: RepackRefusal): string {
  const named = faults.flatMap(({ files = [] }) => files);
  const which = named.length === 0 ? '' : ` They touch ${named.slice(0, 5).join(', ')}${named.length > 5 ? ' …' : ''}.`;
  const [one] = faults;
  const first = one ? ` First: ${one.where}, ${one.code}: ${one.says}.` : '';
  return `The volume is not repacked: ${why}.${first}${which}`;
}

/** Lays the volume anew, in a thread of its own. */
async function repacked(
  context: Context,
  asked: RepackAsked,
  { id, from, wish }: { readonly id: string; readonly from: string; readonly wish: RepackWish },
  signal: AbortSignal,
  report: (phase: string, done: number, total: number) => void,
): Promise<BuildReport> {
  const started = performance.now();
  const reading = Reading.inBackground();
  const path = imagePath(context.folder, id);
  try {
    return await withSurvey(context, asked, async ({ survey, name, askOf }) => {
      const found = partitionOf(survey.partitions, name, asked.partition);
      const order = {
        ...{ from, wish, path, temporary: path + UNFINISHED },
        at: found.start * survey.sectorSize,
        available: found.sectors * survey.sectorSize,
      };
      const done = await askOf(
        reading,
        'repack',
        order,
        () => !signal.aborted,
        ({ phase, done: bytes, total }) => report(phase, bytes, total),
      );
      if (!done.ok) throw new Refusal(409, 'not-repacked', refusalWords(done.error), 'partition');
      const { size, written, free, words, leftOut } = done.value;
      return {
        ...{ size, writtenBytes: written, ranges: [], comparisons: [] },
        volumes: [{ partition: 'whole', name: 'the volume' }],
        repacked: { from: `${named(found)} of ${name}`, free, words, leftOut },
        milliseconds: performance.now() - started,
      };
    });
  } finally {
    reading.end();
  }
}

/** Orders an ext volume in another length, as an image of its own. */
export function startRepack(context: Context, asked: RepackAsked): Promise<BuildView> {
  return withSurvey(context, asked, async ({ survey, name, key, ask }) => {
    const found = partitionOf(survey.partitions, name, asked.partition);
    if (!canBeRepacked(found))
      throw new Refusal(422, 'not-repacked', 'Only ext2, ext3 and ext4 are laid anew.', 'partition');
    const numbering = asked.keepsNumbers ? 'kept' : 'renumbered';
    const bytes = bytesOf(asked, survey.sectorSize);
    const wish: RepackWish = { bytes, numbering, withoutFaulty: asked.withoutFaulty };
    if (!asked.withoutFaulty) {
      const minima = await ask('minimum', { at: found.start * survey.sectorSize });
      if (!minima.ok) throw new Refusal(409, 'not-repacked', `It cannot be laid anew: ${minima.error}.`, 'partition');
    }
    const { path } = await placeOfImage(context, asked.of);
    const { blocks } = await stat(/* turbopackIgnore: true */ path);
    const takes = Math.min(blocks * BLOCK, bytes ?? found.sectors * survey.sectorSize);
    const stem = name.replace(/\.[a-z0-9]{1,5}$/i, '');
    const called = `${stem}-${asked.partition === 'whole' ? '' : `${asked.partition}-`}repacked.img`;
    const size = bytes ?? found.sectors * survey.sectorSize;
    const same = JSON.stringify([key, asked.partition, wish]);
    return orderImage(
      context,
      { layoutId: '', revision: 0, name: called, size, takes, key: same },
      (id) => (signal, report) => forJob(() => repacked(context, asked, { id, from: path, wish }, signal, report)),
    );
  });
}
