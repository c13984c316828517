/** `hand-over`: the mount table of a machine, steps by hand, ids, the sheet; and a mount table that exists, checked or added to. */
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import path from 'node:path';
import { addedTo, clashText } from '@/core/handover/adding';
import { bootFiles, commandLine, proposedEntries } from '@/core/naming/boot';
import { checkTable, type TableCheck } from '@/core/findings/mounts/check';
import { type BuiltImage, type Sheet, sheetOf } from '@/core/handover/sheet';
import { sheetMarkdown } from '@/core/handover/sheet-text';
import { check } from '@/core/findings/layout/check';
import { BELONGS, type IdentifiedMedium, identifiersOf } from '@/core/handover/identifiers';
import { IDS } from '@/core/naming/named';
import { fieldsOf, type MountLine, mountLines, mountTableText } from '@/core/naming/mount-table';
import type { MachineMedium } from '@/core/naming/nameable';
import { imageSteps, type Step, stepsFor, titleOf } from '@/core/handover/steps';
import { placeWritten } from '@/core/naming/written';
import { counted, MIB } from '@/core/quantity/units';
import { answerText } from './answering';
import { type DocumentOptions, supplied } from './commands';
import { Ended, EXIT, type Exit } from './exit';
import { fileTrouble, type Io, textOf, writeNew } from './io';
import { columns, printable } from './text';

/** A medium with entries: its own, or those that are proposed for it. */
function withEntries(medium: MachineMedium): MachineMedium {
  const { layout, contents } = medium.placement;
  if (layout.entries) return medium;
  const entries = proposedEntries(layout);
  return entries.length === 0 ? medium : { ...medium, placement: placeWritten({ ...layout, entries }, contents) };
}

/** Files with boot entries, each below where it belongs. */
function bootText(io: Io, medium: MachineMedium): string {
  const own = withEntries(medium);
  if (!medium.placement.layout.entries)
    io.remark(
      own === medium
        ? 'The document has no entries, and no system that any could start.'
        : 'The document has no entries: these are proposed. Put what you want of them into “entries”.',
    );
  for (const entry of own.placement.layout.entries ?? [])
    for (const warning of commandLine(entry, own).warnings) io.remark(warning);
  return bootFiles(own)
    .map(({ path, on, why, text }) => `# ${path}${on ? ` on ${on.placed.slot.name}` : ''}\n# ${why}\n${text}`)
    .join('\n');
}

export interface HandOverArguments extends DocumentOptions {
  readonly with?: readonly string[];
  readonly show: 'mounts' | 'steps' | 'boot' | 'ids' | 'sheet';
  readonly image?: readonly string[];
  readonly check?: string;
  readonly addTo?: string;
  readonly into?: string;
}

async function mediaOf(io: Io, document: string, options: HandOverArguments): Promise<Media> {
  const { from: _, ...others } = options;
  const names = [document, ...(options.with ?? [])];
  if (names.filter((name) => name === '-').length > 1)
    throw new Ended(EXIT.usage, 'usage-input', 'The standard input holds one document.');
  const media: MachineMedium[] = [];
  for (const name of names) {
    // What fills slots is said of the first medium.
    const { layout, contents } = await supplied(io, name, name === document ? options : others);
    media.push({ name: layout.name, placement: placeWritten(layout, contents) });
  }
  return media as [MachineMedium, ...MachineMedium[]];
}

function idsText(media: readonly IdentifiedMedium[]): string {
  const parts = media.map(({ medium, table, partitions }) => {
    const head = `${medium.name}${table ? `, ${table.kind} ${table.id}` : ''}\n`;
    const rows = partitions.map(({ of, identifiers }) => [
      of.number === undefined ? '-' : String(of.number),
      of.placed.slot.name,
      ...IDS.map((by) => identifiers.find((one) => one.by === by)?.name ?? '-'),
    ]);
    return head + columns(['no', 'slot', ...IDS], rows, [0]);
  });
  const belongs = IDS.map((by) => `${by}: ${BELONGS[by as keyof typeof BELONGS]}`);
  return `${parts.join('\n')}\n${belongs.join('\n')}\n`;
}

function stepsText(title: string, steps: readonly Step[]): string {
  const lines = steps.flatMap(({ title: what, why, commands }, i) => [
    `${i + 1}. ${what}`,
    `   ${why}`,
    ...commands.map((one) => `     ${one}`),
  ]);
  return `${title}\n${lines.join('\n')}\n`;
}

const imagesAmong = (media: readonly MachineMedium[]) =>
  media.filter(({ placement }) => placement.layout.medium.kind === 'image');

function allSteps(media: readonly MachineMedium[]): string {
  const mounts = mountLines(media).map((line) => stepsText(titleOf(line, false), stepsFor(line, media)));
  const images = imagesAmong(media).map((medium) =>
    stepsText(`The image of ${medium.name}`, imageSteps(medium, 'IMAGE')),
  );
  return [...mounts, ...images].join('\n');
}

type Media = readonly [MachineMedium, ...MachineMedium[]];

