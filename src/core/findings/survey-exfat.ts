/** Findings about exFAT volumes that were found (sections 3.1 and 3.4 of the exFAT specification). */
import { grouped } from '../quantity/units';
import { named } from '../survey/structures';
import { forOtherSectors, overItsPlace, overVolumes, type SurveyRule } from './survey-finding';

const volumes = overVolumes((inside) => (inside.kind === 'exfat' ? inside.exfat : undefined));

const regionBad = volumes(({ regionSound, copySound }, one) =>
  regionSound
    ? undefined
    : {
        rule: 'found/exfat-boot-region-bad',
        severity: 'risk',
        sentence: `The boot region of ${named(one)} does not have its checksum${copySound ? '; its copy, in the twelve sectors behind it, does' : ', nor does its copy'}.`,
        why: 'Systems refuse to mount such a volume, or warn.',
      },
);

const copyBad = volumes(({ regionSound, copySound }, one) =>
  copySound || !regionSound
    ? undefined
    : {
        rule: 'found/exfat-boot-copy-bad',
        severity: 'note',
        sentence: `The copy of the boot region of ${named(one)}, in its sectors 12 to 23, does not have its checksum.`,
        why: 'It would not help where the first one is lost.',
      },
);

const tooLong = volumes(({ shape }, one, { sectorSize }) => {
  const over = shape.volumeSectors * shape.sectorSize - one.sectors * sectorSize;
  return over <= 0 ? undefined : { rule: 'found/exfat-longer-than-its-place', ...overItsPlace(one, over) };
});

const otherSector = volumes(({ shape }, one, { sectorSize }) =>
  shape.sectorSize === sectorSize
    ? undefined
    : { rule: 'found/exfat-for-another-sector-size', ...forOtherSectors(one, shape.sectorSize, sectorSize) },
);

const offsetWrong = volumes(({ partitionOffset }, one) =>
  // Zero means that nobody shall go by it (3.1.4).
  partitionOffset === 0 || partitionOffset === one.start
    ? undefined
    : {
        rule: 'found/exfat-offset-wrong',
        severity: 'note',
        sentence: `The volume in ${named(one)} says that it starts at sector ${grouped(partitionOffset)}; it starts at ${grouped(one.start)}.`,
        why: 'It was copied from another place. Few readers go by that figure.',
      },
);

export const SURVEY_EXFAT_RULES: readonly SurveyRule[] = [regionBad, copyBad, tooLong, otherSector, offsetWrong];
