/** `build`: the image of a layout, read back before it gets its name. */
import { stat } from 'node:fs/promises';
import { checkedCopy } from '@/core/findings/layout/copies';
import { sameInEveryCopy } from '@/core/layout/series';
import { counted, grouped, inBinary } from '@/core/quantity/units';
import { ReadBackError, writeImage } from '@/files/image-file';
import { StoredGone } from '@/files/stored';
import { type Answer, answerText } from './answering';
import type { Answers } from './answers';
import type { DocumentOptions } from './commands';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import { refuseBuild, refuseKept } from './findings-end';
import { documentWritten, folderOf, folderTrouble, type Io } from './io';
import { partFile } from './part-files';
import { printable } from './text';
import { gather, type Supplies } from './supplies';

export async function refuseExisting(image: string, replace: boolean): Promise<void> {
  const found = await stat(image).catch(() => undefined);
  if (!found) return;
  if (!found.isFile())
    throw new Ended(EXIT.file, 'not-a-file', `“${image}” is not a plain file; an image is written into files only.`);
  if (!replace)
    throw new Ended(
      EXIT.file,
      'file-exists',
      `“${image}” is there already. Say --replace to put the new image in its place.`,
    );
}

export interface BuildArguments extends DocumentOptions {
  readonly into: string;
  readonly copy?: number;
  readonly replace?: boolean;
}

/** `build`: the image file, read back before it gets its name. */
export async function build(io: Io, document: string, options: BuildArguments): Promise<Exit> {
  const { layout } = await documentWritten(io, document);
  const part = await partFile(options.into);
  for (const name of part.left)
    io.remark(`“${name}” lies beside it: of a build that goes on, or ended elsewhere. It is left alone.`);
  try {
    // What has to be unpacked lies beside the image until that is written.
    const filling = { ...options, unpackInto: part.unpackInto };
    const report = await io.whole(async () =>
      buildFrom(io, await gather(io, layout, folderOf(document), filling), options, part.file),
    );
    const agreeing = report.comparisons.filter((one) => one.agrees).length;
    io.out(
      options.json
        ? answerText('build', buildData(options.into, report))
        : printable(
            `${options.into}: ${counted(report.size, 'byte')}, ${grouped(report.writtenBytes)} of them written, in ${Math.ceil(report.milliseconds)} ms; ${counted(agreeing, 'fact')} read back as meant.\n${report.accepted!.map((one) => `risk accepted: ${one.sentence} (${one.reason})\n`).join('')}`,
          ),
    );
    return EXIT.done;
  } catch (error) {
    if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; nothing of the image was left.');
    throw await buildTrouble(options.into, error);
  }
}

/** Why an image was not made, as an end of the program. */
export async function buildTrouble(into: string, error: unknown): Promise<Ended> {
  // A thread says of its errors what they were.
  const { name, message } = { name: (error as { of?: string }).of, message: (error as Error).message };
  if (error instanceof ReadBackError || name === ReadBackError.name)
    return new Ended(EXIT.readBack, 'read-back-differs', message, [
      'The layout is not at fault: this is a fault of the program, or of the disk that was written to.',
      'Nothing was left. Please report it, with the layout, to whoever gave you the program.',
    ]);
  if (error instanceof StoredGone || name === StoredGone.name) return new Ended(EXIT.file, 'content-gone', message);
  return error instanceof Ended ? error : folderTrouble(into, error);
}

/** What a build came to, for machines. */
function buildData(
  image: string,
  { milliseconds, accepted = [], volumes = [], ...report }: Report,
): Answer<Answers['build']> {
  return { image, ...report, accepted, volumes, thisRun: { milliseconds } };
}

type Report = Awaited<ReturnType<typeof writeImage>>;

/** Builds what was gathered, and lets go of it. */
async function buildFrom(io: Io, supplies: Supplies, options: BuildArguments, temporary: string): Promise<Report> {
  try {
    const { placement, findings } = checkedCopy(supplies.layout, options.copy ?? 0, supplies.contents);
    refuseKept(placement.layout);
    refuseBuild(findings);
    const same = options.copy ? sameInEveryCopy(supplies.layout) : undefined;
    if (same) io.remark(same);
    await refuseExisting(options.into, options.replace === true);
    const progress = (text: string) => io.isTerminal && !options.json && io.error(text);
    const report = await writeImage({
      placement,
      path: options.into,
      temporary,
      isNew: options.replace !== true,
      fileOf: supplies.fileOf,
      signal: io.signal,
      onProgress: ({ phase, done, total }) => progress(`\r${phase}: ${inBinary(done)} of ${inBinary(total)}   `),
    });
    progress('\r\u001b[K');
    return report;
  } finally {
    await supplies.close();
  }
}
