/** All cases of findings about layouts. */
import { BOOT_CASES } from './boot';
import { CONTENT_CASES } from './contents';
import { EXT_CASES } from './ext';
import { FAT_CASES } from './fat';
import { KEPT_CASES } from './kept';
import { MACHINE_CASES } from './machine';
import { PLACE_CASES } from './place';
import { SHAPE_CASES } from './shape';
import { STARTING_CASES } from './starting';
import { TABLE_CASES } from './table';

export const CASES = [
  ...TABLE_CASES,
  ...SHAPE_CASES,
  ...BOOT_CASES,
  ...MACHINE_CASES,
  ...FAT_CASES,
  ...PLACE_CASES,
  ...CONTENT_CASES,
  ...EXT_CASES,
  ...STARTING_CASES,
  ...KEPT_CASES,
];
