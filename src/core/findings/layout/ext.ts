/** Findings about ext file systems that are made here. */
import { patched } from '../../layout/edits';
import { LEAST_JOURNAL } from '../../filesystems/ext/geometry';
import type { ExtGeometry, ExtRefusal } from '../../filesystems/ext/geometry';
import { featuresOf, profileOf, profilesOf } from '../../filesystems/ext/features';
import { EXT_LABEL_BYTES, storedExtLabel } from '../../filesystems/ext/label';
import { leastExt } from '../../filesystems/ext/least';
import { inodesLeft } from '../../filesystems/ext/nodes';
import type { ExtContent } from '../../filesystems/ext/shape';
import { madeAs } from '../../filesystems/kinds';
import { treeOfSlot } from '../../layout/contents';
import { isPlainFlash } from '../../medium/medium';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { siteIn } from '../../placement/site';
import { counted, GIB, grouped, inBinary, inBoth, MIB } from '../../quantity/units';
import { alignUp } from '../../quantity/integers';
import {
  atSlot,
  changing,
  enlarged,
  type Occurrence,
  once,
  partitionsOf,
  type Remedy,
  type Rule,
  rule,
} from './finding';

interface Ext {
  readonly one: PlacedPartition;
  readonly content: ExtContent;
  readonly geometry: ExtGeometry | undefined;
  readonly refusal: ExtRefusal | undefined;
}

const exts = once((placement): readonly Ext[] =>
  partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    if (content?.kind !== 'ext') return [];
    const made = madeAs(one, 'ext');
    return [
      { one, content, geometry: made?.ok ? made.value : undefined, refusal: made && !made.ok ? made.error : undefined },
    ];
  }),
);

/** Those that can be made, with what is made. */
const made = (placement: Placement) =>
  exts(placement).flatMap(({ one, content, geometry }) => (geometry ? [{ one, content, geometry }] : []));

/** Fields that a person can leave to the rules. */
type Wish = { readonly [Key in keyof ExtContent]?: ExtContent[Key] | undefined };

/** A remedy that changes an ext file system; `undefined` takes a wish back. */
function remade(label: string, { one, content }: Pick<Ext, 'one' | 'content'>, patch: Wish): Remedy {
  return changing(label, one.slot.id, { content: patched<ExtContent>(content, patch) });
}

/** The remedy that takes wishes back, where there are some. */
function byRule(each: Ext, label: string, wishes: Wish): Remedy[] {
  const isSaid = Object.keys(wishes).some((key) => each.content[key as keyof ExtContent] !== undefined);
  return isSaid ? [remade(label, each, wishes)] : [];
}

/** Bytes of the smallest slot for an ext and its files, in whole grains; undefined where there is none. */
function leastSlot(placement: Placement, { one, content }: Pick<Ext, 'one' | 'content'>): number | undefined {
  const tree = treeOfSlot(one.slot, placement.contents) ?? [];
  return leastExt(content, siteIn(one, placement), tree)?.bytes;
}

