/** How each kind of content is written. */
import { EXFAT_WRITER } from './exfat/writer';
import { EXT_WRITER } from './ext/writer';
import { FAT_WRITER } from './fat/writer';
import { FILE_WRITER } from './file/writer';
import { IMAGE_WRITER } from './image/writer';
import type { Writer } from './kind';
import type { Made } from './kinds';
import { LEFT_WRITER } from './left/writer';
import type { Content } from './shapes';
import { SWAP_WRITER } from './swap/writer';
import { ZEROS_WRITER } from './zeros/writer';

const WRITERS = {
  fat: FAT_WRITER,
  exfat: EXFAT_WRITER,
  ext: EXT_WRITER,
  swap: SWAP_WRITER,
  image: IMAGE_WRITER,
  file: FILE_WRITER,
  zeros: ZEROS_WRITER,
  left: LEFT_WRITER,
};

/** How a content is written. */
export function writerOf<C extends Content>(content: C): Writer<C, Made> {
  return WRITERS[content.kind] as unknown as Writer<C, Made>;
}
