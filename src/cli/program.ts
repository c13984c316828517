/** The commands, their options, and the help that teaches them. */
import { Argument, Command, CommanderError, InvalidArgumentError, Option } from 'commander';
import { version as VERSION } from '../../package.json';
import { BOOT_ANSWERS, READER_ANSWERS, SECTORS, USE_ANSWERS } from '@/core/advice/answers';
import { STARTS } from '@/core/advice/starts';
import { LOADER_BRINGERS } from '@/core/layout/vocabulary';
import { BOARD_FAMILIES } from '@/core/medium/boards';
import { MEDIUM_KINDS } from '@/core/medium/medium';
import { COPY_LIMIT } from '@/core/layout/vocabulary';
import type { AcceptArguments } from './accept';
import type { HandOverArguments } from './hand-over';
import type { FillInArguments } from './fill-in';
import type { NewArguments } from './new';
import type { SeriesArguments } from './series';
import type { SurveyArguments } from './survey';
import type { BuildArguments } from './build';
import type { DocumentOptions } from './commands';
import { answerText } from './answering';
import { type Completable, completionFor, type Shell, SHELLS, type Values } from './completion';
import { Ended, ENDINGS, EXIT, type Exit, interrupted } from './exit';
import type { Io, Terminal } from './io';
import { keepCommands, repairCommand, volumeCommands } from './program-images';
import { DOCUMENT, type Doing, JSON_OPTION, withContents } from './program-options';
import { printable } from './text';

/** Every number, and when it ends with it. */
const EXIT_HELP = `
How it ends:
${Object.entries(EXIT)
  .map(([name, number]) => `  ${String(number).padEnd(3)}  ${ENDINGS[name as keyof typeof EXIT]}`)
  .join('\n')}
`;

const START = `
A layout is a small JSON document: medium, table, and slots in their order. Loess computes
every sector of it. Nothing is written but what --into names; "accept" and "fill-in" write into
the document. Files come from folders and archives: named in it, or with --from.

  loess new --start board-card > gauge.json
  loess check gauge.json                 what could go wrong, before it does
  loess accept gauge.json --all --reason "the loader comes later"
  loess place gauge.json                 every first and last sector
  loess build gauge.json --into card.img the real bytes, read back before they get their name
  loess build gauge.json --into card.img --from boot=files
  loess series gauge.json --copies 100 --into cards
  loess hand-over gauge.json             the mount table; --show ids, --check /etc/fstab
  loess survey card.img                  what an image says of itself
  loess survey card.img --sector 0       one sector, field by field
  loess files card.img --partition 2     what lies in a volume; --into fetches a file
  loess examine card.img                 whether its ext volumes are sound
  loess minimum card.img                 how small they can be, to the block
  loess repack card.img --size 2GiB --into root.img
  loess keep card.img > kept.json        a document in which all of it stays
  loess change kept.json --on card.img   before and after; --into new.img makes it
  loess cut card.img --into short.img    without what lies behind its last partition
  loess schema > layout.schema.json      for the editor that you write documents in
  loess back-up data --into copy         a backup of what a server keeps

"-" reads the document from the standard input; --json answers for machines.
`;

function copyNumber(text: string): number {
  const n = Number(text);
  if (!/^\d+$/.test(text) || n > COPY_LIMIT) throw new InvalidArgumentError('It is not the number of a copy.');
  return n;
}

function sectorNumber(text: string): number {
  const n = Number(text.replaceAll(/[,_]/g, ''));
  if (!Number.isSafeInteger(n) || n < 0) throw new InvalidArgumentError('It is not a sector number.');
  return n;
}

/** Parts of what is handed over. */
const PARTS = ['mounts', 'steps', 'boot', 'ids', 'sheet'] as const;
/** What a value is completed with, by its name in the help. */
function valuesOf(name: string, choices: readonly string[] | undefined): Values {
  if (choices) return { choices };
  if (['folder', 'backup'].includes(name)) return 'folders';
  return ['document', 'image', 'file', 'table', 'slot=path'].includes(name) ? 'files' : 'nothing';
}

/** Every command with what it can be completed with. */
function completables(program: Command): Completable[] {
  return program.commands.map((command) => ({
    name: command.name(),
    about: command.summary() || command.description(),
    arguments: command.registeredArguments.map((one) => valuesOf(one.name(), one.argChoices)),
    options: command.options.map((one) => ({
      flag: one.long!,
      about: one.description,
      values: one.required ? valuesOf(/<(.*)>/.exec(one.flags)![1]!, one.argChoices) : undefined,
      repeats: one.long === '--from' || one.long === '--with',
    })),
  }));
}

