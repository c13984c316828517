/** `series`: many copies of one layout, each with ids of its own, on all cores. */
import { mkdir, rm, rmdir, stat } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { sameInEveryCopy } from '@/core/layout/series';
import { COPY_LIMIT } from '@/core/layout/vocabulary';
import { counted, inBinary } from '@/core/quantity/units';
import { startThread } from '@/files/thread';
import { copyMaker, type CopyOrder, type MadeCopy } from './copies';
import type { DocumentOptions } from './commands';
import { answerText } from './answering';
import { buildTrouble } from './build';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import { documentWritten, folderOf, folderTrouble, type Io, writeNew } from './io';
import { partFile } from './part-files';
import { columns, printable } from './text';
import { gather, type Gathered } from './supplies';

export interface SeriesArguments extends DocumentOptions {
  readonly into: string;
  readonly copies: number;
  readonly first: number;
  /** New file for the list of ids. */
  readonly list?: string;
}

/** What a thread says of an order. */
export type CopyAnswer =
  | { readonly made: MadeCopy }
  | {
      readonly failed: {
        readonly name: string;
        readonly message: string;
        readonly code: string | undefined;
        readonly exit?: Exit;
        readonly lines?: readonly string[];
      };
    };

/** Copies from which on threads are worth their start. */
const MANY = 16;

/** Makes one copy after another. */
interface Maker {
  readonly make: (order: CopyOrder) => Promise<MadeCopy>;
  readonly close: () => Promise<unknown>;
}

function errorOf({ failed }: Extract<CopyAnswer, { failed: unknown }>): Error {
  const { exit, message, code, lines, name } = failed;
  if (exit !== undefined) return new Ended(exit, code ?? 'copy', message, lines);
  return Object.assign(new Error(message), { code, of: name });
}

/** A thread that makes copies; `program` is where its program lies. */
function threadMaker(program: string, gathered: Gathered): Maker {
  const { ask, close } = startThread<CopyOrder, CopyAnswer>(program, gathered, 'A thread that makes copies has ended.');
  const make = async (order: CopyOrder) => {
    const answer = await ask(order);
    if ('made' in answer) return answer.made;
    throw errorOf(answer);
  };
  return { make, close };
}

function makersFor(gathered: Gathered, copies: number, signal: AbortSignal): Maker[] {
  const program = process.env.LOESS_COPIES_WORKER;
  if (copies < MANY || program === undefined)
    return [{ make: copyMaker(gathered, signal), close: () => Promise.resolve() }];
  return Array.from({ length: availableParallelism() }, () => threadMaker(program, gathered));
}

/** Makes all copies, on all makers; stops at the first that fails. */
async function makeAll(
  orders: readonly CopyOrder[],
  makers: readonly Maker[],
  signal: AbortSignal,
  onMade: (made: MadeCopy) => void,
): Promise<void> {
  let next = 0;
  let hasFailed = false;
  const work = async ({ make }: Maker) => {
    try {
      while (!hasFailed && next < orders.length) {
        signal.throwIfAborted();
        onMade(await make(orders[next++]!));
      }
    } catch (error) {
      hasFailed = true;
      throw error;
    }
  };
  const outcomes = await Promise.allSettled(makers.map(work));
  await Promise.all(makers.map(({ close }) => close()));
  const failed = outcomes.find((one) => one.status === 'rejected');
  if (failed) throw failed.reason;
}

function seriesRange({ copies, first }: SeriesArguments): number[] {
  if (copies < 1) throw new Ended(EXIT.usage, 'usage-copies', 'A series has one copy at least.');
  if (first + copies - 1 > COPY_LIMIT)
    throw new Ended(EXIT.usage, 'usage-copies', `A series has ${COPY_LIMIT} copies at most.`);
  return Array.from({ length: copies }, (_, i) => first + i);
}

