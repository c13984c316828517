/** Ext volumes of made-up trees, for tests. */
import { bytesOfText } from '@/core/bytes/utf8';
import { featuresOf } from '@/core/filesystems/ext/features';
import { formatExt } from '@/core/filesystems/ext/format';
import { extGeometry, type ExtGeometry, type ExtQuestion } from '@/core/filesystems/ext/geometry';
import { inodesOf } from '@/core/filesystems/ext/nodes';
import { type ExtPlan, planExt } from '@/core/filesystems/ext/plan';
import type { Profile } from '@/core/filesystems/ext/words';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import type { ExtIdentity } from '@/core/filesystems/ext/superblock';
import type { NamedRange } from '@/core/filesystems/kind';
import type { Tree, TreeFile } from '@/core/filesystems/tree';
import { overNoise, type Shelf } from './filled';

export const DATE = '2026-03-14T09:26:53';

/** What is asked of a volume beside its size. */
export interface ExtWish {
  readonly version: ExtContent['version'];
  readonly profile?: Profile;
  readonly bytes: number;
  readonly sectorSize?: 512 | 4096;
  readonly block?: number;
  readonly journal?: number | 'none';
  readonly inodeSize?: 128 | 256;
  readonly perInode?: number;
  readonly reserved?: number;
  readonly growTo?: number | 'none';
  readonly leavesTables?: boolean;
  /** When it is made; `DATE` where nothing is said. */
  readonly date?: string;
}

/** The geometry of a volume of its own, or why there is none. */
export function geometryFor(wish: ExtWish, tree: Tree) {
  const { version, profile, bytes, sectorSize = 512 } = wish;
  const question: ExtQuestion = {
    ...wish,
    bytes,
    sectorSize,
    pageSize: 4096,
    features: featuresOf({ version, ...(profile && { profile }) }),
    isTiny: profile === 'tiny',
    isSystem: false,
    entries: inodesOf(tree),
  };
  return extGeometry(question);
}

const IDENTITY: ExtIdentity = {
  uuid: Uint8Array.from(Buffer.from('0f6c1f0a52cd4b0e9a357a20b2f3c4d5', 'hex')),
  label: bytesOfText('Gauge köln'),
  date: DATE,
  keepsTimes: true,
  rootUser: 0,
  rootGroup: 0,
  checkDays: 0,
  leavesTables: false,
};

export interface MadeExt {
  readonly geometry: ExtGeometry;
  readonly plan: ExtPlan;
  readonly ranges: readonly NamedRange[];
}

/** A volume of its own, or the reason why there is none. */
export function makeExt(wish: ExtWish, tree: Tree): MadeExt | string {
  const geometry = geometryFor(wish, tree);
  if (!geometry.ok) return geometry.error.reason;
  const plan = planExt(geometry.value, tree);
  if (plan.misfit !== undefined) return `no room for ${plan.misfit}`;
  if (plan.nodes.troubles.length > 0) return JSON.stringify(plan.nodes.troubles[0]);
  const identity = { ...IDENTITY, leavesTables: wish.leavesTables === true, ...(wish.date && { date: wish.date }) };
  return { geometry: geometry.value, plan, ranges: formatExt(geometry.value, identity, tree) };
}

/** The bytes of a volume of its own, over noise. Throws where there is none. */
export function extOverNoise(wish: ExtWish, tree: Tree, shelf: Shelf): Uint8Array {
  const made = makeExt(wish, tree);
  if (typeof made === 'string') throw new Error(made);
  return overNoise(
    wish.bytes,
    made.ranges.map(({ extent }) => extent),
    shelf,
  );
}

/** Content of a file with its holes, from what is stored. */
export function wholeContent(file: TreeFile, shelf: Shelf): Buffer {
  const stored = shelf.contents.get(file.within?.archive.sha256 ?? file.sha256)!;
  const base = file.within?.at ?? 0;
  const out = Buffer.alloc(file.size);
  for (const [at, from, length] of file.pieces ?? [[0, 0, file.size]])
    out.set(stored.subarray(base + from, base + from + length), at);
  return out;
}
