/** Entries of directories, as every reader of them takes them ("Directory Entries"). */

/** Length of an entry: 64 KiB do not fit into its sixteen bits. */
export function recordLength(stored: number, block: number): number {
  if (block < 65_536) return stored;
  return stored === 65_535 || stored === 0 ? 65_536 : (stored & 65_532) | ((stored & 3) << 16);
}
