import { boardCombinations, START_MEDIA, startCombinations } from '@tests/start-combinations';
import { cases, oneOf } from '@tests/tier';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import type { Layout, PartitionSlot } from '../layout/document';
import { mediumOf } from '../layout/medium-spec';
import { validateLayout } from '../layout/validate';
import { boardProfile } from '../medium/boards';
import { place } from '../placement/place';
import type { Answers, Question } from './answers';
import { possibleTables, type Proposal, propose } from './propose';
import { NOTHING_SAID, STARTS } from './starts';

const FRESH = { signature: '6d617272', diskId: '6d617272-616d-4c0a-8d05-7469646573aa', date: '2026-03-01T12:00:00' };

const partitions = (layout: Layout): PartitionSlot[] => layout.slots.filter((slot) => slot.kind === 'partition');
const isFlash = ({ medium }: Answers) => ['card', 'stick', 'on-board'].includes(medium.kind);

/** Answers that a layout serves, judged by its partitions and nothing that the proposal says. */
function served(answers: Answers, layout: Layout): Record<Question, boolean> {
  const parts = partitions(layout);
  const placement = place(layout);
  const isGpt = layout.table.kind === 'gpt';
  const uefi = isGpt ? parts.some((slot) => slot.role === 'esp') : parts.some((slot) => slot.content?.kind === 'fat');
  const bios = isGpt ? parts.some((slot) => slot.role === 'bios-boot') : parts.some((slot) => slot.active);
  const board = layout.boots.includes('board');
  const boots = { uefi, bios, both: uefi && bios, board, nothing: true, unknown: true }[answers.boots];
  const swap = placement.placed.find(({ slot }) => slot.kind === 'partition' && slot.role === 'swap');
  const fat = placement.placed.find(
    ({ slot }) => slot.kind === 'partition' && slot.content?.kind === 'fat' && slot.role === 'data',
  );
  const isFirst = fat !== undefined && fat.slot === parts[0];
  const use = {
    desktop:
      parts.some((slot) => slot.mount === '/') &&
      (answers.apart !== undefined || parts.some((slot) => slot.mount === '/home')),
    server: parts.some((slot) => slot.mount === '/'),
    device:
      new Set(placement.placed.filter(({ slot }) => slot.name.startsWith('System ')).map((one) => one.sectors)).size ===
      1,
    data: parts.some((slot) => slot.role === 'data'),
    unknown: true,
  }[answers.use];
  return {
    boots,
    use,
    medium: true,
    memory: answers.memory === undefined || swap !== undefined,
    hibernates:
      !answers.hibernates ||
      (swap !== undefined && answers.memory !== undefined && swap.span.end - swap.span.start >= 16 * 2 ** 30),
    readers: { linux: true, unknown: true, others: fat !== undefined, appliances: isFirst && !isGpt }[answers.readers],
    existing: answers.existing.kind !== 'stays',
    table: answers.table === undefined || answers.table === layout.table.kind,
    apart:
      answers.apart === undefined ||
      !['desktop', 'server'].includes(answers.use) ||
      parts.some((slot) => slot.mount === '/home' || slot.mount === '/srv') === answers.apart,
  };
}

function wrong(answers: Answers, { layout, lines, leftOut }: Proposal): string | undefined {
  if (layout.slots.length === 0) return 'empty';
  const placement = place(layout);
  const stops = stopsAmong(check(placement));
  if (stops.length > 0) return stops[0]!.sentence;
  if (placement.misfits.length > 0) return 'does not land';
  if (placement.sectors !== Math.floor(mediumOf(answers.medium).capacity / answers.medium.logicalSector))
    return 'another medium';
  const explained = new Set(lines.flatMap(({ about }) => (about.kind === 'slot' ? [about.id] : [])));
  if (layout.slots.some((slot) => !explained.has(slot.id))) return 'a line without a reason';
  if (lines.some((line) => line.reason.length < 10)) return 'an empty reason';
  for (const [question, isServed] of Object.entries(served(answers, layout)) as [Question, boolean][]) {
    const isNamed = leftOut.some((one) => one.question === question && one.why.length > 10);
    if (!isServed && !isNamed) return `${question} is neither served nor left out`;
  }
  const isAnswered = (question: Question) =>
    ({
      memory: answers.memory !== undefined,
      hibernates: answers.hibernates,
      boots: !['nothing', 'unknown'].includes(answers.boots),
      readers: !['linux', 'unknown'].includes(answers.readers),
      table: answers.table !== undefined,
      apart: answers.apart === true,
    })[question as 'memory'] ?? true;
  const odd = leftOut.find((one) => !isAnswered(one.question));
  return odd && `${odd.question} is left out and was not answered`;
}

