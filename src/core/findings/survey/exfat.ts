/** Findings about exFAT volumes that were found (sections 3.1 and 3.4 of the exFAT specification). */
import { grouped } from '../../quantity/units';
import { named } from '../../survey/structures';
import { forOtherSectors, overItsPlace, overVolumes, type SurveyRule } from './finding';

const volumes = overVolumes((inside) => (inside.kind === 'exfat' ? inside.exfat : undefined));

const regionBad = volumes('found-exfat/boot-region-bad', 'risk', ({ regionSound, copySound }, one) =>
  regionSound
    ? undefined
    : {
        sentence: `The boot region of ${named(one)} does not have its checksum${copySound ? '; its copy, in the twelve sectors behind it, does' : ', nor does its copy'}.`,
        why: 'Systems refuse to mount such a volume, or warn.',
      },
);

const copyBad = volumes('found-exfat/boot-copy-bad', 'note', ({ regionSound, copySound }, one) =>
  copySound || !regionSound
    ? undefined
    : {
        sentence: `The copy of the boot region of ${named(one)}, in its sectors 12 to 23, does not have its checksum.`,
        why: 'It would not help where the first one is lost.',
      },
);

const tooLong = volumes('found-exfat/longer-than-its-place', 'stop', ({ shape }, one, { sectorSize }) => {
  const over = shape.volumeSectors * shape.sectorSize - one.sectors * sectorSize;
  return over <= 0 ? undefined : { ...overItsPlace(one, over) };
});

const otherSector = volumes('found-exfat/for-another-sector-size', 'risk', ({ shape }, one, { sectorSize }) =>
  shape.sectorSize === sectorSize ? undefined : { ...forOtherSectors(one, shape.sectorSize, sectorSize) },
);

const offsetWrong = volumes('found-exfat/offset-wrong', 'note', ({ partitionOffset }, one) =>
  // Zero means that nobody shall go by it (3.1.4).
  partitionOffset === 0 || partitionOffset === one.start
    ? undefined
    : {
        sentence: `The volume in ${named(one)} says that it starts at sector ${grouped(partitionOffset)}; it starts at ${grouped(one.start)}.`,
        why: 'It was copied from another place. Few readers go by that figure.',
      },
);

export const SURVEY_EXFAT_RULES: readonly SurveyRule[] = [regionBad, copyBad, tooLong, otherSector, offsetWrong];
