/** How a size begins that does not begin with a figure. */

/** The words that a size can begin with; every other one begins with a figure. */
export const SIZE_WORDS = [
  'rest',
  'memory',
  'ending',
  'same',
  'its',
  'all',
  'max',
  'remaining',
  'the rest',
  'to',
  'up to',
  'as large',
  'ram',
] as const;

/** A word that begins a size. */
export const SIZE_WORD = new RegExp(
  `^(?:${SIZE_WORDS.map((words) => words.replace(' ', '\\s+')).join('|')})(?![\\p{L}\\p{N}])`,
  'iu',
);
