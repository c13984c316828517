import { CHS_REACH } from './mbr';
import {
  fitsTable,
  isCylinderCode,
  knownTypes,
  nameOfType,
  promiseOf,
  typeByRule,
  typeCode,
  typeMeant,
  typeName,
  type TypeQuestion,
} from './types';

const MIB = 2048;
const question: TypeQuestion = {
  table: 'mbr',
  role: 'data',
  content: 32,
  end: 4096,
  sectors: 100 * MIB,
  sectorSize: 512,
  prefersLba: false,
};

test.each<[Partial<TypeQuestion>, string]>([
  [{}, '0B'],
  [{ end: CHS_REACH }, '0B'],
  [{ end: CHS_REACH + 1 }, '0C'],
  [{ sectorSize: 4096 }, '0C'],
  [{ prefersLba: true }, '0C'],
  [{ content: 12, sectors: 10 * MIB }, '01'],
  [{ content: 12, sectors: 32 * MIB }, '06'],
  [{ content: 12, sectors: 10 * MIB, end: CHS_REACH + 1 }, '01'],
  [{ content: 16, sectors: 31 * MIB }, '04'],
  [{ content: 16, sectors: 32 * MIB }, '06'],
  [{ content: 16, end: CHS_REACH + 1 }, '0E'],
  [{ content: 16, sectorSize: 4096 }, '0E'],
  [{ role: 'esp' }, 'EF'],
  [{ role: 'bios-boot', content: 'none' }, 'DA'],
  [{ content: 'none', role: 'swap' }, '82'],
  [{ content: 'none', role: 'system' }, '83'],
])('an MBR type for %j', (asked, type) => {
  expect(typeByRule({ ...question, ...asked })).toBe(type);
});

test.each<[Partial<TypeQuestion>, string]>([
  [{}, 'basic data'],
  [{ role: 'esp' }, 'ESP'],
  [{ role: 'boot' }, 'extended boot loader'],
  [{ role: 'boot', content: 16 }, 'extended boot loader'],
  [{ role: 'boot', content: 'linux' }, 'Linux data'],
  [{ role: 'boot', content: 'ifs' }, 'basic data'],
  [{ role: 'boot', content: 'none' }, 'Linux data'],
  [{ role: 'bios-boot', content: 'none' }, 'BIOS boot'],
  [{ role: 'swap', content: 'none' }, 'Linux swap'],
  [{ role: 'system', content: 'none' }, 'Linux data'],
])('a GPT type for %j', (asked, name) => {
  expect(typeName(typeByRule({ ...question, table: 'gpt', ...asked }))).toBe(name);
});

test('names and promises', () => {
  expect(typeName('0C')).toBe('0C FAT32 LBA');
  expect(typeName('99')).toBe('99 unknown type');
  expect(typeName('0badcafe-0000-4000-8000-000000000001')).toBe('type 0badcafe-0000-4000-8000-000000000001');
  expect(['1C', '06', '01', 'EF', '83', '82', '0F', 'EE', 'A5'].map(promiseOf)).toEqual([
    'fat32',
    'fat16',
    'fat12',
    'esp',
    'linux',
    'swap',
    'container',
    'protective',
    'other',
  ]);
  expect(['0B', '0C', '01'].map(isCylinderCode)).toEqual([true, false, false]);
  expect(typeCode(0xc)).toBe('0C');
});

test('a table holds types of its own kind', () => {
  const guid = knownTypes('gpt')[0]!.type;
  expect([fitsTable('0C', 'mbr'), fitsTable('0C', 'gpt'), fitsTable(guid, 'gpt'), fitsTable(guid, 'mbr')]).toEqual([
    true,
    false,
    true,
    false,
  ]);
  expect(knownTypes('gpt').every(({ type }) => /^[0-9a-f-]{36}$/.test(type))).toBe(true);
  expect(knownTypes('mbr').every(({ type }) => /^[0-9A-F]{2}$/.test(type))).toBe(true);
  expect(new Set([...knownTypes('gpt'), ...knownTypes('mbr')].map((one) => one.type)).size).toBe(
    knownTypes('gpt').length + knownTypes('mbr').length,
  );
});

describe('what people type for a type', () => {
  const LVM = 'e6d6d379-f507-44c2-a23c-238f2a3df928';

  test.each(['LVM', 'lvm', ' Linux LVM ', '8e', '8E', '0x8e', '0X8E', '8Eh', LVM, LVM.toUpperCase(), `{${LVM}}`])(
    '%s is LVM in both tables',
    (text) => {
      expect(typeMeant(text, 'mbr')).toBe('8E');
      expect(typeMeant(text, 'gpt')).toBe(LVM);
    },
  );

  test.each([
    ['UFS', 'A5', '516e7cb6-6ecf-11d6-8ff8-00022d09712b'],
    ['swap', '82', '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f'],
    ['ext4', '83', '0fc63daf-8483-4772-8e79-3d69d8477de4'],
    ['EFI', 'EF', 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b'],
    ['XBOOTLDR', 'EA', 'bc13c2ff-59e6-4262-a352-b275fd6f7172'],
    ['fat32', '0C', 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7'],
    ['4D', '4D', undefined],
    ['21686148-6449-6E6F-744E-656564454649', undefined, '21686148-6449-6e6f-744e-656564454649'],
  ])('%s', (text, mbr, gpt) => {
    expect(typeMeant(text, 'mbr')).toBe(mbr);
    expect(typeMeant(text, 'gpt')).toBe(gpt);
  });

  test.each(['', '00', '0x', '8', '8ee', 'banana', 'e6d6d379', '-', 'LVM2'])('%s is none', (text) => {
    expect([typeMeant(text, 'mbr'), typeMeant(text, 'gpt')]).toEqual([undefined, undefined]);
  });

  test('every known type is chosen by its name, its code or its GUID', () => {
    for (const table of ['mbr', 'gpt'] as const)
      for (const { type, name } of knownTypes(table)) {
        expect(typeMeant(name, table)).toBe(type);
        expect(typeMeant(type, table)).toBe(type);
        expect(nameOfType(type)).toBe(name);
      }
  });
});
