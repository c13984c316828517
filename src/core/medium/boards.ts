/**
 * Boards: what a boot ROM reads before any partition matters. Every family is data with the
 * note where it comes from; offsets are those of the user area of a card or of on-board flash.
 * "To be checked against the board's manual" holds for all of them: boards differ.
 */
import { KIB, MIB } from '../quantity/units';

/** What the ROM asks of the first partition. */
export const FIRST_RULES = ['any', 'fat first', 'fat active'] as const;
export type FirstRule = (typeof FIRST_RULES)[number];

/** How a first rule is said. */
export const FIRST_TEXTS: Readonly<Record<FirstRule, string>> = {
  any: 'partitions do not matter to it',
  'fat first': 'reads files from the first partition, which must be FAT16 or FAT32',
  'fat active': 'reads files from the active primary partition, which must be FAT',
};

/** Bytes that the ROM loads from. With `instead`, one of several such ranges is enough. */
export interface BoardRange {
  readonly name: string;
  readonly at: number;
  readonly length: number;
  readonly instead?: boolean;
}

/** A partition that the ROM finds in a GPT, by type or by the start of its name. */
export interface BoardPartition {
  readonly purpose: string;
  readonly type?: string;
  readonly namePrefix?: string;
  readonly copies: number;
}

/** What is known of a board. */
export interface BoardProfile {
  readonly name: string;
  readonly source: string;
  readonly ranges: readonly BoardRange[];
  readonly tables: readonly ('mbr' | 'gpt' | 'none')[];
  readonly first: FirstRule;
  readonly partitions: readonly BoardPartition[];
  /** Where partitions begin by custom, in bytes; 0 where there is none. */
  readonly customaryFirst: number;
}

const NOTE = 'to be checked against the manual of the board';

interface Facts extends Partial<Omit<BoardProfile, 'name'>> {
  readonly source: string;
}

function profile(name: string, facts: Facts): BoardProfile {
  return {
    name,
    ranges: [],
    tables: ['mbr', 'gpt'],
    first: 'any',
    partitions: [],
    customaryFirst: 0,
    ...facts,
    source: `${facts.source}; ${NOTE}`,
  };
}

const stage = (name: string, at: number, length: number, instead = false): BoardRange => ({
  name,
  at,
  length,
  ...(instead && { instead }),
});

const FAMILIES = {
  allwinner: profile('Allwinner', {
    source: 'boot ROM of the family: loads at 8 KiB, newer ones also at 128 KiB',
    ranges: [
      stage('First-stage loader', 8 * KIB, 1016 * KIB, true),
      stage('First-stage loader', 128 * KIB, 896 * KIB, true),
    ],
  }),
  rockchip: profile('Rockchip', {
    source: 'boot ROM of the family: loads at sector 64, second stage at 8 MiB by convention',
    ranges: [stage('First-stage loader', 32 * KIB, 8160 * KIB), stage('Second-stage loader', 8 * MIB, 8 * MIB)],
    customaryFirst: 16 * MIB,
  }),
  imx6: profile('i.MX6 and i.MX7', {
    source: 'boot ROM of the family: image vector at 1 KiB; environment often at 768 KiB',
    ranges: [stage('Loader', 1 * KIB, 767 * KIB), stage('Environment of the loader', 768 * KIB, 8 * KIB)],
  }),
  imx8m: profile('i.MX8M and 8MM', {
    source: 'boot ROM of the family: loads at sector 66',
    ranges: [stage('Loader', 33 * KIB, 4063 * KIB)],
  }),
  imx8mp: profile('i.MX8MN and 8MP', {
    source: 'boot ROM of the family: loads at sector 64',
    ranges: [stage('Loader', 32 * KIB, 4064 * KIB)],
  }),
  amlogic: profile('Amlogic', {
    source: 'boot ROM of the family: loads from sector 1, with the start of the image in the code area of sector 0',
    ranges: [stage('Loader, start', 0, 440), stage('Loader', 512, 1024 * KIB - 512)],
    tables: ['mbr'],
  }),
  am335x: profile('AM335x', {
    source: 'boot ROM of the family: loader file in the active primary FAT partition, or raw at 128, 256 or 384 KiB',
    tables: ['mbr'],
    first: 'fat active',
  }),
  stm32mp1: profile('STM32MP1', {
    source: 'boot ROM of the family: GPT partitions whose names begin with fsbl, two copies',
    tables: ['gpt'],
    partitions: [{ purpose: 'First-stage loader', namePrefix: 'fsbl', copies: 2 }],
  }),
  fu740: profile('FU740', {
    source: 'boot ROM of the family: GPT partitions by type',
    tables: ['gpt'],
    partitions: [
      { purpose: 'First-stage loader', type: '5b193300-fc78-40cd-8002-e86c45580b47', copies: 1 },
      { purpose: 'Second-stage loader', type: '2e54b353-1271-4842-806f-e436d6af6985', copies: 1 },
    ],
  }),
  jh7110: profile('JH7110', {
    source: 'boot ROM of the family: a GPT partition by type, the second stage in the next one',
    tables: ['gpt'],
    partitions: [{ purpose: 'First-stage loader', type: '2e54b353-1271-4842-806f-e436d6af6985', copies: 1 }],
  }),
  'raspberry-pi': profile('Raspberry Pi', {
    source: 'boot ROM of the family: files on the first FAT partition; newer ROMs also read a GPT',
    first: 'fat first',
  }),
  zynq: profile('Zynq', {
    source: 'boot ROM of the family: a boot file on the first partition, FAT16 or FAT32',
    tables: ['mbr'],
    first: 'fat first',
  }),
} as const satisfies Readonly<Record<string, BoardProfile>>;

export type BoardFamily = keyof typeof FAMILIES;
export const BOARD_FAMILIES = Object.keys(FAMILIES) as [BoardFamily, ...BoardFamily[]];

/** The profile of a family. */
export function boardProfile(family: BoardFamily): BoardProfile {
  return FAMILIES[family];
}
