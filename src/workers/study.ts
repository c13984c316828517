/** A worker for the study of a FAT slot: long lists of sizes are read and summed up off the main thread. */
import type { FatQuestion } from '../core/filesystems/fat/geometry';
import {
  type Load,
  loadOfSizes,
  readSizes,
  type Study,
  studyFat,
  type TypicalMix,
  typicalSizes,
} from '../core/filesystems/fat/study';

/** What files the study is about. */
export type StudiedFiles =
  | { readonly kind: 'load'; readonly load: Load }
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

function loadOf(files: StudiedFiles): { load: Load; skipped: number } {
  switch (files.kind) {
    case 'load':
      return { load: files.load, skipped: 0 };
    case 'list': {
      const { sizes, skipped } = readSizes(files.text);
      return { load: loadOfSizes(sizes), skipped };
    }
    case 'mix':
      return { load: loadOfSizes(typicalSizes(files.mix, files.usable)), skipped: 0 };
  }
}

/** The whole of a study, from what was asked. */
export function answerStudy({ question, files }: StudyAsked, now: () => number): StudyAnswer {
  const started = now();
  const { load, skipped } = loadOf(files);
  const study = studyFat(question, load);
  let [count, bytes] = [0, 0];
  for (const [size, times] of load.files) {
    count += times;
    bytes += size * times;
  }
  return { study, files: count, bytes, skipped, milliseconds: now() - started };
}