/** A document from nothing. */
function newCommand(program: Command, io: Io, doing: Doing): void {
  const one = (flags: string, about: string, words: readonly string[]) => new Option(flags, about).choices(words);
  program
    .command('new')
    .summary('make a document: empty, from a start, or from answers')
    .description(
      'Writes a new document: an empty one, or what is proposed for a start and for answers; why it is as it is goes to the error output. Its ids are made by chance, here and nowhere later; its date is now, or what SOURCE_DATE_EPOCH says.',
    )
    .addOption(
      one(
        '--start <job>',
        'answers to begin with',
        STARTS.map(({ key }) => key),
      ),
    )
    .option('--name <name>', 'what the layout is called')
    .addOption(one('--boots <what>', 'what boots it', BOOT_ANSWERS))
    .addOption(one('--use <what>', 'what it is for', USE_ANSWERS))
    .addOption(one('--readers <who>', 'who else must read it', READER_ANSWERS))
    .addOption(one('--medium <kind>', 'what it is', MEDIUM_KINDS))
    .option('--for <image>', 'an image file or a block device: as large as that')
    .option('--sold-as <size>', 'its size as it is sold: any medium of that size, as in “8 GB”')
    .option('--exactly <size>', 'its size to the byte')
    .addOption(one('--sectors <bytes>', 'its sectors', Object.keys(SECTORS)))
    .addOption(one('--table <table>', 'its table; by rule where it is not said', ['mbr', 'gpt']))
    .option('--memory <size>', 'memory of the machine')
    .addOption(one('--board <family>', 'which board starts it', BOARD_FAMILIES))
    .addOption(one('--loader-from <whom>', 'who brings the loader', LOADER_BRINGERS))
    .option('--lines <file>', 'slot lines to add, or - for the standard input')
    .option('--into <file>', 'new file to write it to')
    .action((options: NewArguments) => doing(import('./new').then((one) => one.newDocument(io, options))));
}

/** Work with the database of a server, which the package alone does not have. */
async function withDatabase(work: Promise<Exit>): Promise<Exit> {
  return work.catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ERR_MODULE_NOT_FOUND' && error.code !== 'MODULE_NOT_FOUND') throw error;
    throw new Ended(
      EXIT.file,
      'no-database',
      'This command reads the database of a server, for which the package has no program. Call it in a clone of Loess, or install @libsql/client beside it.',
    );
  });
}

/** What a data folder is kept with; the database comes only with these. */
function folderCommands(program: Command, io: Io, doing: Doing): void {
  const FOLDER = ['<folder>', 'data folder of a server'] as const;
  program
    .command('check-data')
    .summary('say whether all that a server keeps is sound')
    .description(
      'Reads every stored file against its sum, every revision against the schema, and images against their reports. Changes nothing; a server may work meanwhile.',
    )
    .argument(...FOLDER)
    .option(...JSON_OPTION)
    .action((folder: string, options: { json?: boolean }) =>
      doing(withDatabase(import('./folder').then((one) => one.checkData(io, folder, options)))),
    );
  program
    .command('back-up')
    .summary('copy what a server keeps')
    .description(
      'Copies the database as it is at one moment, and the stored contents, each compared with its sum. A server may work meanwhile. An older backup in the same place is brought up to date.',
    )
    .argument(...FOLDER)
    .requiredOption('--into <backup>', 'folder for the backup')
    .option(...JSON_OPTION)
    .action((folder: string, options: { into: string; json?: boolean }) =>
      doing(withDatabase(import('./folder').then((one) => one.backUpData(io, folder, options)))),
    );
  program
    .command('restore')
    .summary('make a data folder of a backup')
    .description(
      'Makes a new data folder of a backup. The folder must be empty or not there: nothing is put over anything.',
    )
    .argument('<backup>', 'folder of the backup')
    .requiredOption('--into <folder>', 'new data folder')
    .option(...JSON_OPTION)
    .action((backup: string, options: { into: string; json?: boolean }) =>
      doing(withDatabase(import('./folder').then((one) => one.restoreData(io, backup, options)))),
    );
  program
    .command('clean')
    .summary('move what no layout names to the trash, or empty that')
    .description(
      'Moves stored files that no revision names to the trash of the data folder; with --trash, deletes what lies there for good. The server must not be running.',
    )
    .argument(...FOLDER)
    .option('--trash', 'empty the trash too')
    .option(...JSON_OPTION)
    .action((folder: string, options: { trash?: boolean; json?: boolean }) =>
      doing(withDatabase(import('./folder').then((one) => one.cleanData(io, folder, options)))),
    );
}

