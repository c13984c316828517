/** Answers to begin with, one for each sort of job; every one of them can be changed before and after. */
import type { Layout, MediumSpec } from '../layout/document';
import { LAYOUT_VERSION } from '../layout/vocabulary';
import { type Answers, type Fresh, SECTORS } from './answers';

/** A start: a name, a sentence, and its answers. */
export interface Start {
  readonly key: string;
  readonly name: string;
  readonly text: string;
  readonly answers: Answers;
}

const BYTES_512 = SECTORS['512'];
const LARGE = SECTORS['512 in 4096'];

const medium = (kind: MediumSpec['kind'], nominal: string, sectors: typeof BYTES_512 | typeof LARGE): MediumSpec => ({
  kind,
  capacity: { nominal },
  ...sectors,
});

/** An image to try things out on. */
const TRIAL: MediumSpec = { kind: 'image', capacity: { exact: '1 GiB' }, ...BYTES_512 };

/** A layout on which nothing is said yet but its medium. */
export function emptyLayout({ signature, date }: Fresh, on: MediumSpec = TRIAL, name = 'Empty layout'): Layout {
  return {
    format: 'loess-layout',
    version: LAYOUT_VERSION,
    name,
    date,
    medium: on,
    boots: [],
    table: { kind: 'mbr', signature },
    slots: [],
  };
}

/** What nobody has said anything about. */
export const NOTHING_SAID: Answers = {
  boots: 'unknown',
  use: 'unknown',
  medium: medium('disk', '500 GB', LARGE),
  hibernates: false,
  readers: 'unknown',
  existing: { kind: 'unknown' },
};

const start = (key: string, name: string, text: string, answers: Partial<Answers>): Start => ({
  key,
  name,
  text,
  answers: { ...NOTHING_SAID, existing: { kind: 'nothing' }, readers: 'linux', ...answers },
});

export const STARTS: readonly Start[] = [
  start('board-card', 'Card for a board', 'any 8 GB card, started by a boot ROM, with a system to update and data', {
    boots: 'board',
    board: 'allwinner',
    use: 'device',
    medium: medium('card', '8 GB', BYTES_512),
  }),
  start('uefi-machine', 'Disk of a UEFI machine', 'a 500 GB solid-state disk for a desktop with 16 GiB of memory', {
    boots: 'uefi',
    use: 'desktop',
    memory: '16 GiB',
    medium: medium('solid-state', '500 GB', LARGE),
  }),
  start('bios-server', 'Disk of a BIOS server', 'a 120 GB disk for a system and what it serves', {
    boots: 'bios',
    use: 'server',
    memory: '8 GiB',
    medium: medium('disk', '120 GB', LARGE),
  }),
  start('archive', 'Archive disk', 'an 8 TB disk, only for data', {
    boots: 'nothing',
    use: 'data',
    medium: medium('disk', '8000 GB', LARGE),
  }),
  start('old-machine', 'Disk of an old machine', 'a 40 GB disk whose BIOS stops at 8.4 GB', {
    boots: 'bios',
    biosLimit: '8.4 GB',
    use: 'desktop',
    memory: '512 MiB',
    medium: medium('disk', '40 GB', BYTES_512),
  }),
  start('stick', 'Stick for every machine', 'any 32 GB stick that UEFI and a BIOS start, and that appliances read', {
    boots: 'both',
    use: 'data',
    readers: 'appliances',
    medium: medium('stick', '32 GB', BYTES_512),
  }),
  start('instrument-card', 'Card of an old instrument', 'any 64 MB card, one FAT without a table', {
    boots: 'nothing',
    use: 'data',
    readers: 'appliances',
    medium: medium('card', '64 MB', BYTES_512),
  }),
  start('second-system', 'Beside another system', '90 GB free on a 512 GB disk whose system stays', {
    boots: 'uefi',
    use: 'desktop',
    memory: '16 GiB',
    readers: 'others',
    medium: medium('solid-state', '512 GB', LARGE),
    existing: { kind: 'stays', from: '420 GB', until: '510 GB' },
  }),
];
