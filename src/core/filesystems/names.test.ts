import { EXFAT_NAMES } from './exfat/names';
import fc from 'fast-check';
import { isDeviceName, nameKey, nameTrouble, storableName } from './names';

test.each([
  ['BUOY07.CSV', undefined],
  ['Station of the coast.cfg', undefined],
  ['.profile', undefined],
  ['水位.csv', undefined],
  ['🌊', undefined],
  ['a'.repeat(255), undefined],
  ['a'.repeat(256), 'is longer than 255 characters'],
  ['🌊'.repeat(128), 'is longer than 255 characters'],
  ['a:b', 'has the character :'],
  ['a?b', 'has the character ?'],
  ['a/b', 'has the character /'],
  ['a\\b', 'has the character \\'],
  ['a"b', 'has the character "'],
  ['a\tb', 'has a control character'],
  ['a\u007fb', 'has a control character'],
  ['end.', 'ends with a point, which readers drop'],
  ['end ', 'ends with a space, which readers drop'],
  ['..', 'ends with a point, which readers drop'],
  [' begin', 'begins with a space, which readers drop'],
  ['half \ud83c', 'has half a character'],
  ['half \udf0a', 'has half a character'],
  ['no \uffff', 'has a code that stands for no character'],
])('“%s”: %s', (name, trouble) => expect(nameTrouble(name)).toBe(trouble));

test.each([
  ['end.', undefined],
  ['end ', undefined],
  [' begin', undefined],
  ['a\u007fb', undefined],
  ['no \uffff', undefined],
  ['..', 'stands for a folder itself'],
  ['a:b', 'has the character :'],
  ['half \ud83c', 'has half a character'],
])('“%s” in exFAT: %s', (name, trouble) => expect(nameTrouble(name, EXFAT_NAMES)).toBe(trouble));

test.each(['CON', 'con.txt', 'Lpt1', 'COM9.tar.gz', 'nul', 'aux.', 'COM¹'])('“%s” is kept for a device', (name) =>
  expect(isDeviceName(name)).toBe(true),
);
test.each(['CONSOLE', 'COM0', 'COM10', 'x.con', 'lpt', ''])('“%s” is not', (name) =>
  expect(isDeviceName(name)).toBe(false),
);

test('what is made storable can be stored, and a name that can be stays as it is', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
      const made = storableName(name);
      expect(nameTrouble(made)).toBeUndefined();
      if (name !== '' && nameTrouble(name) === undefined) expect(made).toBe(name);
    }),
  );
  expect(storableName('CON:1')).toBe('CON_1');
  expect(storableName(' ..')).toBe('_');
  expect(storableName('')).toBe('_');
});

test('names that differ by case alone have one key, in every script; others have their own', () => {
  expect(nameKey('Küste.csv')).toBe(nameKey('KÜSTE.CSV'));
  expect(nameKey('Глубина')).toBe(nameKey('ГЛУБИНА'));
  // One letter never becomes two: the table maps single units.
  expect(nameKey('straße')).not.toBe(nameKey('STRASSE'));
  expect(nameKey('a1')).not.toBe(nameKey('a2'));
  expect(nameKey('🌊')).toBe('🌊');
});
