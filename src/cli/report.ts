/** Text for people: findings and tables in columns. */
import { kindOf } from '@/core/filesystems/kinds';
import { openRisks } from '@/core/findings/layout/acceptance';
import type { Finding } from '@/core/findings/layout/finding';
import { lastSector, type Placement } from '@/core/placement/placement';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { typeName } from '@/core/tables/types';
import { columns, word } from './text';

function placeText(finding: Finding, placement: Placement): string {
  const { place } = finding;
  if (place.kind !== 'slot') return { medium: 'medium', table: 'table', boots: 'starting' }[place.kind];
  const name = placement.layout.slots.find((slot) => slot.id === place.id)?.name;
  return name === undefined || name === place.id ? place.id : `${name} (${place.id})`;
}

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
