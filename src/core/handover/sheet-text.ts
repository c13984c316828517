/** The sheet as Markdown. */
import { IDS } from '../naming/named';
import { grouped, inBinary, inBoth, inDecimal } from '../quantity/units';
import type { BuiltImage, Sheet, SheetRow } from './sheet';

/** Width of the picture, in characters. */
const PICTURE = 48;

/** Text of people between others: nothing of it is taken for Markdown, and it stays in its line. */
export function plain(text: string): string {
  return text.replace(/[\u0000-\u001f\u007f-\u009f]/g, ' ').replace(/[\\`*_{}[\]<>#|~&]/g, '\\$&');
}

/** A block that keeps its text as it is, whatever that holds. */
export function fenced(text: string): string {
  const longest = Math.max(0, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(Math.max(3, longest + 1));
  return `${fence}\n${text.endsWith('\n') ? text : `${text}\n`}${fence}`;
}

function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const line = (cells: readonly string[]) => `| ${cells.join(' | ')} |`;
  return [line(head), line(head.map(() => '---')), ...rows.map(line)].join('\n');
}

/** The column as text: a line for each stratum, as long as its share of the medium. */
export function pictureText(rows: readonly SheetRow[]): string {
  const total = rows.reduce((sum, { sectors }) => sum + sectors, 0);
  const starts = rows.map(({ first }) => grouped(first));
  const width = Math.max(0, ...starts.map((text) => text.length));
  return rows
    .map(({ name, sectors, isSlot, bytes }, i) => {
      const length = Math.max(1, Math.round((sectors / total) * PICTURE));
      const bar = (isSlot ? '#' : '.').repeat(length);
      return `${starts[i]!.padStart(width)}  ${bar.padEnd(PICTURE)}  ${name.replace(/[\u0000-\u001f\u007f-\u009f]/g, ' ')}, ${inBinary(bytes)}`;
    })
    .join('\n');
}

function rowsTable(rows: readonly SheetRow[]): string {
  return table(
    ['no', 'name', 'what', 'first sector', 'last sector', 'sectors', 'binary', 'decimal'],
    rows.map(({ number, name, what, first, last, sectors, bytes, exactly }) => [
      number === undefined ? '' : String(number),
      plain(name),
      plain([...what, ...(exactly === undefined ? [] : [exactly])].join(', ')),
      grouped(first),
      grouped(last),
      grouped(sectors),
      inBinary(bytes),
      inDecimal(bytes),
    ]),
  );
}

function idsTable({ ids }: Sheet): string {
  return table(
    ['no', 'slot', ...IDS],
    ids.partitions.map(({ of, identifiers }) => [
      of.number === undefined ? '' : String(of.number),
      plain(of.placed.slot.name),
      ...IDS.map((by) => {
        const name = identifiers.find((one) => one.by === by)?.name;
        return name === undefined ? '' : plain(name);
      }),
    ]),
  );
}

function imageText({ name, bytes, sha256, revision }: BuiltImage): string {
  const of = revision === undefined ? '' : `, revision ${revision}`;
  return `- ${plain(name)}${of}: ${inBoth(bytes)}, ${grouped(bytes)} B\n  SHA-256 ${sha256 ?? 'not made yet'}`;
}

/** The whole sheet as Markdown. */
export function sheetMarkdown(sheet: Sheet): string {
  const { title, story, facts, rows, mounts, boot, risks, images, left } = sheet;
  const parts: (readonly [string, string])[] = [
    ['The medium', facts.map(([name, text]) => `- ${name}: ${plain(text)}`).join('\n')],
    ['Column', fenced(pictureText(rows))],
    ['Sectors', rowsTable(rows)],
    ['Identifiers', idsTable(sheet)],
    ['Mount table', fenced(mounts)],
    [
      'Boot entries',
      boot
        .map(
          ({ path, on, text }) => `${plain(path)}${on ? ` on ${plain(on.placed.slot.name)}` : ''}\n\n${fenced(text)}`,
        )
        .join('\n\n'),
    ],
    [
      'Risks',
      risks
        .map(
          ({ severity, place, sentence, reason }) =>
            `- ${plain(place)}: ${plain(sentence)}\n  ${reason === undefined ? (severity === 'stop' ? 'Stops a build.' : 'Not accepted yet.') : `Accepted: ${plain(reason)}`}`,
        )
        .join('\n'),
    ],
    ['Image', images.map(imageText).join('\n')],
    ['Left to do', left.map(({ what, why }, i) => `${i + 1}. ${plain(what)} ${plain(why)}`).join('\n')],
  ];
  const nothing: Readonly<Record<string, string>> = {
    'Boot entries': 'None.',
    Risks: 'None.',
    Image: 'None was built yet, or no sum was made of one.',
    Identifiers: 'None.',
  };
  const body = parts.map(([name, text]) => `## ${name}\n\n${text === '' ? (nothing[name] ?? '') : text}\n`);
  return [`# ${plain(title)}\n`, ...(story === undefined ? [] : [`${plain(story)}\n`]), ...body].join('\n');
}
