/** Lines of the product, each with a change that its tests must notice. */

export interface Mutant {
  readonly file: string;
  /** Text that stands once in the file, and what it becomes. */
  readonly from: string;
  readonly to: string;
  readonly tests: readonly string[];
}

/** Changes of one file, which the same tests must notice. */
const changes = (file: string, tests: readonly string[], ...pairs: readonly [from: string, to: string][]): Mutant[] =>
  pairs.map(([from, to]) => ({ file, from, to, tests }));

export const MUTANTS: readonly Mutant[] = [
  ...changes(
    'src/core/placement/place.ts',
    ['src/core/placement/place.test.ts', 'src/core/placement/place-by-rules.proof.test.ts'],
    [
      'if (over <= 0 || placed.length === 0) return undefined;',
      'if (over <= 0 && placed.length === 0) return undefined;',
    ],
    [
      'const isOver = this.from > until && before !== undefined;',
      'const isOver = this.from > until || before !== undefined;',
    ],
  ),
  ...changes(
    'src/core/filesystems/fat/fill.ts',
    ['src/core/filesystems/fat/fill.proof.test.ts'],
    [
      "if (child.kind === 'file' && child.entry.size > FILE_LIMIT)",
      "if (child.kind === 'file' && child.entry.size >= FILE_LIMIT)",
    ],
    ['if (i % 2 === 0) {', 'if (i / 2 === 0) {'],
  ),
  ...changes(
    'src/core/filesystems/exfat/fill.ts',
    ['src/core/filesystems/exfat/exfat.proof.test.ts'],
    [
      'for (let i = 0; i < count; i++) fat[first + i] = i < count - 1 ? first + i + 1 : 0xffffffff;',
      'for (let i = 0; i < count; i++) fat[first + i] = i < count ? first + i + 1 : 0xffffffff;',
    ],
  ),
  ...changes(
    'src/core/filesystems/ext/group.ts',
    ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
    ['if (bytes.length < 64) {', 'if (bytes.length <= 64) {'],
  ),
  ...changes(
    'src/core/filesystems/ext/directory.ts',
    ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
    ['for (let i = 0; i < blocks; i++) {', 'for (let i = 0; i <= blocks; i++) {'],
    ['used += length;', 'used -= length;'],
  ),
  ...changes(
    'src/core/filesystems/ext/mapping.ts',
    ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
    [
      'const extentsIn = (block: number): number => Math.floor((block - EXTENT_BYTES) / EXTENT_BYTES);',
      'const extentsIn = (block: number): number => Math.ceil((block - EXTENT_BYTES) / EXTENT_BYTES);',
    ],
    ['tables += Math.max(0, high - low + 1);', 'tables += Math.max(0, high - low + 2);'],
  ),
  ...changes(
    'src/core/filesystems/ext/check/folders.ts',
    ['src/core/filesystems/ext/check/check.proof.test.ts', 'src/core/filesystems/ext/check/more-faults.proof.test.ts'],
    ['return run && run.physical + block - run.logical;', 'return run || run.physical + block - run.logical;'],
    [
      'if (isNode && bytes.length >= 1024) return this.rest(bytes, block, at, names);',
      'if (isNode || bytes.length >= 1024) return this.rest(bytes, block, at, names);',
    ],
  ),
  ...changes(
    'src/core/filesystems/ext/replay/log.ts',
    ['src/core/filesystems/ext/replay/replay.proof.test.ts'],
    ['if (kind === DESCRIPTOR && isSummedOfOld) {', 'if (kind === DESCRIPTOR || isSummedOfOld) {'],
    ['this.isSummed = this.isSummed3 || has(FEATURE.sums2);', 'this.isSummed = this.isSummed3 && has(FEATURE.sums2);'],
  ),
  ...changes(
    'src/core/filesystems/ext/replay/view.ts',
    ['src/core/filesystems/ext/replay/replay.proof.test.ts'],
    ['if (this.sorted[middle]! < block) low = middle + 1;', 'if (this.sorted[middle]! <= block) low = middle + 1;'],
  ),
  ...changes(
    'src/core/filesystems/ext/replay/orphans.ts',
    ['src/core/filesystems/ext/replay/orphans.proof.test.ts'],
    [
      'if (!this.hasBlocks(inode) && (inode.flags & INODE_FLAG.inline) === 0)',
      'if (!this.hasBlocks(inode) || (inode.flags & INODE_FLAG.inline) === 0)',
    ],
    [
      'view.setUint16(fields.sectorsHigh.offset, Math.floor(sectors / HALF), true);',
      'view.setUint16(fields.sectorsHigh.offset, Math.ceil(sectors / HALF), true);',
    ],
  ),
  ...changes(
    'src/core/filesystems/ext/repack/place.ts',
    ['src/core/filesystems/ext/repack/repack.proof.test.ts', 'src/core/filesystems/ext/by-the-book.proof.test.ts'],
    ['return last && roomy(last, gathered);', 'return last || roomy(last, gathered);'],
  ),
  ...changes(
    'src/ui/column/geometry.ts',
    ['src/ui/column/geometry.test.ts'],
    [
      'const weights = strata.map((one) => (one.kind === growing ? Math.log2(1 + one.sectors) ** 2 : 0));',
      'const weights = strata.map((one) => (one.kind !== growing ? Math.log2(1 + one.sectors) ** 2 : 0));',
    ],
  ),
  ...changes(
    'src/ui/survey/layers.ts',
    ['src/ui/survey/layers.test.ts'],
    [
      "if (promise === 'esp' || promise === 'extended boot') return 'boot';",
      "if (promise !== 'esp' || promise === 'extended boot') return 'boot';",
    ],
  ),
  ...changes(
    'src/files/holes.ts',
    ['src/files/holes.test.ts'],
    [
      'return { ...source, isHole: (offset, length) => (behind(offset)?.[0] ?? Infinity) >= offset + length };',
      'return { ...source, isHole: (offset, length) => (behind(offset)?.[0] ?? Infinity) < offset + length };',
    ],
  ),
  ...changes(
    'src/files/archives.ts',
    ['src/files/archives.test.ts'],
    [
      "if (kept.size < from) throw new Error('the data of a file with holes ends too early');",
      "if (kept.size >= from) throw new Error('the data of a file with holes ends too early');",
    ],
  ),
  ...changes(
    'src/core/tables/gpt.ts',
    ['src/core/tables/gpt.test.ts'],
    ['const count = Math.min(until - 1, SECTOR_LIMIT - 1);', 'const count = Math.min(until, SECTOR_LIMIT - 1);'],
  ),
  ...changes(
    'src/core/tables/mbr.ts',
    ['src/core/tables/mbr.test.ts'],
    ['return first < SECTOR_LIMIT && count < SECTOR_LIMIT;', 'return first < SECTOR_LIMIT || count < SECTOR_LIMIT;'],
  ),
  ...changes(
    'src/core/tables/types.ts',
    ['src/core/tables/types.test.ts'],
    [
      "if (role === 'boot' && typeof content === 'number') return GPT.extendedBoot;",
      "if (role === 'boot' && typeof content !== 'number') return GPT.extendedBoot;",
    ],
  ),
  ...changes(
    'src/core/quantity/size-language.ts',
    ['src/core/quantity/size-language.test.ts'],
    [
      'if (numerator === 0n || numerator > 1000n * denominator)',
      'if (numerator !== 0n || numerator > 1000n * denominator)',
    ],
  ),
  ...changes(
    'src/core/quantity/units.ts',
    ['src/core/quantity/units.test.ts'],
    ['const whole = Math.floor(bytes / each);', 'const whole = Math.ceil(bytes / each);'],
  ),
  ...changes(
    'src/core/filesystems/names.ts',
    ['src/core/filesystems/names.test.ts'],
    ["return mended === '' ? '_' : mended;", "return mended !== '' ? '_' : mended;"],
  ),
  ...changes(
    'src/core/filesystems/tree-paths.ts',
    ['src/core/filesystems/tree-paths.test.ts'],
    ["if (entry?.kind === 'link') {", "if (entry?.kind !== 'link') {"],
  ),
  ...changes(
    'src/core/filesystems/signatures.ts',
    ['src/core/filesystems/signatures.test.ts'],
    [
      "const code = typeof mark === 'string' ? mark.charCodeAt(i) : mark[i];",
      "const code = typeof mark !== 'string' ? mark.charCodeAt(i) : mark[i];",
    ],
  ),
  ...changes(
    'src/core/layout/translate.ts',
    ['src/core/layout/translate.test.ts'],
    [
      "if (slot.type === undefined || kind === 'none' || fitsTable(slot.type, kind)) return { patch: {}, remarks: [] };",
      "if (slot.type !== undefined || kind === 'none' || fitsTable(slot.type, kind)) return { patch: {}, remarks: [] };",
    ],
  ),
  ...changes(
    'src/core/filesystems/room-map.ts',
    ['src/core/filesystems/room-map.test.ts'],
    ['const count = Math.ceil(bytes / this.cell);', 'const count = Math.floor(bytes / this.cell);'],
  ),
  ...changes(
    'src/core/filesystems/volume.ts',
    ['src/core/filesystems/volume.test.ts'],
    ['if (cluster < 2 || cluster >= clusters + 2)', 'if (cluster >= 2 || cluster >= clusters + 2)'],
  ),
  ...changes(
    'src/core/filesystems/ext/geometry.ts',
    ['src/core/filesystems/ext/geometry.test.ts'],
    [
      "if (perInode < KIB || perInode > 64 * MIB) return refuse('inode ratio', KIB);",
      "if (perInode < KIB || perInode <= 64 * MIB) return refuse('inode ratio', KIB);",
    ],
  ),
  ...changes(
    'src/core/filesystems/swap/format.ts',
    ['src/core/filesystems/swap/format.test.ts'],
    [
      'return Math.min(Math.floor(bytes / pageSize), MOST_PAGES);',
      'return Math.min(Math.ceil(bytes / pageSize), MOST_PAGES);',
    ],
  ),
  ...changes(
    'src/core/filesystems/fat/label.ts',
    ['src/core/filesystems/fat/label.test.ts'],
    [
      'const forbidden = PLAIN.test(upper) ? [] : characters.filter((c) => FORBIDDEN.includes(c) || codeOf(c) === undefined);',
      'const forbidden = PLAIN.test(upper) ? [] : characters.filter((c) => FORBIDDEN.includes(c) || codeOf(c) !== undefined);',
    ],
  ),
  ...changes(
    'src/core/filesystems/fat/geometry.ts',
    ['src/core/filesystems/fat/geometry.test.ts'],
    [
      'const rootAt = (dataStart: number) => (evenly && (dataStart - least - root) % FATS !== 0 ? root + 1 : root);',
      'const rootAt = (dataStart: number) => (evenly && (dataStart - least - root) % FATS === 0 ? root + 1 : root);',
    ],
  ),
  ...changes(
    'src/core/filesystems/fat/study.ts',
    ['src/core/filesystems/fat/study.test.ts'],
    ['const large = clusterBytes > 32 * 1024;', 'const large = clusterBytes <= 32 * 1024;'],
  ),
  ...changes(
    'src/core/layout/medium-spec.ts',
    ['src/core/layout/medium-spec.test.ts'],
    [
      'const known = (text: string | undefined) => (text === undefined ? 0 : exactBytes(text, logicalSector));',
      'const known = (text: string | undefined) => (text !== undefined ? 0 : exactBytes(text, logicalSector));',
    ],
  ),
  ...changes(
    'src/core/layout/pasted.ts',
    ['src/core/layout/pasted.test.ts'],
    [
      'if (i >= after.length - tail) return places[before.length - (after.length - i)];',
      'if (i < after.length - tail) return places[before.length - (after.length - i)];',
    ],
  ),
];