test('every combination of answers, on every medium, gives a layout that lands, with reasons, and serves or names every answer', () => {
  const failures = oneOf(13, startCombinations()).flatMap((answers) => {
    const why = wrong(answers, propose(answers, FRESH));
    return why === undefined ? [] : [`${why}: ${JSON.stringify(answers)}`];
  });
  expect(failures.slice(0, 3)).toEqual([]);
});

test('so do wishes: for a table, for what is kept apart, and for whoever brings the loader', () => {
  const some = startCombinations().filter((_, i) => i % cases(83, 11) === 0);
  const failures = some.flatMap((answers, i) =>
    (['mbr', 'gpt', 'none'] as const).flatMap((table) => {
      const apart = [true, false, undefined][i % 3];
      const wished = {
        ...answers,
        table,
        apart,
        loaderFrom: ([undefined, 'installer', 'file'] as const)[(i >> 1) % 3],
      };
      const proposal = propose(wished, FRESH);
      const why = wrong(wished, proposal);
      const isIgnored = possibleTables(wished).includes(table) && proposal.layout.table.kind !== table;
      const isExcused = proposal.leftOut.some((one) => one.question === 'table');
      if (why === undefined && (!isIgnored || isExcused)) return [];
      return [`${why ?? 'a table that could be'}: ${JSON.stringify(wished)}`];
    }),
  );
  expect(failures.slice(0, 3)).toEqual([]);
});

describe('plain wishes', () => {
  const desktop: Answers = { ...NOTHING_SAID, boots: 'bios', use: 'desktop', existing: { kind: 'nothing' } };
  const small: Answers = { ...desktop, medium: START_MEDIA[3]! };
  const names = (answers: Answers) => propose(answers, FRESH).layout.slots.map((slot) => slot.name);

  test('a home of its own on a small disk is possible, with a word about it; and none on a large one', () => {
    const tiny: Answers = { ...small, medium: { ...small.medium, capacity: { nominal: '16 GB' } } };
    expect(names(tiny)).not.toContain('Home');
    expect(propose(tiny, FRESH).leftOut.map((one) => one.question)).toContain('use');
    const { layout, lines, leftOut } = propose({ ...tiny, apart: true }, FRESH);
    expect(layout.slots.map((slot) => slot.name)).toContain('Home');
    expect(lines.map((one) => one.reason).join()).toContain('both will be tight');
    expect(leftOut).toEqual([]);
    expect(names(small)).toContain('Home');
    expect(names({ ...small, apart: false })).not.toContain('Home');
  });

  test('a boot partition comes only where something needs it; else the system has the mark', () => {
    expect(names(small)).not.toContain('Boot');
    const system = partitions(propose(small, FRESH).layout).find((slot) => slot.role === 'system');
    expect(system).toMatchObject({ active: true });
    expect(names({ ...small, biosLimit: '8.4 GB' })).toContain('Boot');
    expect(names({ ...small, biosLimit: '137 GB' })).not.toContain('Boot');
  });

  test('the table that was chosen is taken where it can be, and said why not where it cannot', () => {
    expect(propose({ ...small, table: 'gpt' }, FRESH).layout.table.kind).toBe('gpt');
    expect(propose({ ...small, table: 'gpt' }, FRESH).lines[0]!.reason).toMatch(/You chose it.*MBR/);
    const large: Answers = { ...small, medium: START_MEDIA[6]!, table: 'mbr' };
    const { layout, leftOut } = propose(large, FRESH);
    expect([layout.table.kind, leftOut.map((one) => one.question)]).toEqual(['gpt', ['table']]);
    expect(possibleTables(large)).toEqual(['gpt']);
  });

  test('an installer that brings the loader leaves no risk of it', () => {
    const risks = (answers: Answers) => check(place(propose(answers, FRESH).layout)).map((one) => one.rule);
    expect(risks(small)).toContain('boot/no-code-in-sector-0');
    expect(risks({ ...small, loaderFrom: 'installer' })).not.toContain('boot/no-code-in-sector-0');
    expect(risks({ ...small, loaderFrom: 'file' })).toContain('boot/no-code-in-sector-0');
  });

  test('what a device or a board starts from is complete, with ext4 of its own; what an installer formats is left', () => {
    const kinds = (answers: Answers) =>
      partitions(propose(answers, FRESH).layout).map(({ id, content }) => `${id} ${content?.kind ?? 'left'}`);
    const card: Answers = { ...NOTHING_SAID, boots: 'board', use: 'device', existing: { kind: 'nothing' } };
    const medium = START_MEDIA.find(({ kind }) => kind === 'card')!;
    const device = { ...card, medium: { ...medium, capacity: { nominal: '32 GB' } } };
    expect(kinds(device)).toEqual(['boot fat', 'system-a ext', 'system-b ext', 'log ext']);
    expect(
      propose(device, FRESH)
        .lines.map((one) => one.reason)
        .join(),
    ).toContain('nobody formats it later');
    // What is proposed for data keeps nothing back for the administrator, and nothing else is amiss inside either.
    const rules = check(place(propose(device, FRESH).layout)).map((one) => one.rule);
    expect(rules.filter((rule) => rule.startsWith('ext/'))).toEqual([]);
    expect(kinds({ ...device, medium: { ...device.medium, kind: 'stick' } })).not.toContain('system-a ext');
    expect(kinds(desktop).filter((kind) => kind.endsWith('ext'))).toEqual([]);
  });

  test('swap is made, not left to somebody', () => {
    const swap = partitions(propose({ ...small, memory: '4 GiB' }, FRESH).layout).find((slot) => slot.role === 'swap');
    expect(swap?.content).toMatchObject({ kind: 'swap' });
  });
});

