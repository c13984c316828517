/** The commands on images that exist: mending, keeping, changing, cutting and clearing them. */
import { type Command, InvalidArgumentError, Option } from 'commander';
import type { ClearArguments, CutArguments } from './cut';
import type { FilesArguments } from './files';
import type { Io } from './io';
import type { ChangeArguments, KeepArguments } from './keep';
import { DOCUMENT, type Doing, JSON_OPTION, withContents } from './program-options';
import type { RepackArguments } from './repack';
import type { RepairArguments } from './repair';

const INTO_OPTION = ['--into <file>', 'new image to write'] as const;
const sectorSizeOption = () =>
  new Option('--sector-size <bytes>', 'how to read it; found out if not said')
    .choices(['512', '4096'])
    .argParser((text) => {
      if (text !== '512' && text !== '4096') throw new InvalidArgumentError('Allowed choices are 512, 4096.');
      return Number(text) as 512 | 4096;
    });

/** What mends the table of an image that exists. */
export function repairCommand(program: Command, io: Io, doing: Doing): void {
  program
    .command('repair')
    .summary('show what would mend an image, and make a mended one')
    .description(
      'Reads an image, never writes it, and shows what would mend its table and FAT volumes: every range with the fields that change, and what is found afterwards. With --into a new image is made, the old one with those ranges, compared byte by byte.',
    )
    .argument('<image>', 'image file')
    .option('--only <repair>', 'this repair alone; may be said again', (one: string, before: string[] = []) => [
      ...before,
      one,
    ])
    .addOption(sectorSizeOption())
    .option(...INTO_OPTION)
    .option('--replace', 'a file of that name gives way')
    .option(...JSON_OPTION)
    .action((image: string, options: RepairArguments) =>
      doing(import('./repair').then((one) => one.repair(io, image, options))),
    );
}

/** What looks into the volumes of an image. */
export function volumeCommands(program: Command, io: Io, doing: Doing): void {
  const partition = ['--partition <key>', 'which partition, as a survey numbers it; the only one if not said'] as const;
  program
    .command('files')
    .summary('list the files of a volume in an image, and fetch them')
    .description(
      'Reads an image, never writes it, and lists a folder of a volume in it: FAT, exFAT, and ext2 to ext4 as a kernel would show them after it has replayed their journal. With --into one file is fetched.',
    )
    .argument('<image>', 'image file')
    .argument('[path]', 'folder or file in the volume; its root if not said')
    .option(...partition)
    .addOption(sectorSizeOption())
    .option('--into <file>', 'new file for what is fetched')
    .option(...JSON_OPTION)
    .action((image: string, path: string | undefined, options: FilesArguments) =>
      doing(import('./files').then((one) => one.files(io, image, path, options))),
    );
  program
    .command('examine')
    .summary('check all of the ext volumes in an image')
    .description(
      'Reads an image, never writes it, and checks its ext2 to ext4 volumes as a whole, after their journal was replayed in memory: every inode, map and folder against the bitmaps. Each fault is told with the files that it touches.',
    )
    .argument('<image>', 'image file')
    .option(...partition)
    .addOption(sectorSizeOption())
    .option(...JSON_OPTION)
    .action((image: string, options: FilesArguments) =>
      doing(import('./files').then((one) => one.examine(io, image, options))),
    );
  program
    .command('minimum')
    .summary('say how small the ext volumes in an image can be')
    .description(
      'Reads an image, never writes it, and says the fewest bytes in which each of its ext2 to ext4 volumes has room, computed to the block: with inodes numbered anew, and with the numbers that they have.',
    )
    .argument('<image>', 'image file')
    .option(...partition)
    .addOption(sectorSizeOption())
    .option(...JSON_OPTION)
    .action((image: string, options: FilesArguments) =>
      doing(import('./repack').then((one) => one.minimum(io, image, options))),
    );
  program
    .command('repack')
    .summary('show an ext volume in another length, and make it in a new file')
    .description(
      'Reads an image, never writes it, checks an ext2 to ext4 volume in it as a whole, and lays all of it anew, smaller or larger. With --into it is written to a new file of its own, compared byte by byte.',
    )
    .argument('<image>', 'image file')
    .option(...partition)
    .option('--size <size>', 'how long it shall be, such as 512 MiB; the fewest bytes if not said')
    .option('--keep-numbers', 'inodes keep their numbers; they are numbered anew if not said')
    .option('--without-faulty', 'files that the check names do not go along; faults stop it if not said')
    .addOption(sectorSizeOption())
    .option('--into <file>', 'new file for the volume')
    .option('--replace', 'a file of that name gives way')
    .option(...JSON_OPTION)
    .action((image: string, options: RepackArguments) =>
      doing(import('./repack').then((one) => one.repack(io, image, options))),
    );
}

/** What keeps, and changes around it, what an image holds. */
export function keepCommands(program: Command, io: Io, doing: Doing): void {
  program
    .command('keep')
    .summary('make a document that keeps all that an image holds')
    .description(
      'Reads an image, never writes it, and makes a document in which every partition stays where and as it is. Slots that are added to it are new; what is taken out goes; --table converts.',
    )
    .argument('<image>', 'image file')
    .option('--name <name>', 'what the layout is called')
    .addOption(
      new Option('--table <table>', 'another kind of table, with every byte of content where it is').choices([
        'mbr',
        'gpt',
      ]),
    )
    .addOption(sectorSizeOption())
    .option('--into <file>', 'new file to write it to')
    .action((image: string, options: KeepArguments) =>
      doing(import('./keep').then((one) => one.keep(io, image, options))),
    );
  program
    .command('cut')
    .summary('show an image cut behind its last partition, and make it')
    .description(
      'Reads an image, never writes it, and shows what of it would go and what would be written: with a GPT its copy goes to the new end. With --into the shorter image is made, compared byte by byte.',
    )
    .argument('<image>', 'image file')
    .addOption(
      new Option('--to <end>', 'its end: directly behind the last sector, or whole MiB')
        .choices(['sector', 'MiB'])
        .default('MiB'),
    )
    .addOption(sectorSizeOption())
    .option(...INTO_OPTION)
    .option('--replace', 'a file of that name gives way')
    .option(...JSON_OPTION)
    .action((image: string, options: CutArguments) =>
      doing(import('./cut').then((one) => one.cut(io, image, options))),
    );
  program
    .command('clear')
    .summary('show an image without anything that is recognised, and make it')
    .description(
      'Reads an image, never writes it, and shows what would be zeroed: its table, both copies of a GPT, and every mark of a file system, in every partition and at former places. With --into the cleared image is made, compared byte by byte.',
    )
    .argument('<image>', 'image file')
    .addOption(sectorSizeOption())
    .option(...INTO_OPTION)
    .option('--replace', 'a file of that name gives way')
    .option(...JSON_OPTION)
    .action((image: string, options: ClearArguments) =>
      doing(import('./cut').then((one) => one.clear(io, image, options))),
    );
  withContents(program.command('change'))
    .summary('show an image before and after a layout, and make a new one')
    .description(
      'Shows what becomes of every partition of an image by a document that keeps some of it, what is lost, and every range that is written. With --into a new image is made: the old one with those ranges, compared byte by byte.',
    )
    .argument(...DOCUMENT)
    .requiredOption('--on <image>', 'the image that the document was made from')
    .option(...INTO_OPTION)
    .option('--replace', 'a file of that name gives way')
    .option(...JSON_OPTION)
    .action((document: string, options: ChangeArguments) =>
      doing(import('./keep').then((one) => one.change(io, document, options))),
    );
}
