/** The rules about what is inside slots and boot code: with a layout that says nothing about it they find nothing. */
import { CONTENT_RULES } from './contents';
import { IMAGE_RULES } from './images';
import { SUPPLIED_CODE_RULES } from './supplied-code';
import { EXFAT_SWAP_RULES } from './exfat-swap';
import { FILLING_RULES } from './filling';
import type { Rule } from './finding';

export const INSIDE_RULES: readonly Rule[] = [
  ...FILLING_RULES,
  ...CONTENT_RULES,
  ...SUPPLIED_CODE_RULES,
  ...IMAGE_RULES,
  ...EXFAT_SWAP_RULES,
];