/** What the next person needs: ids, the mount table, and one that exists already. */
function handOverCommand(program: Command, io: Io, doing: Doing): void {
  withContents(program.command('hand-over'))
    .summary('say what goes with a medium: mount table, steps, ids, the sheet')
    .description(
      'Writes the mount table of a machine from the layouts of its media, or the steps by hand, boot entries, all ids, or the sheet of all that in Markdown; or checks a mount table that exists against them, or adds to it what it lacks.',
    )
    .argument(...DOCUMENT)
    .option(
      '--with <document>',
      'another medium of the same machine; may be said again',
      (one: string, before: string[] = []) => [...before, one],
    )
    .addOption(new Option('--show <part>', 'what to write').choices(PARTS).default('mounts'))
    .option('--check <table>', 'check this mount table, line by line; - for the standard input')
    .option('--add-to <table>', 'write this mount table with the lines that it lacks')
    .option(
      '--image <file>',
      'an image that was built of it: its sum stands in the sheet; may be said again',
      (one: string, before: string[] = []) => [...before, one],
    )
    .option('--into <file>', 'new file to write it to')
    .option(...JSON_OPTION)
    .action((document: string, options: HandOverArguments) =>
      doing(import('./hand-over').then((one) => one.handOver(io, document, options))),
    );
}

function programFor(io: Io, end: (exit: Exit) => void): Command {
  const program = new Command('loess');
  const doing = (work: Promise<Exit>) => work.then(end);
  program
    .description('Partition layouts, computed to the sector.')
    .addHelpText('after', START + EXIT_HELP)
    .version(VERSION, '--version', 'say which version this is')
    .helpCommand(false)
    .exitOverride()
    .configureOutput({ writeOut: io.out, writeErr: () => undefined })
    .showSuggestionAfterError();
  newCommand(program, io, doing);
  withContents(program.command('check'))
    .summary('say what every rule finds in a layout')
    .description('Places the layout and says what every rule finds: stops, risks and notes, with their remedies.')
    .argument(...DOCUMENT)
    .option(...JSON_OPTION)
    .action((document: string, options: DocumentOptions) =>
      doing(import('./commands').then((one) => one.checkCommand(io, document, options))),
    );
  withContents(program.command('accept'))
    .summary('take a risk, with a reason, in the document')
    .description(
      'Writes into the document that a risk is accepted, and why. It holds for the figures as they are: when they change, the risk is open again. All else in the document stays as it is written; “-” gives the document to the output.',
    )
    .argument(...DOCUMENT)
    .requiredOption('--reason <text>', 'why it is taken: one line')
    .option('--rule <rule>', 'the rule that speaks, as “check” says it')
    .option('--slot <id>', 'id of the slot that it speaks of')
    .option('--all', 'every risk that is open')
    .option(...JSON_OPTION)
    .action((document: string, options: AcceptArguments) =>
      doing(import('./accept').then((one) => one.accept(io, document, options))),
    );
  withContents(program.command('fill-in'))
    .summary('write into a document what it lacks')
    .description(
      'Writes ids, signature and date that a document lacks, made now, and the sums of what it names by paths. All else stays as it is written; “-” gives the document to the output.',
    )
    .argument(...DOCUMENT)
    .option('--renew', 'write the sums of what has changed since, too')
    .option(...JSON_OPTION)
    .action((document: string, options: FillInArguments) =>
      doing(import('./fill-in').then((one) => one.fillIn(io, document, options))),
    );
  withContents(program.command('place'))
    .summary('compute where everything lands')
    .description('Computes the placement: number, first and last sector, size, type and file system of every slot.')
    .argument(...DOCUMENT)
    .option(...JSON_OPTION)
    .action((document: string, options: DocumentOptions) =>
      doing(import('./commands').then((one) => one.placeCommand(io, document, options))),
    );
  withContents(program.command('build'))
    .summary('make the image file')
    .description(
      'Makes the image: a sparse file, written under a temporary name, read back, and renamed when it is right. The same document gives the same bytes on every run.',
    )
    .argument(...DOCUMENT)
    .requiredOption('--into <image>', 'file to make')
    .option('--copy <number>', 'copy of a series: the same layout with ids of its own', copyNumber)
    .option('--replace', 'put the new image in the place of an older one')
    .option(...JSON_OPTION)
    .action((document: string, options: BuildArguments) =>
      doing(import('./build').then((one) => one.build(io, document, options))),
    );
  withContents(program.command('series'))
    .summary('make many copies, each with ids of its own')
    .description(
      'Makes images of copies of a layout, on all cores: the same layout with ids of its own in each, which follow from those of the document and the number of the copy. All of them are made, or none; nothing is replaced.',
    )
    .argument(...DOCUMENT)
    .requiredOption('--copies <count>', 'how many', copyNumber)
    .requiredOption('--into <folder>', 'folder for the images, which is made where it is not there')
    .option('--first <number>', 'number of the first copy', copyNumber, 1)
    .option('--list <file>', 'new file for the list of ids, as JSON')
    .option(...JSON_OPTION)
    .action((document: string, options: SeriesArguments) =>
      doing(import('./series').then((one) => one.series(io, document, options))),
    );
  program
    .command('survey')
    .summary('say what is in an image file')
    .description(
      'Reads an image by ranges, never writes it, and says what it finds: table, partitions, contents, findings.',
    )
    .argument('<image>', 'image file')
    .addOption(new Option('--sector-size <bytes>', 'how to read it; found out if not said').choices(['512', '4096']))
    .option('--sector <number>', 'show this sector, decoded field by field', sectorNumber)
    .option(...JSON_OPTION)
    .action((image: string, options: { sectorSize?: string; sector?: number; json?: boolean }) => {
      const { sectorSize, ...rest } = options;
      const asked: SurveyArguments = { ...rest, ...(sectorSize && { sectorSize: Number(sectorSize) as 512 | 4096 }) };
      return doing(import('./survey').then((one) => one.survey(io, image, asked)));
    });
  volumeCommands(program, io, doing);
  repairCommand(program, io, doing);
  keepCommands(program, io, doing);
  handOverCommand(program, io, doing);
  program
    .command('lines')
    .summary('write the slots of a layout as lines')
    .description('Writes the slots of a layout as slot lines, one each, as “new --lines” reads them.')
    .argument(...DOCUMENT)
    .action((document: string) => doing(import('./new').then((one) => one.linesCommand(io, document))));
  folderCommands(program, io, doing);
  program
    .command('schema')
    .summary('write the JSON Schema of the document, or of answers')
    .description('Writes the JSON Schema of the layout document, or of what --json answers.')
    .option('--answers', 'that of what --json answers')
    .option('--into <file>', 'new file to write it to')
    .action((options: { into?: string; answers?: boolean }) =>
      doing(import('./schemas').then((one) => one.schema(io, options))),
    );
  program
    .command('completion')
    .summary('write the completion of a shell')
    .description('Writes a script with which a shell completes commands and options.')
    .addArgument(new Argument('<shell>', 'which shell').choices(SHELLS))
    .action((shell: Shell) => {
      io.out(completionFor(shell, completables(program)));
      end(EXIT.done);
    });
  program
    .command('help')
    .summary('say how a command is called')
    .addArgument(
      new Argument('[command]', 'which command; all of them if not said').choices(
        program.commands.map((command) => command.name()),
      ),
    )
    .action((name?: string) => (program.commands.find((command) => command.name() === name) ?? program).help());
  return program;
}