/** Where the image of each copy goes: the document's name and its number, in as many digits as the last one has. */
async function ordersFor(document: string, options: SeriesArguments): Promise<CopyOrder[]> {
  const numbers = seriesRange(options);
  const stem = document === '-' ? 'layout' : path.basename(document).replace(/\.[^.]+$/, '');
  const digits = String(numbers.at(-1)).length;
  const orders: CopyOrder[] = [];
  for (const copy of numbers) {
    const image = path.join(options.into, `${stem}-${String(copy).padStart(digits, '0')}.img`);
    if (await stat(image).catch(() => undefined))
      throw new Ended(EXIT.file, 'file-exists', `“${image}” is there already; a series replaces nothing.`);
    orders.push({ copy, image, temporary: '' });
  }
  const [one] = orders;
  const { file } = await partFile(one!.image);
  const end = file.slice(one!.image.length);
  return orders.map((order) => ({ ...order, temporary: order.image + end }));
}

/** Says where a series stands: how many, how fast, how long still. */
function progressOf(io: Io, isQuiet: boolean, total: number): (done: number) => void {
  const started = performance.now();
  return (done) => {
    if (!io.isTerminal || isQuiet) return;
    const rate = done / ((performance.now() - started) / 1000);
    io.error(
      `\r${done} of ${total} copies, ${rate.toFixed(1)} a second, ${Math.ceil((total - done) / rate)} s left   `,
    );
  };
}

function listText(made: readonly MadeCopy[]): string {
  const rows = made.flatMap(({ copy, image, medium = '', slots }) => {
    const name = path.basename(image);
    const ids = slots.map(({ id, partition = '', content = '' }) => [id, partition, content]);
    const [first = ['', '', ''], ...more] = ids;
    return [[String(copy), name, medium, ...first], ...more.map((one) => ['', '', '', ...one])];
  });
  return columns(['copy', 'image', 'medium', 'slot', 'partition', 'content'], rows, [0]);
}

/** `series`: the images, whole or none of them, and the list of their ids. */
export async function series(io: Io, document: string, options: SeriesArguments): Promise<Exit> {
  const { layout } = await documentWritten(io, document);
  const same = sameInEveryCopy(layout);
  const orders = await ordersFor(document, options);
  const { unpackInto } = await partFile(path.join(options.into, 'series'));
  if (same) io.remark(same);
  const made: MadeCopy[] = [];
  const progress = progressOf(io, options.json === true, orders.length);
  await io.whole(async () => {
    const isNewFolder = await makeOwnFolder(options.into);
    try {
      const supplies = await gather(io, layout, folderOf(document), { ...options, unpackInto });
      try {
        await makeAll(orders, makersFor(supplies.gathered, orders.length, io.signal), io.signal, (one) => {
          made.push(one);
          progress(made.length);
        });
      } finally {
        await supplies.close();
      }
      io.signal.throwIfAborted();
      made.sort((a, b) => a.copy - b.copy);
      if (options.list !== undefined) await writeNew(io, answerText('series', { copies: made }), options.list);
    } catch (error) {
      for (const { image } of made) await rm(image, { force: true });
      if (isNewFolder) await rmdir(options.into).catch(() => undefined);
      if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; no copy was left.');
      throw await buildTrouble(options.into, error);
    }
  });
  if (io.isTerminal && !options.json) io.error('\r\u001b[K');
  const bytes = made.reduce((sum, one) => sum + one.bytes, 0);
  io.out(
    options.json
      ? answerText('series', { copies: made })
      : printable(`${listText(made)}${counted(made.length, 'image')} in ${options.into}, ${inBinary(bytes)} in all.\n`),
  );
  return EXIT.done;
}

/** Makes the folder of a series where it is not there; true where it was made. */
async function makeOwnFolder(folder: string): Promise<boolean> {
  const found = await stat(folder).catch(() => undefined);
  if (found && !found.isDirectory()) throw new Ended(EXIT.file, 'not-a-folder', `“${folder}” is no folder.`);
  if (found) return false;
  await mkdir(folder).catch(async (error: unknown) => {
    throw await folderTrouble(folder, error);
  });
  return true;
}
