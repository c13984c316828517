/** Findings about the files that shall go into volumes made here. */
import { MIB } from '../../quantity/units';
import { fatGeometry } from '../../filesystems/fat/geometry';
import { clusterSizes } from '../../filesystems/fat/variants';
import { MOST_NAMES } from '../../filesystems/ext/nodes';
import { leastExt } from '../../filesystems/ext/least';
import { clustersFor, type VolumeRoom } from '../../filesystems/allocation';
import { isDeviceName } from '../../filesystems/names';
import { filesOf, treeSums, type TreeEntry, type TreeSpecial, usualMode } from '../../filesystems/tree';
import type { ContentOf } from '../../filesystems/shapes';
import { withFiles } from '../../layout/contents';
import { fatQuestion } from '../../filesystems/fat/kind';
import { madeAs } from '../../filesystems/kinds';
import { siteIn } from '../../placement/site';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { roomOf } from '../../placement/volumes';
import { alignUp } from '../../quantity/integers';
import { counted, exactText, grouped, inBinary, inBoth } from '../../quantity/units';
import { type FileRemedy, leavingOut, renaming } from './file-remedies';
import {
  asExfat,
  atSlot,
  changing,
  enlarged,
  type Occurrence,
  once,
  partitionsOf,
  refitting,
  type Remedy,
  type Rule,
  rule,
} from './finding';

interface Filled {
  readonly one: PlacedPartition;
  readonly room: VolumeRoom;
}

/** Volumes whose files are known. */
const filled = once((placement): readonly Filled[] =>
  partitionsOf(placement).flatMap((one) => {
    const room = roomOf(one, placement);
    return room && room.tree.length > 0 ? [{ one, room }] : [];
  }),
);

type Trouble = VolumeRoom['troubles'][number];

/** One finding for all troubles of a kind in a volume: the first is named, the others counted. */
function troubled<Kind extends Trouble['kind']>(
  placement: Placement,
  kind: Kind,
  describe: (
    first: Extract<Trouble, { kind: Kind }>,
    more: string,
    filled: Filled,
    paths: readonly string[],
  ) => Omit<Occurrence, 'place'>,
): Occurrence[] {
  return filled(placement).flatMap((each): Occurrence[] => {
    const found = each.room.troubles.filter((one): one is Extract<Trouble, { kind: Kind }> => one.kind === kind);
    const [first, ...others] = found;
    if (!first) return [];
    const more = others.length === 0 ? '' : ` ${counted(others.length, 'other name')} likewise.`;
    return [
      {
        place: atSlot(each.one.slot.id),
        ...describe(
          first,
          more,
          each,
          found.map(({ path }) => path),
        ),
      },
    ];
  });
}

/** The way out that always is there: leave the files away. */
function emptied({ slot }: PlacedPartition): Remedy {
  return changing(`Leave ${slot.name} empty`, slot.id, withFiles(slot, undefined));
}

const badName = rule('files/name-cannot-be-stored', 'stop', (placement) =>
  troubled(placement, 'name', ({ path, why }, more, { one, room }, paths) => ({
    sentence: `“${path}” in ${one.slot.name} ${why}; no ${room.kind} volume can hold such a name.${more}`,
    why: 'Readers would not find the file, or refuse its folder.',
    remedies: [],
    fileRemedies: [...renaming(one.slot.id, room.tree, paths), ...leavingOut(one.slot.id, paths)],
  })),
);

const sameName = rule('files/two-names-but-for-case', 'stop', (placement) =>
  troubled(placement, 'same name', ({ path, other }, more, { one, room }, paths) => ({
    sentence: `“${path}” and “${other}” in ${one.slot.name} differ by case at most.${more}`,
    why: 'To its readers they are one name: one of the two files could not be reached.',
    remedies: [],
    fileRemedies: [...renaming(one.slot.id, room.tree, paths), ...leavingOut(one.slot.id, paths)],
  })),
);

/** The first of some paths, and how many there are beside it. */
function firstOf(paths: readonly string[]): string {
  const more = paths.length > 1 ? `, and ${counted(paths.length - 1, 'other name')},` : '';
  return `“${paths[0]!}”${more}`;
}