function printEnd(io: Terminal, { message, code, lines, exit }: Ended, isJson: boolean): void {
  if (isJson) io.error(answerText('error', { code, sentence: message, lines, exit }, 0));
  else io.error(printable([message, ...lines.map((line) => `  ${line}`), ''].join('\n')));
}

/** What the reader of the arguments refused, as an end of the program. */
function usage({ code, message }: CommanderError): Ended {
  const sentence = message.replace(/^error: /, '').replace(/^./, (c) => c.toUpperCase());
  return new Ended(EXIT.usage, code.replace('commander.', 'usage-'), sentence, ['loess --help tells more.']);
}

/** Runs a command so that a signal ends it at once, unless it is writing: then it ends by itself, whole or not at all. */
function interruptible(terminal: Terminal, isJson: boolean, work: (io: Io) => Promise<void>): Promise<void> {
  const { signal } = terminal;
  let writing = 0;
  const whole = async <T>(part: () => Promise<T>): Promise<T> => {
    signal.throwIfAborted();
    writing += 1;
    try {
      return await part();
    } finally {
      writing -= 1;
    }
  };
  return new Promise((resolve, reject) => {
    const stop = () => writing === 0 && reject(interrupted(signal));
    if (signal.aborted) stop();
    signal.addEventListener('abort', stop, { once: true });
    const remark = (sentence: string) => void (isJson || terminal.error(printable(`${sentence}\n`)));
    work({ ...terminal, remark, whole }).then(resolve, reject);
  });
}

/** Runs the program with these arguments (without node and script); gives the number to end with. */
export async function run(args: readonly string[], terminal: Terminal): Promise<Exit> {
  let exit: Exit = EXIT.done;
  const isJson = args.includes('--json');
  try {
    await interruptible(terminal, isJson, async (io) => {
      const program = programFor(io, (next) => (exit = next));
      if (args.length === 0) program.help();
      await program.parseAsync([...args], { from: 'user' });
    });
    return exit;
  } catch (error) {
    if (error instanceof CommanderError && error.exitCode === 0) return EXIT.done;
    const ended = error instanceof CommanderError ? usage(error) : error;
    if (!(ended instanceof Ended)) throw error;
    printEnd(terminal, ended, isJson);
    return ended.exit;
  }
}
