/** What can be in a partition, as the document says it: the shapes of all kinds. */
import * as z from 'zod';
import { exfatShape } from './exfat/shape';
import { extShape } from './ext/shape';
import { fatShape } from './fat/shape';
import { fileShape } from './file/shape';
import { imageShape } from './image/shape';
import { leftShape } from './left/shape';
import { swapShape } from './swap/shape';
import { zerosShape } from './zeros/shape';

export const contentShape = z.discriminatedUnion('kind', [
  fatShape,
  exfatShape,
  extShape,
  swapShape,
  imageShape,
  fileShape,
  zerosShape,
  leftShape,
]);

export type Content = z.infer<typeof contentShape>;
export type ContentKind = Content['kind'];
export type ContentOf<K extends ContentKind> = Extract<Content, { kind: K }>;