const cannotBeMade = rule('ext/cannot-be-made', 'stop', (placement) =>
  exts(placement).flatMap((each): Occurrence[] => {
    const { one, content, refusal } = each;
    if (!refusal) return [];
    const { reason, block, least } = refusal;
    const { name } = one.slot;
    const bytes = one.span.end - one.span.start;
    const blocks = `blocks of ${inBinary(block)}`;
    const sentences: Readonly<Record<ExtRefusal['reason'], string>> = {
      'block size': `${name} cannot have ${blocks}.`,
      'block larger than the page': `${name} has ${blocks}; a page of its machine has ${inBinary(least)}, and no kernel mounts a block that is larger.`,
      'block smaller than the sector': `${name} has ${blocks}; a sector has ${inBinary(placement.sectorSize)}, and no block can be smaller.`,
      'too small': `${name} has ${inBoth(bytes)}; ${content.version} with these structures needs more.`,
      'too many blocks': `${name} with ${blocks} has more of them, or more groups, than its structures count.`,
      'journal too small': `The journal of ${name} would have fewer than ${grouped(LEAST_JOURNAL)} blocks of ${inBinary(block)}: ${inBoth(least)} is the least.`,
      'journal too large': `The journal of ${name} would take more than half of it: that needs ${inBoth(least)}.`,
      'too few inodes': `${name} would have fewer inodes than its files and folders need, ${grouped(least)}.`,
      'inode ratio': `${name} has one inode for ${content.perInode}; it can be from 1 KiB to 64 MiB.`,
    };
    const remedies: Readonly<Record<ExtRefusal['reason'], () => Remedy[]>> = {
      'block size': () => byRule(each, 'Let the size decide the block', { block: undefined }),
      'block larger than the page': () => byRule(each, 'Let the size decide the block', { block: undefined }),
      'block smaller than the sector': () => byRule(each, 'Let the size decide the block', { block: undefined }),
      'too small': () => enlarged(placement, one, leastSlot(placement, each) ?? alignUp(least, MIB)),
      'too many blocks': () => byRule(each, 'Let the size decide the block', { block: undefined }),
      'journal too small': () => byRule(each, 'Let the size decide the journal', { journal: undefined }),
      'journal too large': () => byRule(each, 'Let the size decide the journal', { journal: undefined }),
      'too few inodes': () => byRule(each, 'Let the files decide the inodes', { perInode: undefined }),
      'inode ratio': () => byRule(each, 'Let the size decide the inodes', { perInode: undefined }),
    };
    return [
      {
        place: atSlot(one.slot.id),
        sentence: sentences[reason],
        why: 'There is no such file system.',
        remedies: remedies[reason](),
      },
    ];
  }),
);

const wrongProfile = rule('ext/profile-of-another-version', 'stop', (placement) =>
  exts(placement)
    .filter(({ content }) => content.profile !== undefined && !profilesOf(content.version).includes(content.profile))
    .map((each) => ({
      place: atSlot(each.one.slot.id),
      sentence: `${each.one.slot.name} is ${each.content.version} with the profile “${each.content.profile}”.`,
      why: '“current” is one of ext4, “tiny” one of ext2.',
      remedies: byRule(each, 'Let the version decide', { profile: undefined }),
    })),
);

const cutLabel = rule('ext/label-is-cut', 'risk', (placement) =>
  exts(placement).flatMap((each): Occurrence[] => {
    const { one, content } = each;
    const { text, cut } = storedExtLabel(content.label ?? '');
    if (cut === '') return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `The label “${content.label}” of ${one.slot.name} is stored as “${text}”: it has ${EXT_LABEL_BYTES} bytes at most, and “${cut}” is cut off.`,
        why: 'Whoever looks for the whole label does not find it.',
        remedies: [remade(`Call it “${text}”`, each, { label: text })],
      },
    ];
  }),
);

/** From this many bytes on, what is reserved of data is told. */
const MUCH_RESERVED = GIB;

const reservedOnData = rule('ext/reserved-on-data', 'note', (placement) =>
  made(placement).flatMap(({ one, content, geometry }): Occurrence[] => {
    const bytes = geometry.reservedBlocks * geometry.block;
    if (one.slot.role === 'system' || bytes < MUCH_RESERVED) return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `Of ${one.slot.name}, ${inBoth(bytes)} are reserved for the administrator.`,
        why: 'That helps a system that is full; of data it is room that nobody uses.',
        remedies: [remade('Reserve nothing', { one, content }, { reserved: 0 })],
      },
    ];
  }),
);

/** Part of the inodes that should be free, and the mean size of files that a volume should be able to hold. */
const SPARE_INODES = 0.1;
const SMALL_FILES = 64 * 1024;

