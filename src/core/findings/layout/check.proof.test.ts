import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { CASES } from '@tests/finding-cases/all';
import { image } from '@tests/finding-cases/case';
import { findingsPage } from '@tests/findings-page';
import { fatPart, layoutOn, part } from '@tests/samples';
import type { Contents } from '../../filesystems/supplied';
import { type Tree } from '../../filesystems/tree';
import { withNames } from '../../filesystems/tree-edits';
import { fillingOf, withFiles } from '../../layout/contents';
import type { Layout, PartitionSlot } from '../../layout/document';
import { applyEdit } from '../../layout/edits';
import { RULES_OF_1 } from '../../layout/upgrade-rules';
import { validateLayout } from '../../layout/validate';
import { placeWritten } from '../../naming/written';
import { accepting, openRisks, RISK_IS_GONE, unaccepting } from './acceptance';
import { check } from './check';
import { OUTSIDE_RULES } from './checking';
import { SURVEY_RULES } from '../survey/check';
import type { FileRemedy } from './file-remedies';
import { stopsAmong } from './finding';
import { INSIDE_RULES } from './inside';

const found = (layout: Layout, rule: string, contents?: Contents) =>
  check(placeWritten(layout, contents)).filter((one) => one.rule === rule);

/** The layout and what is known of its contents after a remedy that changes files. */
function mended(layout: Layout, contents: Contents, { slot, change }: FileRemedy): [Layout, Contents] {
  const before = layout.slots.find((one) => one.id === slot) as PartitionSlot;
  const tree = contents.tree(fillingOf(before)!.files!) as Tree;
  const sha256 = 'f'.repeat(64);
  const after = applyEdit(layout, { do: 'change slot', id: slot, patch: withFiles(before, sha256) });
  return [
    after,
    { ...contents, tree: (one) => (one === sha256 ? withNames(tree, change.paths, change.names) : contents.tree(one)) },
  ];
}

describe.each(CASES)('$rule', ({ rule, severity, bad, good, says, remedies, fileRemedies = [], contents }) => {
  test('speaks when it should, with figures and a reason', () => {
    const [finding] = found(bad, rule, contents);
    expect(finding).toMatchObject({ severity });
    expect(finding!.sentence).toEqual(expect.stringMatching(typeof says === 'string' ? literal(says) : says));
    expect(finding!.why.length).toBeGreaterThan(10);
  });

  test('keeps silent when it should', () => {
    expect(found(good, rule, contents)).toEqual([]);
  });

  test('each remedy cures it, leaves a valid document, and deletes only where it says so', () => {
    const [finding] = found(bad, rule, contents);
    expect(finding!.remedies.map((one) => one.label)).toEqual(
      remedies.map((one) => (typeof one === 'string' ? one : (expect.stringMatching(one) as string))),
    );
    for (const { label, edit } of finding!.remedies) {
      const after = applyEdit(bad, edit);
      expect(validateLayout(JSON.parse(JSON.stringify(after)))).toMatchObject({ ok: true });
      const isSamePlace = (one: ReturnType<typeof check>[number]) =>
        JSON.stringify(one.place) === JSON.stringify(finding!.place);
      expect(
        found(after, rule, contents)
          .filter(isSamePlace)
          .map((one) => one.sentence),
      ).toEqual([]);
      if (!label.startsWith('Delete')) expect(after.slots.length).toBeGreaterThanOrEqual(bad.slots.length);
    }
  });

  test('each remedy that changes files cures it, and touches no file beside those it names', () => {
    const [finding] = found(bad, rule, contents);
    const offered = finding!.fileRemedies ?? [];
    expect(offered.map((one) => one.label)).toEqual(fileRemedies);
    for (const remedy of offered) {
      const [layout, known] = mended(bad, contents!, remedy);
      expect(found(layout, rule, known)).toEqual([]);
      const named = remedy.change.paths;
      const before = contents!.tree(
        fillingOf(bad.slots.find((one) => one.id === remedy.slot) as PartitionSlot)!.files!,
      );
      const isKept = ({ path }: Tree[number]) => !named.some((one) => path === one || path.startsWith(`${one}/`));
      expect(known.tree('f'.repeat(64))).toEqual(expect.arrayContaining((before as Tree).filter(isKept).slice(0, 50)));
    }
  });
});

