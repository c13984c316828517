'use client';

import type { FileSystem, FreeSlot, PartitionSlot, RawSlot, Slot } from '@/core/layout/document';
import { type Role, ROLES } from '@/core/layout/vocabulary';
import { derivedVolumeId, markOnly, type SlotPatch } from '@/core/layout/edits';
import { clusterSizes, fat32Geometry } from '@/core/filesystems/fat32/geometry';
import { LABEL_LENGTH, storedLabel } from '@/core/filesystems/label';
import { lastSector, type Placed } from '@/core/placement/placement';
import { grouped, inBinary } from '@/core/quantity/units';
import { typeName } from '@/core/tables/types';
import { Choice, type Option } from '../kit/Choice';
import { exactEcho, sizeEcho } from '../kit/size-echo';
import { type Echo, TextField } from '../kit/TextField';
import { useDesigner } from './context';
import { Breakdown } from './Breakdown';
import { Fields, PanelHead, Reasons } from './panel';
import { SlotActions } from './SlotActions';

/** Id of the field that Enter on a selected slot goes to. */
export const SIZE_FIELD = 'size-field';

const ROLE_OPTIONS = ROLES.map((value): Option<Role> => ({ value, text: value === 'esp' ? 'ESP' : value }));

function nameEcho(draft: string): Echo | undefined {
  if (draft.trim() === '') return { wrong: true, text: 'A slot has a name.' };
  return draft.length > 72 ? { wrong: true, text: 'A name has at most 72 characters.' } : undefined;
}

function mountEcho(draft: string): Echo | undefined {
  if (draft === '' || /^\/\S*$/.test(draft)) return undefined;
  return { wrong: true, text: 'A mount point begins with / and has no spaces.' };
}

function volumeIdEcho(draft: string): Echo | undefined {
  return /^[0-9A-F]{4}-[0-9A-F]{4}$/.test(draft)
    ? undefined
    : { wrong: true, text: 'Eight hexadecimal digits in upper case, as in 3A1F-77C0.' };
}

function labelEcho(draft: string): Echo {
  const stored = storedLabel(draft);
  if (stored.text === '') return { wrong: false, text: 'no label; readers show the volume id or nothing' };
  const bad = stored.forbidden.length > 0 ? `; ${stored.forbidden.join(' ')} cannot be stored` : '';
  const cut = stored.cut ? `; “${stored.cut}” is cut off` : '';
  return {
    wrong: draft.length > 64,
    text: (
      <>
        stored as <span className="font-mono">{stored.text.padEnd(LABEL_LENGTH, '·')}</span> {stored.text.length} of{' '}
        {LABEL_LENGTH}
        {bad}
        {cut}
      </>
    ),
  };
}

function typeEcho(draft: string): Echo | undefined {
  if (draft === '') return undefined;
  if (!/^(0[1-9A-F]|[1-9A-F][0-9A-F])$/i.test(draft)) return { wrong: true, text: 'Two hexadecimal digits, 01 to FF.' };
  return { wrong: false, text: `${typeName(parseInt(draft, 16))}; leave it empty for the type by rule` };
}

function useSlotEditing(id: string) {
  const preview = useDesigner((state) => state.preview);
  const commit = useDesigner((state) => state.commit);
  return {
    change: (patch: SlotPatch) => commit({ do: 'change slot', id, patch }),
    draft: (patch: SlotPatch | undefined) => preview(patch && { do: 'change slot', id, patch }),
    commit,
  };
}

/** The slot as it was before a gesture that is not finished. */
function useSettled<T extends Slot>(slot: T): T {
  const settled = useDesigner((state) => state.base.layout.slots.find((one) => one.id === slot.id));
  return settled?.kind === slot.kind ? (settled as T) : slot;
}

function NameField({ slot }: { slot: Slot }) {
  const { change } = useSlotEditing(slot.id);
  return (
    <TextField label="Name" value={slot.name} echo={nameEcho} onCommit={(name) => change({ name: name.trim() })} />
  );
}

function SizeAndName({ placed }: { placed: Placed & { slot: PartitionSlot | FreeSlot } }) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const { slot } = placed;
  const settled = useSettled(slot);
  const { change, draft } = useSlotEditing(slot.id);
  return (
    <>
      <NameField slot={slot} />
      <TextField
        label="Size"
        fieldId={SIZE_FIELD}
        mono
        value={slot.size}
        settled={settled.size}
        echo={sizeEcho(sectorSize)}
        onDraft={(size) => draft(size === undefined ? undefined : { size })}
        onCommit={(size) => change({ size: size.trim() })}
      />
    </>
  );
}

/** Choices of the cluster size: by the size of the volume, or any that makes a FAT32 here. */
function ClusterChoice({ placed, fileSystem }: { placed: Placed; fileSystem: FileSystem }) {
  const placement = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const question = {
    sectorSize: placement.sectorSize,
    start: placed.start,
    sectors: placed.sectors,
    unit: placement.dataUnit,
  };
  const sizes = clusterSizes(placement.sectorSize).map((bytes): Option<string> => {
    const geometry = fat32Geometry({ ...question, cluster: bytes });
    const why = geometry.ok ? undefined : `${grouped(geometry.error.clusters)} clusters: FAT32 begins at 65,525`;
    return { value: inBinary(bytes), text: inBinary(bytes).replace(' KiB', 'K').replace(' B', ''), disabled: why };
  });
  // Of those too large for the volume the first is shown, with the reason; the others are alike.
  const possible = sizes.filter(
    (size, i) => !size.disabled || !sizes[i - 1]?.disabled || size.value === fileSystem.cluster,
  );
  const automatic = fat32Geometry(question);
  const chosen = fileSystem.cluster;
  return (
    <>
      <span className="self-start pt-1 text-soft">Cluster</span>
      <div>
        <Choice
          label="Cluster size"
          dense
          value={chosen ?? 'auto'}
          options={[{ value: 'auto', text: 'by size' }, ...possible]}
          onChange={(value) => change({ fileSystem: { ...fileSystem, cluster: value === 'auto' ? undefined : value } })}
        />
        <p className="mt-0.5 text-sm text-soft">
          {placed.fat?.ok
            ? `${inBinary(placed.fat.value.clusterBytes)} × ${grouped(placed.fat.value.clusters)} clusters`
            : 'no FAT32 of this size'}
          {chosen && automatic.ok ? `; by size ${inBinary(automatic.value.clusterBytes)}` : ''}
        </p>
      </div>
    </>
  );
}