const fewInodes = rule('ext/few-inodes', 'risk', (placement) =>
  made(placement).flatMap(({ one, content, geometry }): Occurrence[] => {
    if (content.perInode === undefined) return [];
    const inodes = geometry.groups * geometry.inodesPerGroup;
    const left = inodesLeft(geometry, treeOfSlot(one.slot, placement.contents) ?? []);
    const perFile = (geometry.clusters * geometry.block) / Math.max(1, inodes);
    const isShort = left < SPARE_INODES * inodes;
    if (!isShort && perFile <= SMALL_FILES) return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: isShort
          ? `${one.slot.name} has ${grouped(inodes)} inodes, and its files leave ${counted(Math.max(0, left), 'one')} free.`
          : `${one.slot.name} has ${grouped(inodes)} inodes, one for ${inBinary(Math.round(perFile))}: small files use them up long before the room.`,
        why: 'It is full when its inodes are, and their number never changes.',
        remedies: [remade('Let the size decide', { one, content }, { perInode: undefined })],
      },
    ];
  }),
);

const shortInodes = rule('ext/inodes-of-128-bytes', 'risk', (placement) =>
  exts(placement)
    .filter(({ content }) => content.inodeSize === 128)
    .map((each) => ({
      place: atSlot(each.one.slot.id),
      sentence: `The inodes of ${each.one.slot.name} have 128 bytes: their times end on 19 January 2038.`,
      why: 'There is no room for the rest of a time, nor for parts of a second or for attributes.',
      remedies: [remade('Make them 256 bytes', each, { inodeSize: undefined })],
    })),
);

/** A volume of flash below this is small, and its journal much of it. */
const FEW_MIB = 64 * MIB;
const MUCH_JOURNAL = 16;

const journalOnFlash = rule('ext/journal-on-small-flash', 'note', (placement) => {
  const { kind } = placement.layout.medium;
  if (!isPlainFlash(kind) && kind !== 'stick') return [];
  return made(placement).flatMap(({ one, content, geometry }): Occurrence[] => {
    const bytes = one.span.end - one.span.start;
    const journal = geometry.journalBlocks * geometry.block;
    if (journal === 0 || bytes > FEW_MIB || journal * MUCH_JOURNAL < bytes) return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} has ${inBoth(bytes)}, of which the journal takes ${inBoth(journal)}, and writes everything that changes twice there.`,
        why: 'On so little flash it costs room and wears the same blocks; what is never written, or can be made again, needs none.',
        remedies: [remade('Leave the journal out', { one, content }, { journal: 'none' })],
      },
    ];
  });
});

const noJournal = rule('ext/ext3-without-a-journal', 'risk', (placement) =>
  made(placement)
    .filter(({ content, geometry }) => content.version === 'ext3' && geometry.journalBlocks === 0)
    .map(({ one, content }) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} is ext3 and has no journal${content.journal === undefined ? `: ${inBoth(one.span.end - one.span.start)} are too little for one by rule` : ''}.`,
      why: 'An ext3 without a journal is an ext2: systems take it for one, and a mount table that says ext3 fails.',
      remedies: [
        remade('Make it ext2', { one, content }, { version: 'ext2', journal: undefined }),
        ...(content.journal === 'none' ? [remade('Give it a journal', { one, content }, { journal: undefined })] : []),
      ],
    })),
);

/** Features that loaders of ten years ago refuse. */
const NEW_FEATURES = ['64bit', 'metadata_csum'] as const;

const loaderRefuses = rule('ext/loader-may-refuse', 'risk', (placement) => {
  const { boots } = placement.layout;
  if (!boots.includes('board') && !boots.includes('bios')) return [];
  return made(placement)
    .filter(({ one: { slot } }) => slot.role === 'boot' || slot.mount === '/boot')
    .flatMap(({ one, content, geometry }): Occurrence[] => {
      const found = NEW_FEATURES.filter((feature) => geometry.features.has(feature));
      if (found.length === 0) return [];
      return [
        {
          place: atSlot(one.slot.id),
          sentence: `A loader reads ${one.slot.name}, which has the features ${found.join(' and ')}.`,
          why: 'Loaders and kernels of ten years ago refuse what they do not know. Keep it where the loader is known to be newer.',
          remedies: [remade('Make it readable by old loaders', { one, content }, { profile: 'old loaders' })],
        },
      ];
    });
});