/** One note for all names of a volume that are told by `tells`. */
function named(
  placement: Placement,
  isFound: (name: string, filled: Filled) => boolean,
  describe: (first: string, count: number, filled: Filled) => Pick<Occurrence, 'sentence' | 'why'>,
): Occurrence[] {
  return filled(placement).flatMap((each): Occurrence[] => {
    const paths = each.room.tree
      .map(({ path }) => path)
      .filter((path) => isFound(path.slice(path.lastIndexOf('/') + 1), each));
    if (paths.length === 0) return [];
    const found = describe(firstOf(paths), paths.length, each);
    return [{ place: atSlot(each.one.slot.id), ...found, remedies: [] }];
  });
}

const deviceName = rule('files/name-of-a-device', 'note', (placement) =>
  named(
    placement,
    (name) => isDeviceName(name),
    (first, count, { one }) => ({
      sentence: `${first} in ${one.slot.name} ${count === 1 ? 'is a name' : 'are names'} that some systems keep for a device.`,
      why: 'The volume holds it; such systems show it, and cannot open, copy or remove it.',
    }),
  ),
);

const pointsAtTheEnd = rule('files/name-ends-with-a-point', 'note', (placement) =>
  named(
    placement,
    (name, { room }) => room.kind === 'exFAT' && name.endsWith('.'),
    (first, count, { one }) => ({
      sentence: `${first} in ${one.slot.name} ${count === 1 ? 'ends' : 'end'} with a point.`,
      why: 'exFAT allows it; Linux hides points at the end of names unless the volume is mounted with “keep_last_dots”.',
    }),
  ),
);

const fileTooLarge = rule('files/file-over-4-gib', 'stop', (placement) =>
  troubled(placement, 'file too large', ({ path, size }, more, { one, room }, paths) => {
    const isFat = one.slot.content?.kind === 'fat';
    const most = isFat
      ? `a FAT file has at most ${grouped(2 ** 32 - 1)}`
      : `the map of a file of ${room.kind} with blocks of ${inBinary(room.clusterBytes)} ends before`;
    return {
      sentence: `“${path}” in ${one.slot.name} has ${counted(size, 'byte')} (${inBoth(size)}); ${most}.${more}`,
      why: isFat ? 'The size of a FAT file is a number of 32 bits.' : 'Blocks behind it could not be found.',
      remedies: isFat ? asExfat(placement, one) : [],
      fileRemedies: leavingOut(one.slot.id, paths),
    };
  }),
);

/** What is said of something that only Linux file systems have. */
const SPECIALS: Readonly<Record<TreeSpecial['kind'], string>> = {
  link: 'a link',
  'second name': 'a second name of another file',
  device: 'a device',
  pipe: 'a pipe',
  socket: 'a socket',
};

const notHeld = rule('files/cannot-be-held', 'stop', (placement) =>
  troubled(placement, 'not held', ({ path, what }, more, { one, room }, paths) => ({
    sentence: `“${path}” in ${one.slot.name} is ${SPECIALS[what]}; ${room.kind} knows files and folders only.${more}`,
    why: 'There is no place for it in the format.',
    remedies: [],
    fileRemedies: leavingOut(one.slot.id, paths),
  })),
);

const badAttribute = rule('files/attribute-cannot-be-stored', 'stop', (placement) =>
  troubled(placement, 'attribute', ({ path, name, why }, more, { one, room }, paths) => ({
    sentence:
      why === 'name'
        ? `The attribute “${name}” of “${path}” in ${one.slot.name} is none that ${room.kind} can store.${more}`
        : `The attribute “${name}” of “${path}” in ${one.slot.name} finds no room: all attributes of a file lie in its inode and in one block.${more}`,
    why: 'It would be lost.',
    remedies: [],
    fileRemedies: leavingOut(one.slot.id, paths),
  })),
);

const tooManyNames = rule('files/too-many-names', 'stop', (placement) =>
  troubled(placement, 'too many names', ({ path, names }, more, { one, room }) => ({
    sentence: `“${path}” in ${one.slot.name} has ${grouped(names)} names; a file of ${room.kind} has at most ${grouped(MOST_NAMES)}.${more}`,
    why: 'The kernel counts no further.',
    remedies: [],
    fileRemedies: leavingOut(
      one.slot.id,
      room.tree
        .flatMap((name) => (name.kind === 'second name' && name.of === path ? [name.path] : []))
        .slice(MOST_NAMES - 1),
    ),
  })),
);