/** The images that a sheet has sums of. */
async function imagesOf(io: Io, files: readonly string[] = []): Promise<BuiltImage[]> {
  const images: BuiltImage[] = [];
  for (const file of files) {
    const hash = createHash('sha256');
    let bytes = 0;
    try {
      for await (const chunk of createReadStream(file, { highWaterMark: MIB, signal: io.signal })) {
        hash.update(chunk as Buffer);
        bytes += (chunk as Buffer).length;
      }
    } catch (error) {
      throw fileTrouble(file, error);
    }
    images.push({ name: path.basename(file), bytes, sha256: hash.digest('hex') });
  }
  return images;
}

async function sheetFor(io: Io, media: Media, options: HandOverArguments): Promise<Sheet> {
  return sheetOf(media, check(media[0].placement), await imagesOf(io, options.image));
}

function sheetData({ facts, rows, risks, images, left }: Sheet) {
  return { facts: facts.map(([name, text]) => ({ name, text })), rows, risks, images, left };
}

function handOverData(media: Media, sheet: Sheet) {
  return {
    media: identifiersOf(media).map(({ medium, table, partitions }) => ({
      name: medium.name,
      table,
      partitions: partitions.map(({ of, identifiers }) => ({
        id: of.placed.slot.id,
        name: of.placed.slot.name,
        number: of.number,
        identifiers,
      })),
    })),
    mounts: mountLines(media).map((line) => {
      const { of, by: _, warning, ...words } = line;
      return { medium: of.medium.name, slot: of.placed.slot.id, ...words, warning, steps: stepsFor(line, media) };
    }),
    attaching: imagesAmong(media).map((medium) => ({ medium: medium.name, steps: imageSteps(medium, 'IMAGE') })),
    text: mountTableText(media),
    boot: bootFiles(media[0]).map(({ path: at, on, why, text }) => ({
      path: at,
      slot: on?.placed.slot.id,
      why,
      text,
    })),
    sheet: sheetData(sheet),
  };
}

function findingsText({ findings, more }: TableCheck, name: string): string {
  if (findings.length === 0) return 'Nothing was found.\n';
  const told = findings.map(
    ({ rule, severity, line, column, sentence, why, remedies }) =>
      `${name}:${line}:${column}: ${severity}: ${sentence}\n  ${why}\n${remedies.map(({ label }) => `  remedy: ${label}\n`).join('')}  rule: ${rule}\n`,
  );
  return told.join('\n') + (more > 0 ? `\n${counted(more, 'more finding')}.\n` : '');
}

async function checkAgainst(io: Io, table: string, media: readonly MachineMedium[], isJson: boolean): Promise<Exit> {
  const check = checkTable(await textOf(io, table), media);
  const findings = check.findings.map(({ from: _, to: __, remedies, ...one }) => ({
    ...one,
    remedies: remedies.map(({ label }) => label),
  }));
  io.out(
    isJson
      ? answerText('check-mounts', { findings, more: check.more })
      : printable(findingsText(check, table === '-' ? 'standard input' : table)),
  );
  const has = (severity: string) => check.findings.some((one) => one.severity === severity);
  if (has('stop')) return EXIT.stop;
  return has('risk') ? EXIT.risk : EXIT.done;
}

async function addLines(io: Io, options: HandOverArguments, media: readonly MachineMedium[]): Promise<Exit> {
  const added = addedTo(await textOf(io, options.addTo!), media);
  const told = (line: MountLine) => fieldsOf(line).join(' ');
  if (options.json)
    io.out(
      answerText('add-mounts', {
        added: added.lines.map(told),
        present: added.present.map(told),
        clashes: added.clashes.map(({ wanted, line, over }) => ({ slot: wanted.of.placed.slot.id, line, over })),
        text: added.text,
      }),
    );
  else await writeNew(io, added.text, options.into);
  for (const clash of added.clashes) {
    const { name, mount } = clash.wanted.of.placed.slot;
    io.remark(`${clashText(clash)}: no line was added for ${clash.over === 'partition' ? mount : name}.`);
  }
  return added.clashes.length > 0 ? EXIT.risk : EXIT.done;
}

/** `hand-over`: what goes with a medium. */
export async function handOver(io: Io, document: string, options: HandOverArguments): Promise<Exit> {
  const { check: table, addTo, show, json = false } = options;
  if (options.image && show !== 'sheet' && !json)
    throw new Ended(EXIT.usage, 'usage-image', '--image says of what the sheet has sums: say --show sheet too.');
  if (table !== undefined && addTo !== undefined)
    throw new Ended(EXIT.usage, 'usage-what', 'Say one of --check and --add-to.');
  if ((table ?? addTo) === '-' && [document, ...(options.with ?? [])].includes('-'))
    throw new Ended(EXIT.usage, 'usage-input', 'The standard input holds a document, or a table, not both.');
  const media = await mediaOf(io, document, options);
  if (table !== undefined) return checkAgainst(io, table, media, json);
  if (addTo !== undefined) return addLines(io, options, media);
  if (json) {
    io.out(answerText('hand-over', handOverData(media, await sheetFor(io, media, options))));
    return EXIT.done;
  }
  const texts = {
    mounts: () => mountTableText(media),
    steps: () => allSteps(media),
    boot: () => bootText(io, media[0]),
    ids: () => idsText(identifiersOf(media)),
    sheet: async () => sheetMarkdown(await sheetFor(io, media, options)),
  };
  const text = await texts[show]();
  if (options.into === undefined) io.out(printable(text));
  else await writeNew(io, text, options.into);
  return EXIT.done;
}