function FatFields({ placed, fileSystem }: { placed: Placed; fileSystem: FileSystem }) {
  const { change } = useSlotEditing(placed.slot.id);
  const set = (patch: Partial<FileSystem>) => change({ fileSystem: { ...fileSystem, ...patch } });
  return (
    <>
      <ClusterChoice placed={placed} fileSystem={fileSystem} />
      <TextField
        label="Label"
        mono
        value={fileSystem.label ?? ''}
        echo={labelEcho}
        onCommit={(label) => set({ label: label === '' ? undefined : label })}
      />
      <TextField
        label="Volume id"
        mono
        value={fileSystem.volumeId}
        echo={volumeIdEcho}
        onCommit={(volumeId) => set({ volumeId })}
      />
    </>
  );
}

/** Properties of a partition. */
export function PartitionPanel({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const layout = useDesigner((state) => state.document);
  const { slot, partition } = placed;
  const { change, commit } = useSlotEditing(slot.id);
  const { fileSystem } = slot;
  const makeFat = (): FileSystem => ({ kind: 'fat32', volumeId: derivedVolumeId(layout, slot.id) });
  return (
    <>
      <PanelHead
        title={slot.name}
        detail={`partition ${partition?.number}, sectors ${grouped(placed.start)} – ${grouped(lastSector(placed))}`}
      />
      <Fields>
        <SizeAndName placed={placed} />
        <span className="text-soft">Role</span>
        <Choice label="Role" value={slot.role} options={ROLE_OPTIONS} onChange={(role) => change({ role })} />
        <span className="text-soft">Mark</span>
        <Choice
          label="Active mark"
          value={slot.active ? 'active' : 'none'}
          options={[
            { value: 'active', text: 'active' },
            { value: 'none', text: 'not active' },
          ]}
          onChange={(value) => (value === 'active' ? commit(markOnly(layout, slot.id)) : change({ active: undefined }))}
        />
        <TextField
          label="Type"
          mono
          value={slot.type ?? ''}
          placeholder={`${typeName(partition?.type ?? 0)}, by rule`}
          echo={typeEcho}
          onCommit={(type) => change({ type: type === '' ? undefined : type.toUpperCase() })}
        />
        <TextField
          label="Mounts at"
          mono
          value={slot.mount ?? ''}
          placeholder="nowhere said"
          echo={mountEcho}
          onCommit={(mount) => change({ mount: mount === '' ? undefined : mount })}
        />
      </Fields>
      <Fields>
        <span className="text-soft">Content</span>
        <Choice
          label="File system"
          value={fileSystem ? 'fat32' : 'none'}
          options={[
            { value: 'fat32', text: 'FAT32' },
            { value: 'none', text: 'left to its system' },
          ]}
          onChange={(value) => change({ fileSystem: value === 'fat32' ? makeFat() : undefined })}
        />
        {fileSystem && <FatFields placed={placed} fileSystem={fileSystem} />}
      </Fields>
      {placed.fat?.ok && <Breakdown geometry={placed.fat.value} />}
      <Reasons placed={placed} />
      <SlotActions id={slot.id} name={slot.name} />
    </>
  );
}

/** Properties of deliberate free space. */
export function FreePanel({ placed }: { placed: Placed & { slot: FreeSlot } }) {
  return (
    <>
      <PanelHead
        title={placed.slot.name}
        detail={`free on purpose, sectors ${grouped(placed.start)} – ${grouped(lastSector(placed))}`}
      />
      <Fields>
        <SizeAndName placed={placed} />
      </Fields>
      <Reasons placed={placed} />
      <SlotActions id={placed.slot.id} name={placed.slot.name} />
    </>
  );
}

/** Properties of a raw range. */
export function RawPanel({ placed }: { placed: Placed & { slot: RawSlot } }) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const { slot, span } = placed;
  const settled = useSettled(slot);
  const { change, draft } = useSlotEditing(slot.id);
  return (
    <>
      <PanelHead title={slot.name} detail={`raw range, bytes ${grouped(span.start)} – ${grouped(span.end - 1)}`} />
      <Fields>
        <NameField slot={slot} />
        <TextField
          label="Starts at"
          mono
          value={slot.at}
          settled={settled.at}
          echo={exactEcho(sectorSize, { zero: true })}
          onDraft={(at) => draft(at === undefined ? undefined : { at: at.trim() })}
          onCommit={(at) => change({ at: at.trim() })}
        />
        <TextField
          label="Length"
          fieldId={SIZE_FIELD}
          mono
          value={slot.length}
          settled={settled.length}
          echo={exactEcho(sectorSize)}
          onDraft={(length) => draft(length === undefined ? undefined : { length })}
          onCommit={(length) => change({ length: length.trim() })}
        />
      </Fields>
      <p className="mt-2 text-soft">
        Kept free of tables and partitions for what a ROM loads from this place. Empty for now: a build writes zeros
        here.
      </p>
      <Reasons placed={placed} />
      <SlotActions id={slot.id} name={slot.name} />
    </>
  );
}
