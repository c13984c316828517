'use client';

import { movingSeveral } from '../state/several';
import { type Edit, roleEdits } from '@/core/layout/edits';
import { isPartition } from '@/core/placement/placement';
import { type Role, ROLES } from '@/core/layout/vocabulary';
import { counted, inBoth, sectorCount } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { Choice } from '../../kit/Choice';
import { Key } from '../../kit/Key';
import { copySlots } from '../state/clipboard';
import { useDesigner } from '../state/context';
import { Fields, PanelHead } from './panel';

/** What can be done with several slots at once. */
export function SeveralPanel({ ids }: { ids: readonly string[] }) {
  const layout = useDesigner((state) => state.document);
  const { placed, sectorSize } = useDesigner((state) => state.placement);
  const commit = useDesigner((state) => state.commit);
  const chosen = placed.filter(({ slot }) => ids.includes(slot.id));
  const sectors = chosen.reduce((sum, one) => sum + one.sectors, 0);
  const partitions = chosen.filter(isPartition);
  const order = layout.slots.map((slot) => slot.id);
  const all = (edit: (id: string) => Edit): Edit => ({ do: 'several', edits: ids.map(edit) });
  const move = (step: 1 | -1) => {
    const edit = movingSeveral(order, ids, step);
    if (edit) commit(edit);
  };
  return (
    <>
      <PanelHead
        title={counted(chosen.length, 'slot')}
        detail={`${inBoth(sectors * sectorSize)} together, ${sectorCount(sectors)}`}
      />
      <ul className="mt-2 border-t border-hair pt-2">
        {chosen.map(({ slot, sectors: own }) => (
          <li key={slot.id} className="flex justify-between">
            <span className="truncate">{slot.name}</span>
            <span className="font-mono text-sm text-soft">{inBoth(own * sectorSize)}</span>
          </li>
        ))}
      </ul>
      {partitions.length > 0 && (
        <Fields>
          <span className="text-soft">Role of all</span>
          <Choice<Role | 'mixed'>
            label="Role of all"
            dense
            value="mixed"
            options={ROLES.map((value) => ({
              value,
              text: value === 'esp' ? 'ESP' : value.replace('bios-boot', 'BIOS'),
            }))}
            onChange={(role) =>
              role !== 'mixed' &&
              commit({
                do: 'several',
                edits: roleEdits(
                  layout,
                  partitions.map(({ slot }) => slot),
                  role,
                ),
              })
            }
          />
        </Fields>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5 border-t border-hair pt-2">
        <Button onClick={() => move(-1)}>
          Up <Key>Alt ↑</Key>
        </Button>
        <Button onClick={() => move(1)}>
          Down <Key>Alt ↓</Key>
        </Button>
        <Button onClick={() => copySlots(layout, ids)}>
          Copy as lines <Key>Ctrl C</Key>
        </Button>
        <Button onClick={() => commit(all((id) => ({ do: 'remove slot', id })))}>
          Delete <Key>Del</Key>
        </Button>
      </div>
    </>
  );
}
