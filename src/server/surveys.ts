/** Use cases of surveys: what is in an image, and any sector of it. */
import type { FileHandle } from 'node:fs/promises';
import type { LedgerView, SurveyView } from '@/contract/surveys';
import { BudgetSpent } from '@/core/bytes/budget';
import { type BlockSource, SourceShrank } from '@/core/bytes/blocks';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Survey } from '@/core/survey/found';
import { ledgerOf } from '@/core/survey/ledger';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { surveyFitting } from '@/core/survey/survey';
import { simulatedPath } from './bench';
import { finishedImage } from './builds';
import type { Context } from './context';
import { NotPlain, openPlain } from '../files/plain-file';
import { fileSource } from '../files/file-source';
import { NoLongerAsked, type OrderKind, type Orders, type ReadProgress } from '../files/reading/orders';
import { Reading } from '../files/reading/reading';
import { imageFilePath } from './image-folder';
import { isClientGone } from './log';
import { Refusal } from './refusal';

type SectorSize = 512 | 4096;

/** Which image is meant, and how its sectors are to be read; without a size it is found out. */
export interface SurveyAsked {
  readonly of: string;
  readonly sectorSize?: SectorSize | undefined;
}

/** Where an image lies, and what it is called; `of` names it as surveys do. */
export async function placeOfImage(context: Context, of: string): Promise<{ path: string; name: string }> {
  const at = of.indexOf(':');
  const [kind, name] = [of.slice(0, at), of.slice(at + 1)];
  if (kind === 'file') return { path: imageFilePath(context, name), name };
  if (kind === 'build') return finishedImage(context, name);
  if (kind === 'bench') return { path: simulatedPath(context, name), name };
  throw new Refusal(400, 'image-unknown', 'Say which image: file:NAME, build:ID or bench:NAME.', 'of');
}

/** Asks the thread that reads for something of an image. */
export type Ask = <K extends OrderKind>(kind: K, asked: Orders[K]['asked']) => Promise<Orders[K]['answer']>;
/** Asks another thread, which says how far it is, as long as somebody wants the answer. */
export type AskOf = <K extends OrderKind>(
  reading: Reading,
  kind: K,
  asked: Orders[K]['asked'],
  isWanted: () => boolean,
  onProgress: (progress: ReadProgress) => void,
) => Promise<Orders[K]['answer']>;

interface Opened {
  readonly source: BlockSource;
  readonly path: string;
  readonly name: string;
  /** What changes when the file does. */
  readonly key: string;
  readonly ask: Ask;
  readonly askOf: AskOf;
}

/** Has a thread of its own do something, which stands back, as long as somebody waits for it. */
export async function askAside<K extends OrderKind>(
  { askOf }: Opened,
  kind: K,
  asked: Orders[K]['asked'],
  memory?: number,
): Promise<Orders[K]['answer']> {
  const reading = Reading.inBackground(memory);
  try {
    return await askOf(
      reading,
      kind,
      asked,
      () => !isClientGone(),
      () => undefined,
    );
  } finally {
    reading.end();
  }
}

/** An open image, with what is in it. */
export type Surveyed = Opened & { readonly survey: Survey };

async function refuseCompressed(handle: FileHandle, name: string): Promise<void> {
  const { bytesRead, buffer } = await handle.read(Buffer.alloc(2), 0, 2, 0);
  if (bytesRead === 2 && buffer[0] === 0x1f && buffer[1] === 0x8b)
    throw new Refusal(
      422,
      'image-compressed',
      `“${name}” is compressed (gzip). Unpack it, then survey what comes out.`,
      'of',
    );
}

/** Whoever asked has left: nobody will see the answer. */
class ClientLeft extends Refusal {
  constructor() {
    super(499, 'client-left', 'The client left before this was done.');
  }
}

/** A source that is read only as long as somebody waits for what comes of it. */
function whileWanted(source: BlockSource): BlockSource {
  return {
    ...source,
    read: (offset, length, into) => {
      if (isClientGone()) return Promise.reject(new ClientLeft());
      return source.read(offset, length, into);
    },
  };
}

