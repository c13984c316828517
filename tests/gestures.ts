/**
 * Every edit that the program itself proposes or makes for a layout: remedies, accepted risks,
 * moved boundaries and typed places, keys, orders and pasted lines, contents, tables, copies. Each
 * must give a valid document.
 */
import { adding, type Wanted } from '@/core/advice/adding';
import { siteIn } from '@/core/placement/site';
import { accepting, unaccepting } from '@/core/findings/layout/acceptance';
import { check } from '@/core/findings/layout/check';
import { loadOfSizes, studyFat } from '@/core/filesystems/fat/study';
import { withFiles } from '@/core/layout/contents';
import { type Contents } from '@/core/filesystems/supplied';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { applyEdit, type Edit, activateOnly, roleEdit } from '@/core/layout/edits';
import { readLines } from '@/core/layout/line-help';
import { addingLines } from '@/core/layout/pasted';
import { copyOf } from '@/core/layout/series';
import { makeLogical, retable } from '@/core/layout/translate';
import { validateLayout } from '@/core/layout/validate';
import { ROLES, TABLES } from '@/core/layout/vocabulary';
import { boundaryBelow, moveBoundary } from '@/core/placement/boundary';
import { fatQuestion } from '@/core/filesystems/fat/kind';
import { onSectors } from '@/core/placement/least';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { typedEdit } from '@/core/placement/typed';
import { inBinary } from '@/core/quantity/units';
import { linesOf } from '@/ui/designer/state/clipboard';
import { contentPatch } from '@/ui/designer/state/content-edit';
import { movingSeveral } from '@/ui/designer/state/several';

/** What was done, and what came of it. */
interface Gesture {
  readonly what: string;
  readonly after: Layout;
}

const TYPED = ['0', '1', '63', '2048', '1 MiB', '4,294,967,296', '5 TiB', 'rest', '1.5 GiB', '1 B'];

function* ofFindings(layout: Layout, placement: Placement): Generator<[string, Edit]> {
  for (const finding of check(placement)) {
    for (const { label, edit } of finding.remedies) yield [`${finding.rule}: ${label}`, edit];
    if (finding.severity !== 'risk') continue;
    const accept = accepting(layout, finding, 'It was meant so.');
    yield [`accept ${finding.rule}`, accept];
    yield [`accept ${finding.rule} and take it back`, unaccepting(applyEdit(layout, accept), finding)];
  }
}

/** Of many the first and the last ones. */
function some<T>(all: readonly T[]): readonly T[] {
  return all.length <= 12 ? all : [...all.slice(0, 6), ...all.slice(-6)];
}

function* ofPlaces(placement: Placement): Generator<[string, Edit]> {
  for (const one of some(placement.placed)) {
    const { id, name } = one.slot;
    for (const which of ['start', 'last', 'length'] as const)
      for (const text of TYPED) {
        const edit = typedEdit(placement, one, which, text);
        if (edit) yield [`${which} of ${name}: ${text}`, edit];
      }
    const boundary = boundaryBelow(placement, id);
    if (!boundary) continue;
    const { least, most } = boundary;
    for (const sector of [0, least, least + 1, Math.floor((least + most) / 2), most - 1, most, placement.sectors * 2]) {
      const move = moveBoundary(placement, boundary, sector);
      yield [`boundary below ${name} to ${sector}`, move.edit];
    }
  }
}

function* ofSlots(layout: Layout, placement: Placement): Generator<[string, Edit]> {
  const ids = layout.slots.map((slot) => slot.id);
  const behind = ids.slice(0, 2).map((id): Wanted => ({ kind: 'behind', id }));
  const gaps = placement.strata
    .filter((one) => one.kind === 'gap')
    .map(({ start }): Wanted => ({ kind: 'gap', start }));
  for (const kind of ['partition', 'raw', 'free'] as const)
    for (const wanted of [{ kind: 'anywhere' } as const, ...behind, ...gaps.slice(-1)]) {
      const added = adding(placement, wanted, kind);
      if (added) yield [`add ${kind} ${wanted.kind}`, added.edit];
    }
  for (const id of some(ids)) yield [`remove ${id}`, { do: 'remove slot', id }];
  yield ['cut all', { do: 'several', edits: ids.map((id) => ({ do: 'remove slot', id })) }];
  for (const step of [-1, 1] as const) {
    for (const some of [ids.slice(0, 1), ids.slice(1, 3), ids.slice(-1)]) {
      const edit = movingSeveral(ids, some, step);
      if (edit) yield [`move ${some.join()} by ${step}`, edit];
    }
  }
  const lines = readLines(linesOf(layout, ids));
  const { edit } = addingLines(
    layout,
    lines,
    lines.map(() => ids[0]),
  );
  yield ['paste all', edit];
  const [first] = layout.slots;
  if (first) {
    yield ['rename', { do: 'change slot', id: first.id, patch: { name: 'Gauge "one", of all; rest' } }];
    yield ['rename at length', { do: 'change slot', id: first.id, patch: { name: 'x'.repeat(72) } }];
  }
}

function* ofContents(layout: Layout, placement: Placement): Generator<[string, Edit]> {
  const partitions = placement.placed.filter(
    (one): one is typeof one & { slot: PartitionSlot } => one.slot.kind === 'partition',
  );
  for (const one of some(partitions)) {
    const { slot } = one;
    for (const kind of ['fat', 'fat12', 'fat16', 'fat32', 'exfat', 'swap', 'zeros', 'left'] as const)
      yield [`${slot.name} holds ${kind}`, { do: 'change slot', id: slot.id, patch: contentPatch(layout, slot, kind) }];
    yield [`empty ${slot.name}`, { do: 'change slot', id: slot.id, patch: withFiles(slot, undefined) }];
    for (const role of ROLES) yield [`${slot.name} for ${role}`, roleEdit(layout, slot, role)];
    yield [`mark ${slot.name}`, activateOnly(layout, slot.id)];
    const { content } = slot;
    if (content?.kind !== 'fat') continue;
    const question = fatQuestion(content, siteIn(one, placement));
    for (const row of studyFat(question, loadOfSizes(new Map())).rows)
      yield [
        `study: FAT${row.variant} ${row.clusterBytes}`,
        {
          do: 'change slot',
          id: slot.id,
          patch: {
            content: { ...content, variant: row.variant, cluster: inBinary(row.clusterBytes) },
          },
        },
      ];
  }
}

function* ofTables(layout: Layout): Generator<[string, Edit]> {
  for (const kind of TABLES) yield [`table: ${kind}`, retable(layout, kind)];
  yield ['make logical', makeLogical(layout)];
}

/** All of them. */
function* gesturesOf(layout: Layout, contents: Contents): Generator<Gesture> {
  const placement = place(layout, contents);
  for (const edits of [
    ofFindings(layout, placement),
    ofPlaces(placement),
    ofSlots(layout, placement),
    ofContents(layout, placement),
    ofTables(layout),
  ])
    for (const [what, edit] of edits) yield { what, after: applyEdit(layout, edit) };
  for (const copy of [1, 77]) yield { what: `copy ${copy}`, after: copyOf(layout, copy) };
  yield { what: 'on another medium', after: onSectors(layout, placement.sectors + 1) };
}

/** Applies all of them; throws an Error that names the first that gives no valid document. Tells how many there were. */
export function checkGestures(layout: Layout, contents: Contents): number {
  let count = 0;
  for (const { what, after } of gesturesOf(layout, contents)) {
    count += 1;
    const read = validateLayout(JSON.parse(JSON.stringify(after)));
    if (!read.ok) throw new Error(`${what}: ${JSON.stringify(read.error)}`);
  }
  return count;
}
