/** Programs as listings: each line has bytes in hexadecimal digits, a bar, and what they mean. */

/** The bytes of a listing. */
export function codeOfListing(listing: string): Uint8Array {
  const digits = listing
    .split('\n')
    .map((line) => line.slice(0, Math.max(0, line.indexOf('|'))).trim())
    .join('');
  return Uint8Array.from(digits.match(/../g) ?? [], (pair) => parseInt(pair, 16));
}

/** The source of a listing, as an assembler takes it. */
export function sourceOfListing(listing: string): string {
  return listing
    .split('\n')
    .map((line) => line.slice(line.indexOf('|') + 1).trimEnd())
    .join('\n');
}