/** Opens an image for reading, and closes it whatever happens. */
async function withImage<T>(context: Context, of: string, work: (opened: Opened) => Promise<T>): Promise<T> {
  const { path, name } = await placeOfImage(context, of);
  const handle = await openPlain(path).catch((error: NodeJS.ErrnoException) => {
    if (error instanceof NotPlain)
      throw new Refusal(
        422,
        'not-a-plain-file',
        `“${name}” is ${error.what}, and no plain file: it is not read.`,
        'of',
      );
    if (error.code === 'ENOENT') throw new Refusal(404, 'file-unknown', `There is no file “${name}”.`, 'of');
    throw error;
  });
  try {
    const { size, mtimeMs, ino } = await handle.stat();
    await refuseCompressed(handle, name);
    const key = `${path} ${ino} ${size} ${mtimeMs}`;
    const file = { descriptor: handle.fd, size, key };
    return await work({
      source: whileWanted(fileSource(handle, size)),
      path,
      name,
      key,
      askOf: (reading, kind, asked, isWanted, onProgress) => reading.ask(kind, file, asked, isWanted, onProgress),
      ask: (kind, asked) => context.reading.ask(kind, file, asked, () => !isClientGone()),
    });
  } catch (error) {
    if (error instanceof NoLongerAsked) throw new ClientLeft();
    if (error instanceof BudgetSpent)
      throw new Refusal(
        422,
        'survey-too-long',
        `“${name}” was not read to its end: it is damaged so that reading it takes too long, or its disk is very slow. Survey it again; if it comes to the same, look at its sectors in the ledger.`,
        'of',
      );
    if (!(error instanceof SourceShrank)) throw error;
    throw new Refusal(
      409,
      'file-shrank',
      `“${name}” became shorter while it was read. Survey it again when nothing writes to it.`,
      'of',
    );
  } finally {
    await handle.close();
  }
}

/** Surveys that were made lately: going from sector to sector needs the same one again and again. */
const LATELY = 8;
const cache = new WeakMap<Context, Map<string, Promise<Survey>>>();

function remembered(context: Context, key: string, make: () => Promise<Survey>): Promise<Survey> {
  const known = cache.get(context) ?? new Map<string, Promise<Survey>>();
  cache.set(context, known);
  const made = known.get(key) ?? make();
  known.delete(key);
  known.set(key, made);
  made.catch(() => {
    if (known.get(key) === made) known.delete(key);
  });
  if (known.size > LATELY) known.delete(known.keys().next().value!);
  // Whoever made it may have left; who waits with them makes it anew.
  return made.catch((error: unknown) => {
    if (!(error instanceof NoLongerAsked) || isClientGone()) throw error;
    return remembered(context, key, make);
  });
}

/** The survey at the size asked for, or at the one that fits what is found. */
async function surveyOf(context: Context, { key, ask }: Opened, asked: SectorSize | undefined): Promise<Survey> {
  const at = (sectorSize: SectorSize) =>
    remembered(context, `${key} ${sectorSize}`, () => ask('survey', { sectorSize }));
  return asked === undefined ? surveyFitting(at) : at(asked);
}

/** A survey with the image still open. */
export function withSurvey<T>(
  context: Context,
  { of, sectorSize }: SurveyAsked,
  work: (opened: Surveyed) => Promise<T>,
): Promise<T> {
  return withImage(context, of, async (opened) =>
    work({ ...opened, survey: await surveyOf(context, opened, sectorSize) }),
  );
}

/** What is in an image. The image is read by ranges, and never written. */
export function surveyImage(context: Context, { of, sectorSize }: SurveyAsked): Promise<SurveyView> {
  return withImage(context, of, async (opened) => {
    const started = performance.now();
    const survey = await surveyOf(context, opened, sectorSize);
    return {
      of,
      name: opened.name,
      survey,
      findings: checkSurvey(survey),
      isGuess: sectorSize === undefined,
      milliseconds: performance.now() - started,
    };
  });
}

/** One sector of an image, decoded. */
export function openSector(context: Context, asked: SurveyAsked & { readonly sector: number }): Promise<LedgerView> {
  return withImage(context, asked.of, async (opened) => {
    const survey = await surveyOf(context, opened, asked.sectorSize);
    const { sectorSize, sectors } = survey;
    if (asked.sector >= sectors)
      throw new Refusal(
        400,
        'sector-beyond-the-end',
        `The image has ${sectors} sectors; the last is ${sectors - 1}.`,
        'sector',
      );
    const structures = structuresOf(survey);
    const bytes = await opened.source.read(asked.sector * sectorSize, sectorSize);
    return {
      ledger: ledgerOf(bytes, asked.sector, structureAt(structures, asked.sector)),
      sectors,
      stops: structures.filter((one) => one.form.kind !== 'unknown').map(({ what, start }) => ({ what, start })),
    };
  });
}
