/** The rules about what is inside slots and boot code: with a layout that says nothing about it they find nothing. */
import { CONTENT_RULES } from './content';
import { IMAGE_RULES } from './image';
import { CODE_RULES } from './code';
import { ENTRIES_RULES } from './entries';
import { EXFAT_RULES } from './exfat';
import { EXT_RULES } from './ext';
import { FILES_RULES } from './files';
import { type Rule } from './finding';
import { MOUNTS_RULES } from './mounts';
import { WRITTEN_RULES } from './written';

export const INSIDE_RULES: readonly Rule[] = [
  ...FILES_RULES,
  ...CONTENT_RULES,
  ...CODE_RULES,
  ...IMAGE_RULES,
  ...EXFAT_RULES,
  ...EXT_RULES,
  ...ENTRIES_RULES,
  ...MOUNTS_RULES,
  ...WRITTEN_RULES,
];
