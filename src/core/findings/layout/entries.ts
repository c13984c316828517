/** Findings about boot entries in the files of slots, against the ids of the layout and the files beside them. */
import { atPath } from '../../filesystems/tree-paths';
import type { NamedBy } from '../../layout/vocabulary';
import { type BootText, readBootText, type Said, type SaidEntry } from '../../naming/boot-text';
import { isSwap } from '../../naming/mount-table';
import { type Named, namedIn, Names } from '../../naming/named';
import { type Nameable, nameablesOf } from '../../naming/nameable';
import type { Placement } from '../../placement/placement';
import { counted } from '../../quantity/units';
import { atSlot, type Occurrence, once, rule, type Rule } from './finding';
import { insteadOf, type StartFile, startFiles, whereIn } from './start-files';

interface BootFileRead extends StartFile, BootText {}

const bootTexts = once((placement): readonly BootFileRead[] =>
  startFiles(placement).flatMap((file) =>
    file.text === undefined || file.form === 'mount table' ? [] : [{ ...file, ...readBootText(file.text, file.form) }],
  ),
);

/** A place in a file, and what is said there; those of one file become one finding. */
interface Spot {
  readonly said: Pick<Said, 'line' | 'column'>;
  /** Asked of the first of a file alone: there may be thousands. */
  readonly sentence: () => string;
  readonly why: string;
}

/** One finding for each file with spots: the first is told, the others counted. */
function spotted(placement: Placement, spotsOf: (file: BootFileRead) => readonly Spot[]): Occurrence[] {
  return bootTexts(placement).flatMap((file): Occurrence[] => {
    const [first, ...others] = spotsOf(file);
    if (!first) return [];
    const more = others.length > 0 ? ` ${counted(others.length, 'other place')} of the file likewise.` : '';
    return [
      {
        place: atSlot(file.one.slot.id),
        sentence: `${whereIn(file, first.said.line, first.said.column)}: ${first.sentence()}${more}`,
        why: first.why,
        ...insteadOf(file, placement),
      },
    ];
  });
}

/** A word of a command line that names a partition. */
interface NamingWord {
  readonly said: Said;
  readonly key: 'root' | 'resume';
  readonly named: Named & { readonly by: NamedBy };
  /** Partitions of the layout that have the name. */
  readonly found: readonly Nameable[];
  readonly entry: SaidEntry;
}

const partitionNames = once((placement) => {
  const nameables = nameablesOf([{ name: placement.layout.name, placement }]);
  return { nameables, names: new Names(nameables) };
});

/** The words of a file that name partitions: asked for by several rules. */
function namingWords(file: BootFileRead, placement: Placement): readonly NamingWord[] {
  const known = WORDS.get(file);
  if (known) return known;
  const found = wordsNaming(file, placement);
  WORDS.set(file, found);
  return found;
}

const WORDS = new WeakMap<BootFileRead, readonly NamingWord[]>();