const cannotGrow = rule('ext/cannot-grow', 'risk', (placement) =>
  made(placement)
    .filter(({ one, geometry }) => one.slot.attributes?.includes('grow') && geometry.growsTo < 2 * geometry.blocks)
    .map(({ one, content, geometry }) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} is marked to grow, and its ${content.version} can grow to ${inBoth(geometry.growsTo * geometry.block)} only, from ${inBoth(geometry.blocks * geometry.block)}.`,
      why: 'The partition would grow at the first start, and the file system in it would not.',
      remedies:
        profileOf(content) === 'tiny'
          ? [remade('Make it ext4', { one, content }, { version: 'ext4', profile: undefined })]
          : [remade('Let it grow', { one, content }, { growTo: undefined })],
    })),
);

const tablesWithoutSums = rule('ext/tables-need-checksums', 'stop', (placement) =>
  exts(placement)
    .filter(({ content }) => {
      const features = featuresOf(content);
      return content.tables !== undefined && !features.has('metadata_csum') && !features.has('gdt_csum');
    })
    .map((each) => ({
      place: atSlot(each.one.slot.id),
      sentence: `The inode tables of ${each.one.slot.name} shall be left to the kernel, and ${each.content.version} has no mark for that.`,
      why: 'The kernel would take what lies there for inodes.',
      remedies: byRule(each, 'Write zeros there', { tables: undefined }),
    })),
);

/** The name of a slot without the letter by which one of a pair is told. */
const PAIR = /^(.*\S)[ _-]?([AB])$/i;

const unequalPair = rule('ext/pair-differs', 'risk', (placement) => {
  const firsts = new Map<string, Ext>();
  return exts(placement).flatMap((each): Occurrence[] => {
    const pair = PAIR.exec(each.one.slot.name);
    if (!pair) return [];
    const [, name, letter] = pair as unknown as [string, string, string];
    const key = name.toLowerCase();
    if (letter.toUpperCase() === 'A') firsts.set(key, each);
    const first = firsts.get(key);
    if (!first || first === each) return [];
    const facts = ({ one, content, geometry }: Ext): readonly (readonly [string, string])[] => [
      ['size', inBoth(one.sectors * placement.sectorSize)],
      ['version', content.version],
      ['profile', profileOf(content)],
      ['block', geometry ? inBinary(geometry.block) : 'none'],
    ];
    const own = facts(each);
    const differing = facts(first).filter(([, text], i) => own[i]![1] !== text);
    if (differing.length === 0) return [];
    const told = differing.map(([what, text]) => {
      const other = own.find(([one]) => one === what)![1];
      return `${what} ${text} and ${other}`;
    });
    const { version, profile, block } = first.content;
    const isSize = differing.some(([what]) => what === 'size');
    return [
      {
        place: atSlot(each.one.slot.id),
        sentence: `${first.one.slot.name} and ${each.one.slot.name} differ: ${told.join('; ')}.`,
        why: 'An image that is made for the one is written to the other in turn; then they should be alike.',
        remedies: [
          ...(isSize
            ? [
                changing(`Make it as large as ${first.one.slot.name}`, each.one.slot.id, {
                  size: `same as ${first.one.slot.name}`,
                }),
              ]
            : []),
          ...(differing.some(([what]) => what !== 'size')
            ? [remade(`Make it as ${first.one.slot.name} is`, each, { version, profile, block })]
            : []),
        ],
      },
    ];
  });
});

export const EXT_RULES: readonly Rule[] = [
  cannotBeMade,
  wrongProfile,
  cutLabel,
  tablesWithoutSums,
  reservedOnData,
  fewInodes,
  shortInodes,
  noJournal,
  journalOnFlash,
  loaderRefuses,
  cannotGrow,
  unequalPair,
];