function literal(text: string): RegExp {
  return new RegExp(text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
}

test('every rule is tested here, once, and its id tells its file', () => {
  const rules = [...OUTSIDE_RULES, ...INSIDE_RULES].map(({ id }) => id);
  expect(CASES.map((one) => one.rule).sort()).toEqual([...rules, RISK_IS_GONE.id].sort());
  expect(rules.length).toBeGreaterThanOrEqual(170);
  for (const id of rules) {
    const file = path.join(__dirname, `${id.split('/')[0]}.ts`);
    expect(readFileSync(file, 'utf8').match(new RegExp(`rule\\(\\s*'${id}'`, 'g'))).toHaveLength(1);
  }
});

test('no rule is declared and then forgotten', () => {
  const sources = readdirSync(__dirname).filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'));
  const declared = sources.flatMap((name) =>
    [...readFileSync(path.join(__dirname, name), 'utf8').matchAll(/\brule\(\s*'([a-z/0-9-]+)'/g)].map((one) => one[1]),
  );
  expect(declared.sort()).toEqual([...OUTSIDE_RULES, ...INSIDE_RULES].map(({ id }) => id).sort());
});

test('a risk that was accepted in a document of version 1 leads to a rule that there is', () => {
  const rules = new Map([...OUTSIDE_RULES, ...INSIDE_RULES].map(({ id, severity }) => [id, severity]));
  for (const [old, id] of RULES_OF_1) {
    expect(rules.has(old)).toBe(false);
    expect([id, rules.get(id)]).toEqual([id, 'risk']);
  }
});

test('a system keeps room for later versions: what its image does not fill is told beyond that room only', () => {
  const MIB = 2 ** 20;
  const slot = (size: string) =>
    image('1 GiB', [
      part('a', size, {
        role: 'system',
        content: { kind: 'image', sha256: 'a'.repeat(64), name: 'system.img', size: 34 * MIB },
      }),
    ]);
  const about = (size: string) =>
    check(placeWritten(slot(size)))
      .filter(({ rule }) => rule === 'image/smaller-than-its-slot' || rule === 'content/slot-over-85-full')
      .map(({ rule, remedies }) => [rule, ...remedies.map(({ label }) => label)]);
  expect(about('50 MiB')).toEqual([['image/smaller-than-its-slot', 'Make a 40 MiB']]);
  expect(about('40 MiB')).toEqual([]);
  expect(about('its image')).toEqual([['content/slot-over-85-full', 'Make a 40 MiB']]);
});

test('stops come first, then risks, then notes', () => {
  const layout = image('100000256 B', [fatPart('a', '20 MiB', { label: 'low' }), part('b', '90 MiB')], {
    boots: ['bios'],
  });
  const order = check(placeWritten(layout)).map((one) => one.severity);
  expect(order).toEqual([...order].sort((a, b) => 'srn'.indexOf(a[0]!) - 'srn'.indexOf(b[0]!)));
  expect(stopsAmong(check(placeWritten(layout))).length).toBe(2);
});

test('a share that is too small for FAT32 is cured by a lower bound', () => {
  const layout = image('200 MiB', [part('b', 'rest × 9'), fatPart('a', 'rest')]);
  const [finding] = found(layout, 'fat/too-few-clusters');
  expect(finding!.remedies.map((one) => one.label)).toEqual([
    'Make a at least 33 MiB',
    'Let the size decide the variant',
  ]);
  expect(found(applyEdit(layout, finding!.remedies[0]!.edit), 'fat/too-few-clusters')).toEqual([]);
});

test('a chosen cluster that is too large is cured by letting the size decide', () => {
  const layout = image('1 GiB', [fatPart('a', '100 MiB', { cluster: '32 KiB' })]);
  const [finding] = found(layout, 'fat/too-few-clusters');
  expect(finding!.remedies.map((one) => one.label)).toContain('Let the size decide the cluster');
  for (const { edit } of finding!.remedies) expect(found(applyEdit(layout, edit), 'fat/too-few-clusters')).toEqual([]);
});

test('remedies: most cure without deleting', () => {
  const withRemedy = CASES.filter((one) => one.remedies.length > 0);
  const kind = withRemedy.filter((one) => one.remedies.some((label) => !String(label).startsWith('Delete')));
  expect(withRemedy.length).toBeGreaterThanOrEqual(50);
  expect(kind.length).toBeGreaterThanOrEqual(withRemedy.length - 2);
});

describe('accepted risks', () => {
  const layout = layoutOn('1 GiB', [part('a', '200 MiB', { role: 'boot' })], {
    boots: ['bios'],
    machine: { loader: 'active partition' },
  });
  const risks = (one: Layout) => openRisks(check(placeWritten(one))).map((finding) => finding.rule);
  const accepted = (one: Layout, rule: string) => {
    const finding = check(placeWritten(one)).find((each) => each.rule === rule)!;
    return applyEdit(one, accepting(one, finding, 'the loader comes later'));
  };

  test('are not open any more, say why, and can be taken back', () => {
    expect(risks(layout)).toEqual(['boot/no-active-mark', 'boot/no-code-in-sector-0']);
    const taken = accepted(layout, 'boot/no-code-in-sector-0');
    expect(risks(taken)).toEqual(['boot/no-active-mark']);
    const finding = check(placeWritten(taken)).find((one) => one.rule === 'boot/no-code-in-sector-0')!;
    expect(finding.accepted).toBe('the loader comes later');
    expect(risks(applyEdit(taken, unaccepting(taken, finding)))).toEqual(risks(layout));
    expect(applyEdit(taken, unaccepting(taken, finding)).accepted).toBeUndefined();
    expect(validateLayout(JSON.parse(JSON.stringify(taken)))).toMatchObject({ ok: true });
  });

  test('come back when their figures change, with the reason that was given', () => {
    const taken = accepted(layout, 'boot/no-active-mark');
    expect(risks(taken)).not.toContain('boot/no-active-mark');
    const changed = applyEdit(taken, { do: 'add slot', slot: part('b', '10 MiB'), index: 1 });
    const back = openRisks(check(placeWritten(changed))).find((one) => one.rule === 'boot/no-active-mark')!;
    expect(back.acceptedBefore).toMatchObject({ reason: 'the loader comes later' });
    const again = applyEdit(changed, accepting(changed, back, 'still'));
    expect(again.accepted).toHaveLength(1);
    expect(again.accepted![0]).toMatchObject({ reason: 'still', sentence: back.sentence });
  });

  test('of one slot do not speak for another', () => {
    const two = layoutOn('1 GiB', [
      fatPart('a', '40 MiB', {}, { role: 'esp' }),
      fatPart('b', '40 MiB', {}, { role: 'esp' }),
    ]);
    const [first] = openRisks(check(placeWritten(two))).filter((one) => one.rule === 'esp/under-100-mib');
    const after = applyEdit(two, accepting(two, first!, 'small on purpose'));
    expect(risks(after).filter((rule) => rule === 'esp/under-100-mib')).toHaveLength(1);
  });
});

test('docs/findings.md is the one that the rules make', async () => {
  const page = await findingsPage();
  expect(readFileSync('docs/findings.md', 'utf8')).toBe(page);
  for (const { id } of [...OUTSIDE_RULES, ...INSIDE_RULES, ...SURVEY_RULES]) expect(page).toContain(`\`${id}\``);
});
