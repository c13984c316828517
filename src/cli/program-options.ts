/** What the commands of several files have in common. */
import type { Command } from 'commander';
import type { Exit } from './exit';

/** Runs a command to its end. */
export type Doing = (work: Promise<Exit>) => Promise<void>;

/** A command that reads a document with what that is filled with. */
export function withContents(command: Command): Command {
  return command
    .option(
      '--from <slot=path>',
      'what fills a slot: a folder, an archive or a file; may be said again',
      (one: string, before: string[] = []) => [...before, one],
    )
    .option('--outside', 'paths in the document may lead out of its folder')
    .option('--leave-out', 'leave out what a file system cannot hold: links, devices')
    .option('--contents <folder>', 'where contents lie that the document names by sums alone (data/contents)');
}

export const JSON_OPTION = ['--json', 'answer as JSON'] as const;
export const DOCUMENT = ['<document>', 'layout document, or - for the standard input'] as const;