test('so does every board on every medium; its ranges are kept or it is named as left out', () => {
  const failures = oneOf(11, boardCombinations()).flatMap((answers) => {
    const proposal = propose(answers, FRESH);
    const why = wrong(answers, proposal);
    if (why !== undefined) return [`${why}: ${JSON.stringify(answers)}`];
    const { ranges } = boardProfile(answers.board!);
    const raws = place(proposal.layout).placed.filter(({ slot }) => slot.kind === 'raw');
    const kept = ranges.filter((range) => raws.some(({ span }) => span.start === range.at));
    const needed = ranges.some((range) => range.instead) ? 1 : ranges.length;
    const isServed = proposal.layout.boots.includes('board');
    return isServed && kept.length < needed ? [`ranges: ${JSON.stringify(answers)}`] : [];
  });
  expect(failures.slice(0, 3)).toEqual([]);
});

test('documents are valid, and the same answers give the same layout', () => {
  for (const answers of startCombinations().filter((_, i) => i % 37 === 0)) {
    const { layout } = propose(answers, FRESH);
    expect(validateLayout(JSON.parse(JSON.stringify(layout)))).toMatchObject({ ok: true });
    expect(propose(answers, FRESH).layout).toEqual(layout);
  }
});

describe('where something must stay', () => {
  const answers: Answers = { ...STARTS.find((one) => one.key === 'second-system')!.answers };

  test('only the range that the person names is used, and that is said', () => {
    const { layout, leftOut } = propose(answers, FRESH);
    const { placed } = place(layout);
    const mine = placed.filter(({ slot }) => slot.kind === 'partition');
    expect(Math.min(...mine.map((one) => one.span.start))).toBeGreaterThanOrEqual(420e9);
    expect(Math.max(...mine.map((one) => one.span.end))).toBeLessThanOrEqual(510e9);
    expect(leftOut.map((one) => one.question)).toEqual(['boots', 'existing']);
    expect(layout.machine).toMatchObject({ esp: 'kept' });
  });

  test('a range that ends before it begins is named, and everything is used', () => {
    const { layout, leftOut } = propose(
      { ...answers, existing: { kind: 'stays', from: '100 GB', until: '50 GB' } },
      FRESH,
    );
    expect(leftOut.find((one) => one.question === 'existing')?.why).toMatch(/ends before it begins/);
    expect(layout.slots.length).toBeGreaterThan(0);
  });
});

describe('starts', () => {
  test('there are eight, on the media of the trade, each with a layout of its own', () => {
    expect(STARTS).toHaveLength(8);
    expect(new Set(STARTS.map((one) => one.key)).size).toBe(8);
    const shapes = STARTS.map(({ answers }) =>
      JSON.stringify(propose(answers, FRESH).layout.slots.map((slot) => [slot.kind, slot.name])),
    );
    expect(new Set(shapes).size).toBeGreaterThanOrEqual(7);
  });

  test.each(STARTS.map((one) => [one.key, one] as const))('%s has no stop', (_, { answers }) => {
    expect(wrong(answers, propose(answers, FRESH))).toBeUndefined();
  });

  test('nothing said at all still gives a layout that starts from both firmwares', () => {
    const { layout, leftOut } = propose(NOTHING_SAID, FRESH);
    expect(layout.boots).toEqual(['uefi', 'bios']);
    expect(partitions(layout).map((slot) => slot.role)).toEqual(['bios-boot', 'esp', 'swap', 'system']);
    expect(leftOut).toEqual([]);
  });

  test('the board card matches what its story asks for', () => {
    const { layout } = propose(STARTS[0]!.answers, FRESH);
    expect(layout.slots.map((slot) => slot.name)).toEqual([
      'First-stage loader',
      'Boot',
      'System A',
      'System B',
      'Data',
    ]);
    const { placed } = place(layout);
    expect(placed[2]!.sectors).toBe(placed[3]!.sectors);
  });
});

test('the media of the combinations reach from a floppy to what no MBR can describe', () => {
  expect(START_MEDIA).toHaveLength(8);
  expect(START_MEDIA.filter((medium) => isFlash({ ...NOTHING_SAID, medium }))).toHaveLength(3);
});
