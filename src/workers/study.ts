/** A worker for the study of a slot: long lists of sizes are read and summed up off the main thread. */
import type { ExtContent } from '../core/filesystems/ext/shape';
import { type ExtStudy, studyExt, treeOfSizes } from '../core/filesystems/ext/study';
import type { Site } from '../core/filesystems/kind';
import { type Tree, treeSums } from '../core/filesystems/tree';
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

/** Files of an ext slot: its own, or sizes. */
export type ExtFiles = { readonly kind: 'tree'; readonly tree: Tree } | Exclude<StudiedFiles, { kind: 'load' }>;

export interface ExtStudyAsked {
  readonly content: ExtContent;
  readonly site: Site;
  readonly extFiles: ExtFiles;
}

export interface ExtStudyAnswer {
  readonly study: ExtStudy;
  readonly files: number;
  readonly bytes: number;
  readonly skipped: number;
  readonly milliseconds: number;
}

function treeOf(files: ExtFiles): { tree: Tree; skipped: number } {
  switch (files.kind) {
    case 'tree':
      return { tree: files.tree, skipped: 0 };
    case 'list': {
      const { sizes, skipped } = readSizes(files.text);
      return { tree: treeOfSizes(sizes), skipped };
    }
    case 'mix':
      return { tree: treeOfSizes(typicalSizes(files.mix, files.usable)), skipped: 0 };
  }
}

/** The whole of a study of an ext slot, from what was asked. */
export function answerExtStudy({ content, site, extFiles }: ExtStudyAsked, now: () => number): ExtStudyAnswer {
  const started = now();
  const { tree, skipped } = treeOf(extFiles);
  const study = studyExt(content, site, tree);
  const { files, bytes } = treeSums(tree);
  return { study, files, bytes, skipped, milliseconds: now() - started };
}
