/** Ext volumes of forms that others make, laid anew in four lengths: a kernel mounts and fills each, and shows every fact. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { EXT_FORMS, inForm } from '@tests/ext-forms';
import { inMemory } from '@tests/filled';
import { sound, type Which } from '@tests/planted-ext';
import { cases as tierCases, IS_DEEP } from '@tests/tier';
import { type RepackCase, runRepacked } from './ext-repack';

const VOLUMES: readonly Which[] = ['current', 'old', 'mapped'];

let folder: string;
let amiss: readonly string[][];
const names: string[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-forms-'));
  const cases: RepackCase[] = [];
  for (const [i, form] of EXT_FORMS.entries())
    for (const [j, which] of VOLUMES.entries()) {
      // One volume of each form; all in the second tier.
      if (!IS_DEEP && j !== i % VOLUMES.length) continue;
      const bytes = await inForm(inMemory(sound(which).bytes), form);
      const cut = path.join(folder, `${i}-${j}.img`);
      writeFileSync(cut, bytes);
      cases.push({ cut, size: bytes.length, way: i + j });
      names.push(`${form}, ${which}`);
    }
  amiss = await runRepacked(cases);
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('nothing is amiss', () => {
  expect(names.flatMap((name, i) => amiss[i]!.map((what) => `${name}: ${what}`))).toEqual([]);
  expect(amiss).toHaveLength(EXT_FORMS.length * tierCases(1, VOLUMES.length));
});
