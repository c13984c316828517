'use client';

import { patched } from '@/core/layout/edits';
import { GUID } from '@/core/bytes/guid';
import { READ_BY, profileOf, profilesOf } from '@/core/filesystems/ext/features';
import { EXT_BLOCKS, type ExtGeometry, usualPerInode } from '@/core/filesystems/ext/geometry';
import { EXT } from '@/core/filesystems/ext/kind';
import { EXT_LABEL_BYTES, storedExtLabel } from '@/core/filesystems/ext/label';
import { inodesLeft } from '@/core/filesystems/ext/nodes';
import { EXT_VERSIONS, type Profile } from '@/core/filesystems/ext/words';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import { madeAs } from '@/core/filesystems/kinds';
import type { Tree } from '@/core/filesystems/tree';
import { treeOfSlot } from '@/core/layout/contents';
import type { PlacedPartition } from '@/core/placement/placement';
import { siteIn } from '@/core/placement/site';
import { roomOf } from '@/core/placement/volumes';
import { parseExact } from '@/core/quantity/size-language';
import { alignUp } from '@/core/quantity/integers';
import { exactText, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { Button } from '../../kit/Button';
import { Choice } from '../../kit/Choice';
import { Fold } from '../../kit/Fold';
import { Select } from '../../kit/Select';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';
import { useLeast } from './useLeast';

type Props = { readonly placed: PlacedPartition; readonly content: ExtContent };
type Patch = { readonly [Key in keyof ExtContent]?: ExtContent[Key] | undefined };

const NO_FILES: Tree = [];
/** Bytes for an inode, to choose from. */
const PER_INODE = [4, 8, 16, 32, 64, 256, 1024].map((kib) => kib * 1024);
const LARGEST_OWNER = 2 ** 32 - 2;

function labelEcho(draft: string): Echo {
  const { text, bytes, cut } = storedExtLabel(draft);
  return {
    wrong: draft.length > 64,
    text: `${bytes.length} of ${EXT_LABEL_BYTES} bytes${cut === '' ? '' : `: stored as “${text}”, “${cut}” is cut off`}`,
  };
}

/** A size, or the word for none; what holds by rule where it is empty. */
function sizeOrNone(byRule: string): (draft: string) => Echo {
  return (draft) => {
    if (draft.trim() === '') return { wrong: false, text: byRule };
    if (draft.trim() === 'none') return { wrong: false, text: 'none' };
    const read = parseExact(draft.trim());
    return read.ok ? { wrong: false, text: '' } : { wrong: true, text: 'A size, as in 64 MiB, or none.' };
  };
}

function numberEcho(most: number, unit: string, byRule: string): (draft: string) => Echo {
  return (draft) => {
    if (draft.trim() === '') return { wrong: false, text: byRule };
    const value = Number(draft);
    return Number.isFinite(value) && value >= 0 && value <= most
      ? { wrong: false, text: unit }
      : { wrong: true, text: `A number from 0 to ${grouped(most)}.` };
  };
}

const given = (text: string): string | undefined => (text.trim() === '' ? undefined : text.trim());
const givenNumber = (text: string): number | undefined => (text.trim() === '' ? undefined : Number(text));

/** What is made, in a line. */
function madeText(geometry: ExtGeometry | undefined): string {
  if (!geometry) return 'no such file system of this size';
  const { block, blocks, groups, inodesPerGroup } = geometry;
  return `${inBinary(block)} × ${grouped(blocks)} blocks, ${grouped(groups * inodesPerGroup)} inodes`;
}

/** What is made of it, in figures, before it is made: and the smallest slot that would do. */
function MadeFacts({ placed, content, geometry }: Props & { readonly geometry: ExtGeometry | undefined }) {
  const placement = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const tree = treeOfSlot(placed.slot, placement.contents) ?? NO_FILES;
  const least = useLeast(content, siteIn(placed, placement), tree);
  const room = roomOf(placed, placement);
  const { sectorSize, grain } = placement;
  const slot = least === undefined || least === null ? undefined : alignUp(least, grain.bytes);
  const size = slot === undefined ? undefined : exactText(slot, sectorSize);
  return (
    <>
      {geometry && (
        <>
          <span className="self-start text-soft">Made</span>
          <p className="text-sm">
            {grouped(geometry.groups)} {geometry.groups === 1 ? 'group' : 'groups'};{' '}
            {grouped(inodesLeft(geometry, tree))} inodes free; journal{' '}
            {geometry.journalBlocks > 0 ? inBinary(geometry.journalBlocks * geometry.block) : 'none'}; reserved{' '}
            {inBinary(geometry.reservedBlocks * geometry.block)}
            {room && room.used <= room.clusters && (
              <>; room left {inBinary((room.clusters - room.used) * room.clusterBytes)}</>
            )}
          </p>
        </>
      )}
      <span className="self-start text-soft">Smallest</span>
      <div className="text-sm">
        <p aria-live="polite">
          {least === undefined
            ? 'being worked out …'
            : least === null
              ? 'no size holds these files'
              : `${inBoth(least)}, ${grouped(least / sectorSize)} sectors`}
        </p>
        {size !== undefined && slot !== placed.sectors * sectorSize && (
          <Button onClick={() => change({ size })}>Make the slot {inBinary(slot!)}</Button>
        )}
      </div>
    </>
  );
}

/** Everything about an ext file system that can be chosen. */
export function ExtFields({ placed, content }: Props) {
  const placement = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const set = (patch: Patch) => change({ content: patched<ExtContent>(content, patch) });
  const made = madeAs(placed, 'ext');
  const geometry = made?.ok ? made.value : undefined;
  const site = siteIn(placed, placement);
  const tree = treeOfSlot(placed.slot, placement.contents);
  const whyNot = (block: string): string | undefined => {
    const other = EXT.geometry!({ ...content, block }, site, tree).geometry;
    return other.ok ? undefined : `There is no such file system here: ${other.error.reason}.`;
  };
  const bytes = placed.sectors * placement.sectorSize;
  const { journalBlocks = 0, block = 0, growsTo = 0, reservedBlocks = 0 } = geometry ?? {};
  const profile = profileOf(content);
  return (
    <>
      <span className="text-soft">Version</span>
      <Choice<ExtContent['version']>
        label="Version of ext"
        dense
        value={content.version}
        options={EXT_VERSIONS.map((value) => ({ value, text: value }))}
        onChange={(version) => set({ version, profile: undefined })}
      />
      <span className="self-start pt-1 text-soft">Read by</span>
      <div>
        <Choice<Profile>
          label="What reads it"
          dense
          value={profile}
          options={profilesOf(content.version).map((value) => ({ value, text: value }))}
          onChange={(value) => set({ profile: value === profileOf({ version: content.version }) ? undefined : value })}
        />
        <p className="mt-0.5 text-sm text-soft">{READ_BY[profile]}</p>
      </div>
      <TextField
        label="Label"
        mono
        value={content.label ?? ''}
        echo={labelEcho}
        onCommit={(label) => set({ label: label === '' ? undefined : label })}
      />
      <Fold name="ext" title="Blocks and inodes" said={madeText(geometry)}>
        <MadeFacts placed={placed} content={content} geometry={geometry} />
        <span className="text-soft">Block</span>
        <Choice
          label="Size of a block"
          dense
          value={content.block ?? ''}
          options={[
            { value: '', text: 'by size' },
            ...EXT_BLOCKS.map((size) => ({ value: inBinary(size), text: inBinary(size).replace(' KiB', 'K') }))
              .map((one) => ({ ...one, disabled: whyNot(one.value) }))
              .filter(({ value, disabled }) => disabled === undefined || value === content.block),
          ]}
          onChange={(value) => set({ block: value === '' ? undefined : value })}
        />
        <span className="text-soft">Inode for</span>
        <Select
          label="Bytes for one inode"
          value={content.perInode ?? ''}
          options={[
            { value: '', text: `by size and files: ${inBinary(usualPerInode(bytes))}` },
            ...PER_INODE.map((size) => ({ value: inBinary(size), text: inBinary(size) })),
          ]}
          onChange={(value) => set({ perInode: value === '' ? undefined : value })}
        />
        <span className="text-soft">Inodes of</span>
        <Choice
          label="Bytes of an inode"
          dense
          value={String(content.inodeSize ?? 256)}
          options={[
            { value: '256', text: '256 B' },
            { value: '128', text: '128 B' },
          ]}
          onChange={(value) => set({ inodeSize: value === '128' ? 128 : undefined })}
        />
        {content.version !== 'ext2' && (
          <TextField
            label="Journal"
            mono
            value={content.journal ?? ''}
            placeholder="by size"
            echo={sizeOrNone(`by size: ${journalBlocks > 0 ? inBoth(journalBlocks * block) : 'none'}`)}
            onCommit={(text) => set({ journal: given(text) })}
          />
        )}
        <TextField
          label="Reserved"
          mono
          value={content.reserved === undefined ? '' : String(content.reserved)}
          placeholder={placed.slot.role === 'system' ? '5' : '0'}
          echo={numberEcho(
            50,
            `per cent: ${inBoth(reservedBlocks * block)} for the administrator alone`,
            'per cent, by role',
          )}
          onCommit={(text) => set({ reserved: givenNumber(text) })}
        />
        {profile !== 'tiny' && (
          <TextField
            label="Grows to"
            mono
            value={content.growTo ?? ''}
            placeholder="1,024 times its size"
            echo={sizeOrNone(`up to ${inBoth(growsTo * block)} while it is mounted`)}
            onCommit={(text) => set({ growTo: given(text) })}
          />
        )}
        <TextField
          label="Check after"
          mono
          value={content.checkDays === undefined ? '' : String(content.checkDays)}
          placeholder="never"
          echo={numberEcho(3650, 'days; 0 for never', 'never, by rule')}
          onCommit={(text) => set({ checkDays: givenNumber(text) })}
        />
        <TextField
          label="Root user"
          mono
          value={content.rootUser === undefined ? '' : String(content.rootUser)}
          placeholder="0"
          echo={numberEcho(LARGEST_OWNER, 'owner of the root directory', 'owner of the root directory: 0')}
          onCommit={(text) => set({ rootUser: givenNumber(text) })}
        />
        <TextField
          label="Root group"
          mono
          value={content.rootGroup === undefined ? '' : String(content.rootGroup)}
          placeholder="0"
          echo={numberEcho(LARGEST_OWNER, 'group of the root directory', 'group of the root directory: 0')}
          onCommit={(text) => set({ rootGroup: givenNumber(text) })}
        />
        <span className="text-soft">Tables</span>
        <Choice
          label="Inode tables behind those in use"
          dense
          value={content.tables ?? 'zeros'}
          options={[
            { value: 'zeros', text: 'zeros' },
            {
              value: 'left to the kernel',
              text: 'left to the kernel',
              disabled: content.version === 'ext4' ? undefined : `${content.version} has no mark for that.`,
            },
          ]}
          onChange={(value) => set({ tables: value === 'zeros' ? undefined : 'left to the kernel' })}
        />
        <TextField
          label="UUID"
          mono
          value={content.uuid}
          echo={(draft) => (GUID.test(draft) ? undefined : { wrong: true, text: 'A UUID in lower case.' })}
          onCommit={(uuid) => set({ uuid })}
        />
      </Fold>
    </>
  );
}
