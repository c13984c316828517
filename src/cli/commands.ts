/** What the terminal program does. Each command ends with the number that it returns. */
import { stat } from 'node:fs/promises';
import { SourceShrank } from '@/core/bytes/blocks';
import { openRisks } from '@/core/findings/layout/acceptance';
import { check as checkPlacement } from '@/core/findings/layout/check';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import { layoutSchema } from '@/core/layout/schema';
import { copyOf, sameInEveryCopy } from '@/core/layout/series';
import { place as placeLayout } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { counted, grouped, inBinary } from '@/core/quantity/units';
import { ledgerOf } from '@/core/survey/ledger';
import { structureAt, structuresOf } from '@/core/survey/structures';
import { fittingSectorSize, surveyMedium } from '@/core/survey/survey';
import { fileSource } from '@/files/file-source';
import { ReadBackError, writeImage } from '@/files/image-file';
import { StoredGone } from '@/files/stored';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import {
  type Document,
  documentWritten,
  fileTrouble,
  folderOf,
  folderTrouble,
  openToSurvey,
  type Io,
  writeNew,
} from './io';
import { partFile } from './part-files';
import { findingsText, jsonText, ledgerText, placementText, printable, surveyText } from './report';
import { gather, type GatherOptions, type Supplies, type SupplyOptions } from './supplies';

const json = (value: unknown): string => jsonText(value, 2);

/** The number that findings end with. */
function exitFor(findings: readonly Finding[]): Exit {
  if (stopsAmong(findings).length > 0) return EXIT.stop;
  return openRisks(findings).length > 0 ? EXIT.risk : EXIT.done;
}

/** What every command takes that reads a document with what it is filled with. */
export interface DocumentOptions extends SupplyOptions {
  readonly json?: boolean;
}

/** Reads a document and finds what it is filled with. */
export async function supplied(io: Io, document: string, options: GatherOptions): Promise<Document & Supplies> {
  const written = await documentWritten(io, document);
  return { ...written, ...(await gather(io, written.layout, folderOf(document), options)) };
}

/** Places a document with what it is filled with. */
async function placed(io: Io, document: string, options: SupplyOptions): Promise<Placement> {
  const { layout, contents } = await supplied(io, document, options);
  return placeLayout(layout, contents);
}

/** `check`: what every rule says about a document. */
export async function checkCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  const findings = checkPlacement(placement);
  io.out(options.json ? json({ findings }) : printable(findingsText(findings, placement, document)));
  return exitFor(findings);
}

/** A placement for machines: every range with its reasons. */
function placementData({ placed, strata, layout, contents: _, ...rest }: Placement) {
  return {
    layout: layout.name,
    table: layout.table,
    ...rest,
    placed: placed.map(({ slot, rule, ...one }) => ({
      id: slot.id,
      name: slot.name,
      kind: slot.kind,
      ...(rule && { takes: rule.kind }),
      ...one,
    })),
    strata: strata.map((one) =>
      one.kind === 'slot' ? { kind: one.kind, start: one.start, sectors: one.sectors, id: one.placed.slot.id } : one,
    ),
  };
}

/** `place`: where everything lands. */
export async function placeCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  io.out(options.json ? json(placementData(placement)) : printable(placementText(placement)));
  return stopsAmong(checkPlacement(placement)).length > 0 ? EXIT.stop : EXIT.done;
}

function refuseBuild(findings: readonly Finding[]): void {
  const exit = exitFor(findings);
  if (exit === EXIT.done) return;
  const against = exit === EXIT.stop ? stopsAmong(findings) : openRisks(findings);
  const sentence =
    exit === EXIT.stop
      ? 'A stop prevents the build.'
      : 'A risk stands that is not accepted in the document, with a reason.';
  throw new Ended(
    exit,
    exit === EXIT.stop ? 'layout-has-stops' : 'layout-has-risks',
    sentence,
    against.map((one) => `${one.rule}: ${one.sentence}`),
  );
}

async function refuseExisting(image: string, replace: boolean): Promise<void> {
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
        ? json(report)
        : printable(
            `${options.into}: ${counted(report.size, 'byte')}, ${grouped(report.writtenBytes)} of them written, in ${Math.ceil(report.milliseconds)} ms; ${counted(agreeing, 'fact')} read back as meant.\n${report.accepted!.map((one) => `risk accepted: ${one.sentence} (${one.reason})\n`).join('')}`,
          ),
    );
    return EXIT.done;
  } catch (error) {
    if (io.signal.aborted) throw interrupted(io.signal, 'Interrupted; nothing of the image was left.');
    if (error instanceof ReadBackError)
      throw new Ended(EXIT.readBack, 'read-back-differs', error.message, [
        'The layout is not at fault: this is a fault of the program, or of the disk that was written to.',
        'Nothing was left. Please report it, with the layout, to whoever gave you the program.',
      ]);
    if (error instanceof StoredGone) throw new Ended(EXIT.file, 'content-gone', error.message);
    throw error instanceof Ended ? error : await folderTrouble(options.into, error);
  }
}

type Report = Awaited<ReturnType<typeof writeImage>>;

/** Builds what was gathered, and lets go of it. */
async function buildFrom(io: Io, supplies: Supplies, options: BuildArguments, temporary: string): Promise<Report> {
  try {
    const layout = copyOf(supplies.layout, options.copy ?? 0);
    const placement = placeLayout(layout, supplies.contents);
    refuseBuild(checkPlacement(placement));
    const same = options.copy ? sameInEveryCopy(layout) : undefined;
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

export interface SurveyArguments {
  readonly sectorSize?: 512 | 4096;
  readonly sector?: number;
  readonly json?: boolean;
}

/** `survey`: what is in an image file; with `--sector`, one sector of it field by field. */
export async function survey(io: Io, image: string, options: SurveyArguments): Promise<Exit> {
  const { handle, size } = await openToSurvey(image);
  try {
    const source = fileSource(handle, size);
    const first = await surveyMedium(source, { sectorSize: options.sectorSize ?? 512 });
    const sectorSize = options.sectorSize ?? fittingSectorSize(first);
    const found = sectorSize === first.sectorSize ? first : await surveyMedium(source, { sectorSize });
    if (options.sector === undefined) {
      const findings = checkSurvey(found);
      io.out(options.json ? json({ survey: found, findings }) : printable(surveyText(found, findings)));
      return findings.some((one) => one.severity === 'stop') ? EXIT.stop : EXIT.done;
    }
    const { sector } = options;
    if (sector >= found.sectors)
      throw new Ended(
        EXIT.usage,
        'sector-beyond-the-end',
        `The image has ${grouped(found.sectors)} sectors; the last is ${grouped(found.sectors - 1)}.`,
      );
    const bytes = await source.read(sector * found.sectorSize, found.sectorSize);
    const ledger = ledgerOf(bytes, sector, structureAt(structuresOf(found), sector));
    io.out(options.json ? json(ledger) : printable(ledgerText(ledger)));
    return EXIT.done;
  } catch (error) {
    if (error instanceof SourceShrank)
      throw new Ended(EXIT.file, 'file-shrank', `“${image}” became shorter while it was read.`);
    throw error instanceof Ended ? error : fileTrouble(image, error);
  } finally {
    await handle.close();
  }
}

/** `schema`: the JSON Schema of the document. */
export async function schema(io: Io, options: { into?: string }): Promise<Exit> {
  await writeNew(io, json(layoutSchema()), options.into);
  return EXIT.done;
}
