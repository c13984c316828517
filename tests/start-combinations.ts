/** Every combination of answers of the Start, on a stated list of media. */
import type { Answers } from '@/core/advice/answers';
import { BOOT_ANSWERS, READER_ANSWERS, USE_ANSWERS } from '@/core/advice/answers';
import type { MediumSpec } from '@/core/layout/document';
import { BOARD_FAMILIES } from '@/core/medium/boards';

const media = (
  kind: MediumSpec['kind'],
  capacity: MediumSpec['capacity'],
  logicalSector: 512 | 4096,
  physicalSector: 512 | 4096,
) => ({
  kind,
  capacity,
  logicalSector,
  physicalSector,
});

/** From a floppy-sized image to what no MBR can describe. */
export const START_MEDIA: readonly MediumSpec[] = [
  media('card', { nominal: '64 MB' }, 512, 512),
  media('card', { nominal: '8 GB' }, 512, 512),
  media('stick', { nominal: '32 GB' }, 512, 512),
  media('disk', { nominal: '120 GB' }, 512, 512),
  media('solid-state', { nominal: '500 GB' }, 512, 4096),
  media('disk', { nominal: '4000 GB' }, 4096, 4096),
  media('disk', { nominal: '8000 GB' }, 512, 4096),
  media('image', { exact: '1440 KiB' }, 512, 512),
];

const MEMORIES = [
  { hibernates: false },
  { memory: '2 GiB', hibernates: false },
  { memory: '16 GiB', hibernates: false },
  { memory: '16 GiB', hibernates: true },
] as const;

/** A range in the middle of a medium; on tiny ones it is tiny too. */
function existing(medium: MediumSpec): Answers['existing'][] {
  const text = 'nominal' in medium.capacity ? medium.capacity.nominal : medium.capacity.exact;
  const [n, unit] = text.split(' ') as [string, string];
  const part = (share: number) => `${Math.floor(Number(n) * 1000 * share)} ${{ GB: 'MB', MB: 'kB', KiB: 'B' }[unit]!}`;
  return [{ kind: 'nothing' }, { kind: 'unknown' }, { kind: 'stays', from: part(0.4), until: part(0.9) }];
}

/** All combinations: what boots it, use, memory, readers, what is there, medium. */
export function startCombinations(): Answers[] {
  return START_MEDIA.flatMap((medium) =>
    BOOT_ANSWERS.flatMap((boots) =>
      USE_ANSWERS.flatMap((use) =>
        MEMORIES.flatMap((memory) =>
          READER_ANSWERS.flatMap((readers) =>
            existing(medium).map((there): Answers => ({ boots, use, ...memory, readers, existing: there, medium })),
          ),
        ),
      ),
    ),
  );
}

/** Every board family on every medium, for a device and for nobody knows what. */
export function boardCombinations(): Answers[] {
  return START_MEDIA.flatMap((medium) =>
    BOARD_FAMILIES.flatMap((board) =>
      (['device', 'unknown', 'data'] as const).flatMap((use) =>
        READER_ANSWERS.flatMap((readers) =>
          existing(medium).map((there): Answers => ({
            boots: 'board',
            board,
            use,
            hibernates: false,
            readers,
            existing: there,
            medium,
          })),
        ),
      ),
    ),
  );
}