/** Facts that only Linux file systems keep, by what they are called. */
const LINUX_FACTS: readonly (readonly [name: string, has: (entry: TreeEntry) => boolean])[] = [
  ['owners', ({ user, group }) => (user ?? 0) !== 0 || (group ?? 0) !== 0],
  ['modes', (entry) => entry.mode !== undefined && entry.mode !== usualMode(entry)],
  ['attributes', ({ extended }) => extended !== undefined],
  ['holes', (entry) => entry.kind === 'file' && entry.pieces !== undefined],
];

const factsLost = rule('files/facts-not-kept', 'note', (placement) =>
  filled(placement).flatMap(({ one, room }): Occurrence[] => {
    if (one.slot.content?.kind === 'ext') return [];
    const lost = LINUX_FACTS.map(([name, has]) => ({ name, entries: room.tree.filter(has) })).filter(
      ({ entries }) => entries.length > 0,
    );
    if (lost.length === 0) return [];
    const entries = new Set(lost.flatMap((each) => each.entries));
    const [first] = entries;
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `Of ${counted(entries.size, 'name')} in ${one.slot.name}, “${first!.path}” the first, ${room.kind} does not keep the ${lost.map(({ name }) => name).join(', ')}.`,
        why: 'The files are whole. Who owns them and who may do what is decided where the volume is mounted.',
        remedies: [],
      },
    ];
  }),
);

const folderTooLarge = rule('files/folder-too-large', 'stop', (placement) =>
  troubled(placement, 'folder too large', ({ path, entries }, more, { one, room }, paths) => ({
    sentence: `The folder “${path === '' ? '/' : path}” in ${one.slot.name} would have ${grouped(entries)} entries, long names included; a folder of ${room.kind} ends before.${more}`,
    why: 'Readers stop there. Divide the files among several folders.',
    remedies: paths.includes('') ? [emptied(one)] : [],
    fileRemedies: paths.includes('') ? [] : leavingOut(one.slot.id, paths),
  })),
);

const rootFull = rule('files/root-directory-full', 'stop', (placement) =>
  filled(placement)
    .filter(({ room }) => room.rootShort > 0)
    .map(({ one, room }) => {
      const { slot } = one;
      const fat = madeAs(one, 'fat');
      const needed = fat?.ok ? fat.value.rootEntries + room.rootShort : 0;
      const entries = alignUp(needed, placement.sectorSize / 32);
      const content = slot.content as ContentOf<'fat'>;
      return {
        place: atSlot(slot.id),
        sentence: `The root directory of ${slot.name} has ${grouped(needed - room.rootShort)} entries and needs ${grouped(needed)}: a long name takes several, the label one.`,
        why: 'On FAT12 and FAT16 it has a fixed length.',
        remedies: [
          ...(entries <= 65_535
            ? [refitting(`Make it ${grouped(entries)} entries`, { ...slot, content }, { rootEntries: entries })]
            : []),
          emptied(one),
        ],
      };
    }),
);

/** Sectors that a slot needs so that its files have room, with the same clusters. */
function grown(placement: Placement, { one, room }: Filled): Remedy[] {
  if (one.rule?.kind !== 'exact') return [];
  const { content } = one.slot;
  if (content?.kind === 'ext') {
    const least = leastExt(content, siteIn(one, placement), room.tree);
    return least ? enlarged(placement, one, least.bytes) : [];
  }
  const short = (room.used - room.clusters) * room.clusterBytes;
  // The FATs grow with the clusters; 1/64 is more than they ever take.
  const bytes = alignUp(
    one.sectors * placement.sectorSize + short + Math.ceil(short / 64) + MIB,
    placement.grain.bytes,
  );
  const size = exactText(bytes, placement.sectorSize);
  return [changing(`Make ${one.slot.name} ${size}`, one.slot.id, { size })];
}

/** Leaves out the one file that would make room by itself, where there is one: the smallest of those. */
function largestOut({ one, room }: Filled): FileRemedy[] {
  const short = room.used - room.clusters;
  const enough = filesOf(room.tree)
    .filter(({ size }) => clustersFor(size, room.clusterBytes) >= short)
    .sort((a, b) => a.size - b.size);
  return leavingOut(
    one.slot.id,
    enough.slice(0, 1).map(({ path }) => path),
  );
}

