/** Lines of the product, each with a change that its tests must notice. */

export interface Mutant {
  readonly file: string;
  /** Text that stands once in the file, and what it becomes. */
  readonly from: string;
  readonly to: string;
  readonly tests: readonly string[];
}

export const MUTANTS: readonly Mutant[] = [
  {
    file: 'src/core/placement/place.ts',
    from: 'if (over <= 0 || placed.length === 0) return undefined;',
    to: 'if (over <= 0 && placed.length === 0) return undefined;',
    tests: ['src/core/placement/place.test.ts', 'src/core/placement/place-by-rules.proof.test.ts'],
  },
  {
    file: 'src/core/placement/place.ts',
    from: 'const isOver = this.from > until && before !== undefined;',
    to: 'const isOver = this.from > until || before !== undefined;',
    tests: ['src/core/placement/place.test.ts', 'src/core/placement/place-by-rules.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/fat/fill.ts',
    from: "if (child.kind === 'file' && child.entry.size > FILE_LIMIT)",
    to: "if (child.kind === 'file' && child.entry.size >= FILE_LIMIT)",
    tests: ['src/core/filesystems/fat/fill.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/fat/fill.ts',
    from: 'if (i % 2 === 0) {',
    to: 'if (i / 2 === 0) {',
    tests: ['src/core/filesystems/fat/fill.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/exfat/fill.ts',
    from: 'for (let i = 0; i < count; i++) fat[first + i] = i < count - 1 ? first + i + 1 : 0xffffffff;',
    to: 'for (let i = 0; i < count; i++) fat[first + i] = i < count ? first + i + 1 : 0xffffffff;',
    tests: ['src/core/filesystems/exfat/exfat.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/group.ts',
    from: 'if (bytes.length < 64) {',
    to: 'if (bytes.length <= 64) {',
    tests: ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/directory.ts',
    from: 'for (let i = 0; i < blocks; i++) {',
    to: 'for (let i = 0; i <= blocks; i++) {',
    tests: ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/directory.ts',
    from: 'used += length;',
    to: 'used -= length;',
    tests: ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/mapping.ts',
    from: 'const extentsIn = (block: number): number => Math.floor((block - EXTENT_BYTES) / EXTENT_BYTES);',
    to: 'const extentsIn = (block: number): number => Math.ceil((block - EXTENT_BYTES) / EXTENT_BYTES);',
    tests: ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/mapping.ts',
    from: 'tables += Math.max(0, high - low + 1);',
    to: 'tables += Math.max(0, high - low + 2);',
    tests: ['src/core/filesystems/ext/by-the-book.proof.test.ts', 'src/core/filesystems/ext/ext.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/check/folders.ts',
    from: 'return run && run.physical + block - run.logical;',
    to: 'return run || run.physical + block - run.logical;',
    tests: [
      'src/core/filesystems/ext/check/check.proof.test.ts',
      'src/core/filesystems/ext/check/more-faults.proof.test.ts',
    ],
  },
  {
    file: 'src/core/filesystems/ext/check/folders.ts',
    from: 'if (isNode && bytes.length >= 1024) return this.rest(bytes, block, at, names);',
    to: 'if (isNode || bytes.length >= 1024) return this.rest(bytes, block, at, names);',
    tests: [
      'src/core/filesystems/ext/check/check.proof.test.ts',
      'src/core/filesystems/ext/check/more-faults.proof.test.ts',
    ],
  },
  {
    file: 'src/core/filesystems/ext/replay/log.ts',
    from: 'if (kind === DESCRIPTOR && isSummedOfOld) {',
    to: 'if (kind === DESCRIPTOR || isSummedOfOld) {',
    tests: ['src/core/filesystems/ext/replay/replay.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/replay/log.ts',
    from: 'this.isSummed = this.isSummed3 || has(FEATURE.sums2);',
    to: 'this.isSummed = this.isSummed3 && has(FEATURE.sums2);',
    tests: ['src/core/filesystems/ext/replay/replay.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/replay/view.ts',
    from: 'if (this.sorted[middle]! < block) low = middle + 1;',
    to: 'if (this.sorted[middle]! <= block) low = middle + 1;',
    tests: ['src/core/filesystems/ext/replay/replay.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/replay/orphans.ts',
    from: 'if (!this.hasBlocks(inode) && (inode.flags & INODE_FLAG.inline) === 0)',
    to: 'if (!this.hasBlocks(inode) || (inode.flags & INODE_FLAG.inline) === 0)',
    tests: ['src/core/filesystems/ext/replay/orphans.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/replay/orphans.ts',
    from: 'view.setUint16(fields.sectorsHigh.offset, Math.floor(sectors / HALF), true);',
    to: 'view.setUint16(fields.sectorsHigh.offset, Math.ceil(sectors / HALF), true);',
    tests: ['src/core/filesystems/ext/replay/orphans.proof.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/repack/place.ts',
    from: 'return last && roomy(last, gathered);',
    to: 'return last || roomy(last, gathered);',
    tests: [
      'src/core/filesystems/ext/repack/repack.proof.test.ts',
      'src/core/filesystems/ext/by-the-book.proof.test.ts',
    ],
  },
  {
    file: 'src/ui/column/geometry.ts',
    from: 'const weights = strata.map((one) => (one.kind === growing ? Math.log2(1 + one.sectors) ** 2 : 0));',
    to: 'const weights = strata.map((one) => (one.kind !== growing ? Math.log2(1 + one.sectors) ** 2 : 0));',
    tests: ['src/ui/column/geometry.test.ts'],
  },
  {
    file: 'src/ui/survey/layers.ts',
    from: "if (promise === 'esp' || promise === 'extended boot') return 'boot';",
    to: "if (promise !== 'esp' || promise === 'extended boot') return 'boot';",
    tests: ['src/ui/survey/layers.test.ts'],
  },
  {
    file: 'src/files/holes.ts',
    from: 'return { ...source, isHole: (offset, length) => (behind(offset)?.[0] ?? Infinity) >= offset + length };',
    to: 'return { ...source, isHole: (offset, length) => (behind(offset)?.[0] ?? Infinity) < offset + length };',
    tests: ['src/files/holes.test.ts'],
  },
  {
    file: 'src/files/archives.ts',
    from: "if (kept.size < from) throw new Error('the data of a file with holes ends too early');",
    to: "if (kept.size >= from) throw new Error('the data of a file with holes ends too early');",
    tests: ['src/files/archives.test.ts'],
  },
  {
    file: 'src/core/tables/gpt.ts',
    from: 'const count = Math.min(until - 1, SECTOR_LIMIT - 1);',
    to: 'const count = Math.min(until, SECTOR_LIMIT - 1);',
    tests: ['src/core/tables/gpt.test.ts'],
  },
  {
    file: 'src/core/tables/mbr.ts',
    from: 'return first < SECTOR_LIMIT && count < SECTOR_LIMIT;',
    to: 'return first < SECTOR_LIMIT || count < SECTOR_LIMIT;',
    tests: ['src/core/tables/mbr.test.ts'],
  },
  {
    file: 'src/core/tables/types.ts',
    from: "if (role === 'boot' && content !== 'none') return GPT.extendedBoot;",
    to: "if (role === 'boot' && content === 'none') return GPT.extendedBoot;",
    tests: ['src/core/tables/types.test.ts'],
  },
  {
    file: 'src/core/quantity/size-language.ts',
    from: 'if (numerator === 0n || numerator > 1000n * denominator)',
    to: 'if (numerator !== 0n || numerator > 1000n * denominator)',
    tests: ['src/core/quantity/size-language.test.ts'],
  },
  {
    file: 'src/core/quantity/units.ts',
    from: 'const whole = Math.floor(bytes / each);',
    to: 'const whole = Math.ceil(bytes / each);',
    tests: ['src/core/quantity/units.test.ts'],
  },
  {
    file: 'src/core/filesystems/names.ts',
    from: "return mended === '' ? '_' : mended;",
    to: "return mended !== '' ? '_' : mended;",
    tests: ['src/core/filesystems/names.test.ts'],
  },
  {
    file: 'src/core/filesystems/tree-paths.ts',
    from: "if (entry?.kind === 'link') {",
    to: "if (entry?.kind !== 'link') {",
    tests: ['src/core/filesystems/tree-paths.test.ts'],
  },
  {
    file: 'src/core/filesystems/signatures.ts',
    from: "const code = typeof mark === 'string' ? mark.charCodeAt(i) : mark[i];",
    to: "const code = typeof mark !== 'string' ? mark.charCodeAt(i) : mark[i];",
    tests: ['src/core/filesystems/signatures.test.ts'],
  },
  {
    file: 'src/core/layout/translate.ts',
    from: "if (slot.type === undefined || kind === 'none' || fitsTable(slot.type, kind)) return { patch: {}, remarks: [] };",
    to: "if (slot.type !== undefined || kind === 'none' || fitsTable(slot.type, kind)) return { patch: {}, remarks: [] };",
    tests: ['src/core/layout/translate.test.ts'],
  },
  {
    file: 'src/core/filesystems/room-map.ts',
    from: 'const count = Math.ceil(bytes / this.cell);',
    to: 'const count = Math.floor(bytes / this.cell);',
    tests: ['src/core/filesystems/room-map.test.ts'],
  },
  {
    file: 'src/core/filesystems/volume.ts',
    from: 'if (cluster < 2 || cluster >= clusters + 2)',
    to: 'if (cluster >= 2 || cluster >= clusters + 2)',
    tests: ['src/core/filesystems/volume.test.ts'],
  },
  {
    file: 'src/core/filesystems/ext/geometry.ts',
    from: "if (perInode < KIB || perInode > 64 * MIB) return refuse('inode ratio', KIB);",
    to: "if (perInode < KIB || perInode <= 64 * MIB) return refuse('inode ratio', KIB);",
    tests: ['src/core/filesystems/ext/geometry.test.ts'],
  },
  {
    file: 'src/core/filesystems/swap/format.ts',
    from: 'return Math.min(Math.floor(bytes / pageSize), MOST_PAGES);',
    to: 'return Math.min(Math.ceil(bytes / pageSize), MOST_PAGES);',
    tests: ['src/core/filesystems/swap/format.test.ts'],
  },
  {
    file: 'src/core/filesystems/fat/label.ts',
    from: 'const forbidden = PLAIN.test(upper) ? [] : characters.filter((c) => FORBIDDEN.includes(c) || codeOf(c) === undefined);',
    to: 'const forbidden = PLAIN.test(upper) ? [] : characters.filter((c) => FORBIDDEN.includes(c) || codeOf(c) !== undefined);',
    tests: ['src/core/filesystems/fat/label.test.ts'],
  },
  {
    file: 'src/core/filesystems/fat/geometry.ts',
    from: 'const rootAt = (dataStart: number) => (evenly && (dataStart - least - root) % FATS !== 0 ? root + 1 : root);',
    to: 'const rootAt = (dataStart: number) => (evenly && (dataStart - least - root) % FATS === 0 ? root + 1 : root);',
    tests: ['src/core/filesystems/fat/geometry.test.ts'],
  },
  {
    file: 'src/core/filesystems/fat/study.ts',
    from: 'const large = clusterBytes > 32 * 1024;',
    to: 'const large = clusterBytes <= 32 * 1024;',
    tests: ['src/core/filesystems/fat/study.test.ts'],
  },
  {
    file: 'src/core/layout/medium-spec.ts',
    from: 'const known = (text: string | undefined) => (text === undefined ? 0 : exactBytes(text, logicalSector));',
    to: 'const known = (text: string | undefined) => (text !== undefined ? 0 : exactBytes(text, logicalSector));',
    tests: ['src/core/layout/medium-spec.test.ts'],
  },
  {
    file: 'src/core/layout/pasted.ts',
    from: 'if (i >= after.length - tail) return places[before.length - (after.length - i)];',
    to: 'if (i < after.length - tail) return places[before.length - (after.length - i)];',
    tests: ['src/core/layout/pasted.test.ts'],
  },
];
