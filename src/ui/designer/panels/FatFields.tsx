'use client';

import { fatGeometry, type FatQuestion, type Padding } from '@/core/filesystems/fat/geometry';
import { clusterSizes, variantOf } from '@/core/filesystems/fat/variants';
import { LABEL_LENGTH, storedLabel } from '@/core/filesystems/fat/label';
import type { ContentOf } from '@/core/filesystems/shapes';
import type { PartitionSlot } from '@/core/layout/document';
import { VOLUME_ID } from '@/core/filesystems/volume-id';
import { fatQuestion } from '@/core/filesystems/fat/kind';
import { madeAs } from '@/core/filesystems/kinds';
import { siteIn } from '@/core/placement/site';
import type { Placed } from '@/core/placement/placement';
import { grouped, inBinary, sectorCount } from '@/core/quantity/units';
import { Choice, type Option } from '../../kit/Choice';
import { Fold } from '../../kit/Fold';
import { type Echo, TextField } from '../../kit/TextField';
import { contentPatch, type FatChoice, VARIANT_CHOICES, variantChosen } from '../state/content-edit';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';

type Props = { readonly placed: Placed & { slot: PartitionSlot }; readonly content: ContentOf<'fat'> };

function volumeIdEcho(draft: string): Echo | undefined {
  return VOLUME_ID.test(draft)
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

function rootEcho(sectorSize: number, made: number): (draft: string) => Echo {
  return (draft) => {
    if (draft.trim() === '') return { wrong: false, text: `${grouped(made)} by rule` };
    const n = Number(draft);
    if (!Number.isInteger(n) || n < 1 || n > 65_535) return { wrong: true, text: 'A whole number from 1 to 65,535.' };
    const sectors = (n * 32) / sectorSize;
    return { wrong: false, text: Number.isInteger(sectors) ? sectorCount(sectors) : `${sectors.toFixed(2)} sectors` };
  };
}

/** Why a cluster size cannot be, in figures. */
function whyNot(question: FatQuestion): string | undefined {
  const found = fatGeometry(question);
  if (found.ok) return undefined;
  const { clusters, variant } = found.error;
  const would = variantOf(clusters);
  return `${grouped(clusters)} clusters: ${would ? `that is FAT${would}` : 'none'}, not FAT${variant}`;
}

function clustersText(placed: Placed): string {
  const made = madeAs(placed, 'fat');
  return made?.ok
    ? `${inBinary(made.value.clusterBytes)} × ${grouped(made.value.clusters)} clusters`
    : 'no such volume of this size';
}

/** Choices of the cluster size: by the size of the volume, or any that is legal here. */
function ClusterChoice({ placed, content }: Props) {
  const placement = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const { sectorSize } = placement;
  const { cluster: chosen, ...others } = content;
  const question = fatQuestion(others, siteIn(placed, placement));
  const sizes = clusterSizes(sectorSize).map((bytes): Option<string> => ({
    value: inBinary(bytes),
    text: inBinary(bytes).replace(' KiB', 'K').replace(' B', ''),
    disabled: whyNot({ ...question, cluster: bytes }),
  }));
  // Of those that cannot be, the nearest on each side is shown, with the reason; the others are alike.
  const shown = sizes.filter(
    (size, i) =>
      !size.disabled || size.value === chosen || [sizes[i - 1], sizes[i + 1]].some((one) => one && !one.disabled),
  );
  const automatic = fatGeometry(question);
  return (
    <>
      <span className="self-start pt-1 text-soft">Cluster</span>
      <div>
        <Choice
          label="Cluster size"
          dense
          value={chosen ?? 'auto'}
          options={[{ value: 'auto', text: 'by size' }, ...shown]}
          onChange={(value) => change({ content: { ...content, cluster: value === 'auto' ? undefined : value } })}
        />
        <p className="mt-0.5 text-sm text-soft">
          {clustersText(placed)}
          {chosen && automatic.ok ? `; by size ${inBinary(automatic.value.clusterBytes)}` : ''}
        </p>
      </div>
    </>
  );
}

const PADDING_OPTIONS: readonly Option<Padding>[] = [
  { value: 'reserved', text: 'reserved sectors' },
  { value: 'root directory', text: 'root, FATs' },
  { value: 'none', text: 'not' },
];

/** What only FAT12 and FAT16 have: where padding goes, and a root directory of fixed length. */
function SmallFatFields({ placed, content }: Props) {
  const sectorSize = useDesigner((state) => state.placement.sectorSize);
  const { change } = useSlotEditing(placed.slot.id);
  const made = madeAs(placed, 'fat');
  const geometry = made?.ok ? made.value : undefined;
  if (geometry?.variant === 32) return null;
  return (
    <>
      <span className="text-soft">Padded by</span>
      <Choice<Padding>
        label="Padding"
        dense
        value={content.padding ?? 'reserved'}
        options={PADDING_OPTIONS}
        onChange={(padding) =>
          change({ content: { ...content, padding: padding === 'reserved' ? undefined : padding } })
        }
      />
      <TextField
        label="Root holds"
        mono
        value={content.rootEntries === undefined ? '' : String(content.rootEntries)}
        placeholder={geometry ? `${grouped(geometry.rootEntries)} entries, by rule` : 'by rule'}
        echo={rootEcho(sectorSize, geometry?.rootEntries ?? 512)}
        onCommit={(text) =>
          change({ content: { ...content, rootEntries: text.trim() === '' ? undefined : Number(text) } })
        }
      />
    </>
  );
}

/** Everything about a FAT volume that can be chosen. */
export function FatFields({ placed, content }: Props) {
  const layout = useDesigner((state) => state.document);
  const { change } = useSlotEditing(placed.slot.id);
  const set = (patch: Partial<ContentOf<'fat'>>) => change({ content: { ...content, ...patch } });
  return (
    <>
      <span className="text-soft">Variant</span>
      <Choice<FatChoice>
        label="FAT variant"
        dense
        value={variantChosen(content)}
        options={VARIANT_CHOICES}
        onChange={(chosen) => change(contentPatch(layout, placed.slot, chosen))}
      />
      <TextField
        label="Label"
        mono
        value={content.label ?? ''}
        echo={labelEcho}
        onCommit={(label) => set({ label: label === '' ? undefined : label })}
      />
      <Fold title="Clusters and id" said={clustersText(placed)}>
        <ClusterChoice placed={placed} content={content} />
        <SmallFatFields placed={placed} content={content} />
        <TextField
          label="Volume id"
          mono
          value={content.volumeId}
          echo={volumeIdEcho}
          onCommit={(volumeId) => set({ volumeId })}
        />
      </Fold>
    </>
  );
}
