'use client';

import type { Finding } from '@/core/findings/layout/finding';
import { fillingOf } from '@/core/layout/contents';
import type { PartitionSlot } from '@/core/layout/document';
import type { Writable } from '@/core/layout/vocabulary';
import { bootFiles } from '@/core/naming/boot';
import type { MachineMedium } from '@/core/naming/nameable';
import { mountTablePath } from '@/core/naming/written';
import { isPartition } from '@/core/placement/placement';
import { counted } from '@/core/quantity/units';
import { Remedies } from '../designer/bars/Findings';
import { useDesigner } from '../designer/state/context';
import { FindingLine } from '../kit/FindingList';

/** A slot that can have files written, and which. */
interface Target {
  readonly slot: PartitionSlot;
  readonly files: string;
}

/** The slots of a medium into whose files something can be written, and those where it is asked for in vain. */
function targetsOf(what: Writable, own: MachineMedium): Target[] {
  const files = what === 'boot entries' ? bootFiles(own) : [];
  return own.placement.placed.filter(isPartition).flatMap(({ slot }): Target[] => {
    const isAsked = slot.writes?.includes(what) === true;
    const paths =
      what === 'boot entries'
        ? files.filter(({ on }) => on?.placed.slot.id === slot.id).map(({ path }) => path.slice(1))
        : [mountTablePath(slot)].filter((path) => path !== undefined);
    const [first] = paths;
    if (!isAsked && (!fillingOf(slot) || first === undefined)) return [];
    const told = first === undefined ? 'nothing' : paths.length > 1 ? counted(paths.length, 'file') : first;
    return [{ slot, files: told }];
  });
}

const NOWHERE: Readonly<Record<Writable, string>> = {
  'mount table': 'No slot that Loess fills is a system: the table is put into the system by hand.',
  'boot entries': 'No slot that Loess fills is where they belong: they are put there by hand.',
};

/** Findings about files in which ids stand, and about what is written: of the mount table, or of entries. */
function isAbout({ rule }: Finding, what: Writable): boolean {
  return rule.startsWith('written/') || rule.startsWith(what === 'mount table' ? 'mounts/' : 'entries/');
}

/** Into which slots it is written each time the layout is built, and what is found in the files that lie there. */
export function WrittenInto({ what, own }: { readonly what: Writable; readonly own: MachineMedium }) {
  const commit = useDesigner((state) => state.commit);
  const findings = useDesigner((state) => state.findings).filter((one) => isAbout(one, what));
  const targets = targetsOf(what, own);
  // Before there are entries nothing is said of where they go.
  const isSilent = what === 'boot entries' && own.placement.layout.entries === undefined;
  const put = (slot: PartitionSlot, isOn: boolean) => {
    const others = (slot.writes ?? []).filter((one) => one !== what);
    const writes = isOn ? [...others, what] : others;
    commit({ do: 'change slot', id: slot.id, patch: { writes: writes.length > 0 ? writes : undefined } });
  };
  return (
    <div className="mb-2">
      {(targets.length > 0 || !isSilent) && (
        <p className="flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
          <span className="text-soft">
            {targets.length > 0 ? 'Written at each build into the files of' : NOWHERE[what]}
          </span>
          {targets.map(({ slot, files }) => (
            <label key={slot.id} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={slot.writes?.includes(what) === true}
                onChange={(event) => put(slot, event.target.checked)}
              />
              {slot.name} <span className="font-mono text-soft">{files}</span>
            </label>
          ))}
        </p>
      )}
      {findings.length > 0 && (
        <ul aria-label={`Findings about the ${what}`} className="mt-1 border-y border-line text-sm">
          {findings.map((finding, i) => (
            <FindingLine key={i} finding={finding}>
              <Remedies finding={finding} />
            </FindingLine>
          ))}
        </ul>
      )}
    </div>
  );
}