const doNotFit = rule('files/files-do-not-fit', 'stop', (placement) =>
  filled(placement)
    .filter(({ room }) => room.used > room.clusters)
    .map((each) => {
      const { one, room } = each;
      const fileRemedies = largestOut(each);
      const unit = one.slot.content?.kind === 'ext' ? 'blocks' : 'clusters';
      const what = room.misfit === undefined ? '' : ` “${room.misfit}” is the first that does not fit.`;
      return {
        place: atSlot(one.slot.id),
        sentence: `The files of ${one.slot.name} take ${grouped(room.used)} ${unit} of ${inBinary(room.clusterBytes)}; there are ${grouped(room.clusters)}: ${inBoth((room.used - room.clusters) * room.clusterBytes)} too few.${what}`,
        why: `A file has whole ${unit}, and a folder too.`,
        remedies: [...grown(placement, each), ...(fileRemedies.length > 0 ? [] : [emptied(one)])],
        fileRemedies,
      };
    }),
);

/** From this part of the volume on, what is lost in last clusters is told. */
const WASTE = 0.1;

/** The cluster size that loses least, of those that are legal and hold the files; undefined where none loses less. */
function thriftiest(placement: Placement, { one, room }: Filled): number | undefined {
  const { content } = one.slot;
  if (content?.kind !== 'fat') return undefined;
  const question = fatQuestion(content, siteIn(one, placement));
  const made = madeAs(one, 'fat');
  const sizes = filesOf(room.tree).map((file) => file.size);
  const taken = (cluster: number) => sizes.reduce((sum, size) => sum + clustersFor(size, cluster) * cluster, 0);
  return clusterSizes(placement.sectorSize).find((cluster) => {
    if (cluster >= room.clusterBytes) return false;
    const found = fatGeometry({ ...question, cluster });
    return (
      found.ok &&
      found.value.variant === (made?.ok && made.value.variant) &&
      taken(cluster) <= found.value.bytesForFiles
    );
  });
}

const wasteful = rule('files/clusters-waste', 'note', (placement) =>
  filled(placement).flatMap((each): Occurrence[] => {
    const { one, room } = each;
    const { bytes } = treeSums(room.tree);
    const taken = bytes + room.slack;
    if (taken === 0 || room.slack <= WASTE * taken || one.slot.content?.kind !== 'fat') return [];
    const better = thriftiest(placement, each);
    if (better === undefined) return [];
    const slot = { ...one.slot, content: one.slot.content };
    return [
      {
        place: atSlot(slot.id),
        sentence: `With clusters of ${inBinary(room.clusterBytes)} the files of ${slot.name} lose ${inBoth(room.slack)} of ${inBoth(taken)} in their last ones (${((100 * room.slack) / taken).toFixed(1)} %).`,
        why: 'Many small files in large clusters cost more than they hold.',
        remedies: [refitting(`Use ${inBinary(better)} clusters`, slot, { cluster: inBinary(better) })],
      },
    ];
  }),
);

const BOOT_PATH = /^EFI\/BOOT\/BOOT(X64|IA32|AA64|ARM|RISCV64)\.EFI$/i;

const noBootPath = rule('files/fallback-path-missing', 'note', (placement) => {
  const { layout, medium } = placement;
  const isRemovable = medium.kind === 'stick' || medium.kind === 'card';
  if (!isRemovable || !layout.boots.includes('uefi')) return [];
  const volumes = filled(placement).filter(({ room }) => room.kind === 'FAT');
  const [first] = volumes;
  if (!first || volumes.some(({ room }) => room.tree.some(({ path }) => BOOT_PATH.test(path)))) return [];
  const files = volumes.reduce((sum, { room }) => sum + treeSums(room.tree).files, 0);
  return [
    {
      place: atSlot(first.one.slot.id),
      sentence: `Among ${counted(files, 'file')} there is no \\EFI\\BOOT\\BOOTX64.EFI, nor one for another processor.`,
      why: 'On removable media firmware starts that file and no other, unless somebody enters one by hand.',
      remedies: [],
    },
  ];
});

export const FILES_RULES: readonly Rule[] = [
  badName,
  sameName,
  fileTooLarge,
  folderTooLarge,
  notHeld,
  badAttribute,
  tooManyNames,
  rootFull,
  doNotFit,
  wasteful,
  factsLost,
  deviceName,
  pointsAtTheEnd,
  noBootPath,
];
