/** Images that are read at the terminal. */
import { type BlockSource, SourceShrank } from '@/core/bytes/blocks';
import { fileSource } from '@/files/file-source';
import { withHoles } from '@/files/holes';
import type { Survey } from '@/core/survey/found';
import { surveyFitting, surveyMedium } from '@/core/survey/survey';
import { Ended, EXIT } from './exit';
import { fileTrouble, openToSurvey } from './io';

/** Works on an image that is opened to be surveyed, and closes it; what is wrong with the file ends the program. */
export async function withImage<T>(image: string, work: (source: BlockSource, size: number) => Promise<T>): Promise<T> {
  const { handle, size } = await openToSurvey(image);
  try {
    return await work(fileSource(handle, size), size);
  } catch (error) {
    if (error instanceof SourceShrank)
      throw new Ended(EXIT.file, 'file-shrank', `“${image}” became shorter while it was read.`);
    throw error instanceof Ended ? error : fileTrouble(image, error);
  } finally {
    await handle.close();
  }
}

/** The same, for who looks at all of an image to change it: what is known to be zeros is not read. */
export function withWholeImage<T>(image: string, work: (source: BlockSource) => Promise<T>): Promise<T> {
  return withImage(image, async (source) => work(await withHoles(source, image)));
}

/** The survey of an image: at the sector size that was asked for, or at the one that fits what is found. */
export function surveyed(source: BlockSource, sectorSize: 512 | 4096 | undefined): Promise<Survey> {
  const at = (size: 512 | 4096) => surveyMedium(source, { sectorSize: size });
  return sectorSize ? at(sectorSize) : surveyFitting(at);
}
