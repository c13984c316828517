/** Every id and name of a machine's media, and the places that each of them belongs in. */
import type { NamedBy } from '../layout/vocabulary';
import { IDS } from '../naming/named';
import { sourceText } from '../naming/mount-table';
import { type MachineMedium, nameablesOf, type Nameable, nameBy } from '../naming/nameable';

/** One id or name of a partition. */
export interface Identifier {
  readonly by: NamedBy;
  /** The id itself. */
  readonly name: string;
  /** As it stands in a mount table. */
  readonly told: string;
}

export interface IdentifiedPartition {
  readonly of: Nameable;
  readonly identifiers: readonly Identifier[];
}

export interface IdentifiedMedium {
  readonly medium: MachineMedium;
  /** Id of the GPT, or signature of the MBR. */
  readonly table: { readonly kind: 'GPT' | 'MBR'; readonly id: string } | undefined;
  readonly partitions: readonly IdentifiedPartition[];
}

/** Where each kind of name belongs, in a sentence. */
export const BELONGS: Readonly<Record<Exclude<NamedBy, 'device name'>, string>> = {
  UUID: 'The file system. In a mount table behind UUID=; on a command line behind root=UUID= where there is an initial RAM disk; swap behind resume=UUID=.',
  PARTUUID:
    'The partition. On a command line behind root=PARTUUID=, which a kernel finds without an initial RAM disk; in a mount table behind PARTUUID= where the file system is made later.',
  LABEL: 'The file system. Behind LABEL=, where people shall be able to exchange one medium for another.',
  PARTLABEL: 'The partition. Behind PARTLABEL=, in a mount table or on a command line.',
};

function tableOf({ placement: { layout } }: MachineMedium): IdentifiedMedium['table'] {
  const { table } = layout;
  if (table.kind === 'gpt') return { kind: 'GPT', id: table.diskId };
  return table.kind === 'mbr' ? { kind: 'MBR', id: table.signature } : undefined;
}

/** All ids of the media, medium by medium. */
export function identifiersOf(media: readonly MachineMedium[]): IdentifiedMedium[] {
  return media.map((medium) => ({
    medium,
    table: tableOf(medium),
    partitions: nameablesOf([medium]).map((of) => ({
      of,
      identifiers: IDS.flatMap((by): Identifier[] => {
        const name = nameBy(of, by);
        return name === undefined ? [] : [{ by, name, told: sourceText(by, name) }];
      }),
    })),
  }));
}
