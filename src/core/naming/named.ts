/** What the first field of a line names. */
import { NAMED_BY, type NamedBy } from '../layout/vocabulary';
import { type Nameable, nameBy } from './nameable';

/** `by` is undefined for what is neither an id nor a device: a network share, `tmpfs`, a folder. */
export interface Named {
  readonly by: NamedBy | undefined;
  readonly name: string;
}

const LINKS: Readonly<Record<string, NamedBy>> = {
  'by-uuid': 'UUID',
  'by-label': 'LABEL',
  'by-partuuid': 'PARTUUID',
  'by-partlabel': 'PARTLABEL',
};

/** Names below /dev that stay whatever the order of the disks. */
const LASTING = /^\/dev\/(mapper|disk|md|vg|zvol)\/|^\/dev\/(dm-|md|loop|ram|zram)/;

/** What the decoded first field names. */
export function namedIn(value: string): Named {
  const tag = /^(UUID|PARTUUID|LABEL|PARTLABEL)=(.*)$/s.exec(value);
  if (tag) return { by: tag[1] as NamedBy, name: tag[2]! };
  const link = /^\/dev\/disk\/(by-[a-z]+)\/(.+)$/.exec(value);
  const by = link && LINKS[link[1]!];
  if (by)
    return {
      by,
      name: link[2]!.replace(/\\x([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16))),
    };
  if (value.startsWith('/dev/') && !LASTING.test(value)) return { by: 'device name', name: value };
  return { by: undefined, name: value };
}

/** The kinds of names that last. */
export const IDS = NAMED_BY.filter((by) => by !== 'device name');

/** Finds partitions by their names. */
export class Names {
  private readonly byName = new Map<string, Nameable[]>();

  constructor(private readonly nameables: readonly Nameable[]) {
    for (const one of nameables)
      for (const by of IDS) {
        const name = nameBy(one, by);
        if (name === undefined) continue;
        const key = `${by}=${name}`;
        this.byName.set(key, [...(this.byName.get(key) ?? []), one]);
      }
  }

  named({ by, name }: Named): readonly Nameable[] {
    return by === undefined || by === 'device name' ? [] : (this.byName.get(`${by}=${name}`) ?? []);
  }

  /** Partitions that have this name under another kind. */
  otherwise({ by, name }: Named): readonly { readonly by: NamedBy; readonly of: Nameable; readonly name: string }[] {
    const lower = name.toLowerCase();
    return this.nameables.flatMap((of) =>
      IDS.flatMap((other) => {
        const own = nameBy(of, other);
        const isSame = other !== by && own !== undefined && own.toLowerCase() === lower;
        return isSame ? [{ by: other, of, name: own }] : [];
      }),
    );
  }

  /** Partitions whose name of this kind is the same but for its case. */
  inOtherCase({ by, name }: Named): readonly { readonly of: Nameable; readonly name: string }[] {
    if (by === undefined) return [];
    const lower = name.toLowerCase();
    return this.nameables.flatMap((of) => {
      const own = nameBy(of, by);
      return own !== undefined && own !== name && own.toLowerCase() === lower ? [{ of, name: own }] : [];
    });
  }
}
