import fc from 'fast-check';
import { isStoredLabel, LABEL_LENGTH, labelText, storedLabel } from './label';

test.each([
  ['TIDELOG', 'TIDELOG', '', []],
  ['Shared tide data', 'SHARED TIDE', ' DATA', []],
  ['gauge_a', 'GAUGE_A', '', []],
  ['  BUOY 07 ', 'BUOY 07', '', []],
  ['a.b/c', 'A_B_C', '', ['.', '/']],
  ['Ebbe für 7', 'EBBE FÜR 7', '', []],
  ['潮位', '__', '', ['潮', '位']],
  ['', '', '', []],
])('“%s” is stored as “%s”', (typed, text, cut, forbidden) => {
  expect(storedLabel(typed)).toMatchObject({ text, cut, forbidden });
});

test('the bytes are upper case of character set 437, padded with spaces', () => {
  expect([...storedLabel('Für').bytes]).toEqual([0x46, 0x9a, 0x52, 32, 32, 32, 32, 32, 32, 32, 32]);
});

test('every label is stored in eleven bytes that read back as its text', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 30 }), (typed) => {
      const { bytes, text } = storedLabel(typed);
      expect(bytes.length).toBe(LABEL_LENGTH);
      expect(labelText(bytes)).toBe(text);
      expect(isStoredLabel(typed)).toBe(text !== '');
    }),
  );
});

test('control bytes of a foreign label are shown, not obeyed', () => {
  expect(labelText(Uint8Array.of(0x41, 0x07, 0x42))).toBe('A?B');
});
