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
];
