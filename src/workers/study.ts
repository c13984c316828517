/** A worker for the study of a FAT slot: long lists of sizes are read and summed up off the main thread. */
import type { FatQuestion } from '../core/filesystems/fat/geometry';
import {
  readSizes,
  type Sizes,
  type Study,
  studyFat,
  type TypicalMix,
  typicalSizes,
} from '../core/filesystems/fat/study';

/** What files the study is about. */
export type StudiedFiles =
  | { readonly kind: 'sizes'; readonly sizes: Sizes }
  | { readonly kind: 'list'; readonly text: string }
  | { readonly kind: 'mix'; readonly mix: TypicalMix; readonly usable: number };

export interface StudyAsked {
  readonly question: FatQuestion;
  readonly files: StudiedFiles;
}

export interface StudyAnswer {
  readonly study: Study;
  readonly files: number;
  readonly bytes: number;
  /** Lines of a list that tell no size. */
  readonly skipped: number;
  readonly milliseconds: number;
}

function sizesOf(files: StudiedFiles): { sizes: Sizes; skipped: number } {
  switch (files.kind) {
    case 'sizes':
      return { sizes: files.sizes, skipped: 0 };
    case 'list':
      return readSizes(files.text);
    case 'mix':
      return { sizes: typicalSizes(files.mix, files.usable), skipped: 0 };
  }
}

/** The whole of a study, from what was asked. */
export function answerStudy({ question, files }: StudyAsked, now: () => number): StudyAnswer {
  const started = now();
  const { sizes, skipped } = sizesOf(files);
  const study = studyFat(question, sizes);
  let [count, bytes] = [0, 0];
  for (const [size, times] of sizes) {
    count += times;
    bytes += size * times;
  }
  return { study, files: count, bytes, skipped, milliseconds: now() - started };
}