function wordsNaming({ entries }: BootText, placement: Placement): NamingWord[] {
  const { names } = partitionNames(placement);
  return entries.flatMap((entry) =>
    entry.words.flatMap((said): NamingWord[] => {
      const match = /^"?(root|resume)="?([^"]*)"?$/.exec(said.text);
      // What is reached from a partition by its distance is another one.
      if (!match || match[2]!.includes('/PARTNROFF=')) return [];
      const { by, name } = namedIn(match[2]!);
      if (by === undefined || by === 'device name') return [];
      const named = { by, name };
      // A kernel compares ids of partitions without regard to case.
      const found =
        by === 'PARTUUID' && names.named(named).length === 0
          ? names.inOtherCase(named).map(({ of }) => of)
          : names.named(named);
      return [{ said, key: match[1] as NamingWord['key'], named, found, entry }];
    }),
  );
}

const told = ({ by, name }: Named) => `${by} ${name}`;
const nameOf = ({ placed }: Nameable) => placed.slot.name;

/** Why a partition is not what a word asks for; undefined where it may be. */
function unfit(key: NamingWord['key'], of: Nameable): string | undefined {
  const { type } = of.mounted ?? {};
  if (key === 'resume') return isSwap(of) || type === undefined ? undefined : `${type}, no swap space`;
  if (isSwap(of)) return 'swap space';
  if (type === 'vfat' || type === 'exfat') return `${type}, which keeps no owners and modes`;
  return undefined;
}

const wrongSlot = rule('entries/wrong-slot', 'risk', (placement) =>
  spotted(placement, (file) =>
    namingWords(file, placement).flatMap(({ said, key, named, found }): Spot[] => {
      const [of] = found;
      const why = of && found.length === 1 ? unfit(key, of) : undefined;
      if (why === undefined) return [];
      return [
        {
          said,
          sentence: () => `${key}= names ${told(named)}, which is ${nameOf(of!)} (${why}).`,
          why: 'An id in the wrong slot: the kernel starts and finds no system there.',
        },
      ];
    }),
  ),
);

/** Who has a name that was looked for among others. */
function hintFor(named: NamingWord['named'], placement: Placement): string {
  const { names } = partitionNames(placement);
  const [other] = names.otherwise(named);
  if (other) return `${nameOf(other.of)} has it as its ${other.by}.`;
  const [cased] = names.inOtherCase(named);
  return cased ? `${nameOf(cased.of)} has ${cased.name}.` : 'No partition of the layout has it.';
}

const unknownId = rule('entries/unknown-id', 'risk', (placement) =>
  spotted(placement, (file) =>
    namingWords(file, placement)
      .filter(({ found }) => found.length === 0)
      .map(({ said, key, named }) => ({
        said,
        sentence: () => `${key}= names ${told(named)}. ${hintFor(named, placement)}`,
        why: 'Where no other disk of the machine has it, the start ends with a root that is not found.',
      })),
  ),
);

const idTwice = rule('entries/id-twice', 'risk', (placement) =>
  spotted(placement, (file) =>
    namingWords(file, placement)
      .filter(({ found }) => found.length > 1)
      .map(({ said, key, named, found }) => ({
        said,
        sentence: () => `${key}= names ${told(named)}, which ${found.map(nameOf).join(' and ')} have.`,
        why: 'Which of them is found depends on the order in which they come up.',
      })),
  ),
);

const noRamDisk = rule('entries/no-ram-disk', 'risk', (placement) =>
  spotted(placement, (file) =>
    // A file with a command line alone does not say what else is loaded, and of a program for firmware nobody knows.
    file.form === 'command line'
      ? []
      : namingWords(file, placement)
          .filter(
            ({ key, named: { by }, entry }) =>
              key === 'root' &&
              (by === 'UUID' || by === 'LABEL') &&
              entry.ramDisks.length === 0 &&
              entry.kernels.length > 0,
          )
          .map(({ said, named: { by } }) => ({
            said,
            sentence: () => `root=${by}= is found by an initial RAM disk alone, and the entry names none.`,
            why: 'The kernel itself knows ids and names of partitions, not those of file systems.',
          })),
  ),
);

/** Where a path of a file begins: at the root of its volume, or at the folder of the file. */
function pathFrom(file: StartFile, text: string): string {
  if (text.startsWith('/')) return text;
  return file.form === 'board entries' ? `${file.path.slice(0, file.path.lastIndexOf('/') + 1)}${text}` : text;
}

/** What is meant, where a path begins with where its volume is mounted. */
function withoutMount({ one: { slot }, tree, mindsCase }: StartFile, path: string): string | undefined {
  const { mount } = slot;
  if (mount === undefined || mount === '/' || !path.startsWith(`${mount}/`)) return undefined;
  const rest = path.slice(mount.length);
  return atPath(tree, rest, mindsCase) ? rest : undefined;
}

const fileMissing = rule('entries/file-missing', 'risk', (placement) =>
  spotted(placement, (file) =>
    file.entries.flatMap((entry) => {
      const parts = [
        ['kernel', entry.kernels, 'entry'],
        ['initial RAM disk', entry.ramDisks, 'entry'],
        ['device tree', entry.deviceTrees, 'entry'],
        ['folder of device trees', entry.deviceTreeFolders, 'folder'],
      ] as const;
      return parts.flatMap(([what, saids, kind]) =>
        saids.flatMap((said): Spot[] => {
          // A kernel in a container is named with the part of it that is meant, one from the network by its address.
          if (/^[a-z][a-z0-9+.-]*:\/\//i.test(said.text)) return [];
          const path = pathFrom(file, said.text.replace(/#.*$/, ''));
          if (atPath(file.tree, path, file.mindsCase)?.kind === kind) return [];
          const right = withoutMount(file, path);
          return [
            {
              said,
              sentence: () =>
                `the ${what} ${said.text} is not among the files of ${file.one.slot.name}.${right === undefined ? '' : ` On this volume it is ${right}.`}`,
              why: 'What starts the system loads it from here, and has nothing to start.',
            },
          ];
        }),
      );
    }),
  ),
);

const noKernel = rule('entries/no-kernel', 'risk', (placement) =>
  spotted(placement, (file) =>
    file.form === 'command line'
      ? []
      : file.entries
          .filter(({ kernels }) => kernels.length === 0)
          .map(({ name, line }) => ({
            said: { line, column: 1 },
            sentence: () => `the entry${name === '' ? '' : ` ${name}`} names no kernel.`,
            why: 'There is nothing that it starts.',
          })),
  ),
);

const unknownWord = rule('entries/unknown-word', 'note', (placement) =>
  spotted(placement, (file) =>
    file.unknown.map((said) => ({
      said,
      sentence: () =>
        `“${said.text.slice(0, 40)}” is no word of such a file.${said.nearest === undefined ? '' : ` Perhaps “${said.nearest}” is meant.`}`,
      why: 'What reads the file passes over the line.',
    })),
  ),
);

const notRead = rule('entries/not-read', 'note', (placement) =>
  startFiles(placement)
    .filter(({ unread }) => unread !== undefined)
    .map((file) => ({
      place: atSlot(file.one.slot.id),
      sentence: `“${file.path}” of ${file.one.slot.name} ${file.unread!}: it was not compared with the ids of the layout.`,
      why: 'What starts the system looks into it.',
      remedies: [],
    })),
);

export const ENTRIES_RULES: readonly Rule[] = [
  wrongSlot,
  unknownId,
  idTwice,
  noRamDisk,
  fileMissing,
  noKernel,
  unknownWord,
  notRead,
];
