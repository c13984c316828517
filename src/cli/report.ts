/** Text for people: findings and tables in columns. */
import { kindOf } from '@/core/filesystems/kinds';
import { openRisks } from '@/core/findings/layout/acceptance';
import type { Finding } from '@/core/findings/layout/finding';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { visible } from '@/core/bytes/record';
import { lastSector, type Placement } from '@/core/placement/placement';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { lastOf, type Survey } from '@/core/survey/found';
import type { Ledger } from '@/core/survey/ledger';
import { insideText, named } from '@/core/survey/structures';
import { typeName } from '@/core/tables/types';

/** A text whose lines hold nothing that a terminal would obey: names may have anything in them. */
export function printable(text: string): string {
  return text.split('\n').map(visible).join('\n');
}

/** JSON in which nothing is left that a terminal would obey. */
export function jsonText(value: unknown, indent?: number): string {
  const escaped = (c: string) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`;
  return `${JSON.stringify(value, null, indent).replace(/[\u007f-\u009f\u2028-\u202e\u2066-\u2069]/g, escaped)}\n`;
}

/** Rows in columns; the columns of `figures` stand to the right. */
function columns(head: readonly string[], rows: readonly (readonly string[])[], figures: readonly number[]): string {
  const all = [head, ...rows];
  const widths = head.map((_, i) => Math.max(...all.map((row) => row[i]!.length)));
  const line = (row: readonly string[]) =>
    row
      .map((cell, i) => (figures.includes(i) ? cell.padStart(widths[i]!) : cell.padEnd(widths[i]!)))
      .join('  ')
      .trimEnd();
  return `${all.map(line).join('\n')}\n`;
}

function placeText(finding: Finding, placement: Placement): string {
  const { place } = finding;
  if (place.kind !== 'slot') return { medium: 'medium', table: 'table', boots: 'starting' }[place.kind];
  const name = placement.layout.slots.find((slot) => slot.id === place.id)?.name;
  return name === undefined || name === place.id ? place.id : `${name} (${place.id})`;
}

/** A word of a command line. */
const word = (text: string): string => (/^[\w./@+-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`);

/** How an open risk is accepted, and what was said of it before. */
function acceptanceLines({ severity, accepted, acceptedBefore, rule, place }: Finding, document: string): string[] {
  if (accepted !== undefined) return [`    reason: ${accepted}`];
  if (severity !== 'risk') return [];
  const slot = place.kind === 'slot' ? ` --slot ${place.id}` : '';
  const stale = acceptedBefore
    ? [
        `    accepted before, and open again: it said then: ${acceptedBefore.sentence}`,
        `    the reason was: ${acceptedBefore.reason}`,
      ]
    : [];
  return [...stale, `    accept it: loess accept ${word(document)} --rule ${rule}${slot} --reason '…'`];
}

/** Findings, one block each, with the remedies that the designer offers. */
export function findingsText(findings: readonly Finding[], placement: Placement, document: string): string {
  if (findings.length === 0) return 'Nothing was found.\n';
  const blocks = findings.map((one) => {
    const accepted = one.accepted === undefined ? '' : ', accepted';
    return [
      `${one.severity}${accepted}: ${placeText(one, placement)}: ${one.sentence}`,
      `    ${one.why}`,
      ...acceptanceLines(one, document),
      ...(one.accepted === undefined
        ? [...one.remedies, ...(one.fileRemedies ?? [])].map(({ label }) => `    remedy: ${label}`)
        : []),
      `    rule: ${one.rule}`,
    ].join('\n');
  });
  const open = openRisks(findings).length;
  const count = (severity: string) => counted(findings.filter((one) => one.severity === severity).length, severity);
  const total = `${count('stop')}, ${count('risk')} (${open} open), ${count('note')}`;
  return `${blocks.join('\n')}\n${total}\n`;
}

function contentText({ slot, made }: Placement['placed'][number]): string {
  if (slot.kind === 'raw') return slot.blob ? slot.blob.name : '-';
  if (slot.kind !== 'partition') return '-';
  const { content } = slot;
  if (!content || content.kind === 'left') return content?.expects ? `left for ${content.expects}` : '-';
  if (made)
    return made.geometry.ok
      ? `${kindOf(content).summary(content, made).word}, ${inBinary(made.geometry.value.clusterBytes)} clusters`
      : 'cannot be';
  return 'name' in content ? content.name : kindOf(content).word;
}

/** A placement as a table of slots. */
export function placementText(placement: Placement): string {
  const { layout, sectors, sectorSize, grain, containers } = placement;
  const boxes = containers.map((one) => [
    String(one.number),
    'container of logical partitions',
    grouped(one.start),
    grouped(lastSector(one)),
    grouped(one.sectors),
    inBoth(one.sectors * sectorSize),
    typeName(one.type),
    '-',
  ]);
  const slots = placement.placed.map((one) => [
    one.entry ? String(one.entry.number) : '-',
    one.slot.name,
    grouped(one.start),
    grouped(lastSector(one)),
    grouped(one.sectors),
    inBoth(one.span.end - one.span.start),
    one.entry ? typeName(one.entry.type) : one.slot.kind,
    contentText(one),
  ]);
  const head = `${layout.name}: ${inBoth(sectors * sectorSize)}, ${grouped(sectors)} sectors of ${sectorSize} bytes, ${layout.table.kind}, grain ${inBinary(grain.bytes)}\n`;
  return (
    head +
    columns(
      ['no', 'slot', 'first', 'last', 'sectors', 'size', 'type', 'file system'],
      [...slots, ...boxes],
      [0, 2, 3, 4],
    )
  );
}

/** A survey as a table of partitions, gaps with data, and findings. */
export function surveyText(survey: Survey, findings: readonly SurveyFinding[]): string {
  const { sectors, sectorSize, size, table } = survey;
  const rows = survey.partitions.map((one) => [
    one.number === 0 ? '-' : String(one.number),
    named(one),
    grouped(one.start),
    grouped(lastOf(one)),
    grouped(one.sectors),
    one.type === '' ? '-' : typeName(one.type),
    insideText(one.inside),
  ]);
  const head = `${inBoth(size)}, ${grouped(sectors)} sectors of ${sectorSize} bytes, table: ${table}; ${inBoth(survey.read)} read\n`;
  const partitions = columns(['no', 'partition', 'first', 'last', 'sectors', 'type', 'inside'], rows, [0, 2, 3, 4]);
  const lines = findings
    .map((one) => `${one.severity}: ${one.sentence}\n    ${one.why}\n    rule: ${one.rule}\n`)
    .join('');
  return head + partitions + (lines || 'Nothing was found.\n');
}

/** A sector of the ledger: fields, then bytes. */
export function ledgerText(ledger: Ledger): string {
  const groups = ledger.groups.map(({ title, fields }) => {
    const rows = fields.map((field) => [String(field.offset), field.name, field.text, field.means]);
    return `${title}\n${rows.length > 0 ? columns(['at', 'field', 'value', 'meaning'], rows, [0]) : ''}`;
  });
  const lines = ledger.lines.map(({ offset, hex, text }) => `${String(offset).padStart(5)}  ${hex}  ${text}`);
  return `Sector ${grouped(ledger.sector)}, byte ${grouped(ledger.at)}: ${ledger.what}\n${groups.join('')}${lines.join('\n')}\n`;
}
