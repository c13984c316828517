'use client';

import Link from 'next/link';
import { GUID } from '@/core/bytes/guid';
import { EXFAT_LABEL_LIMIT } from '@/core/filesystems/exfat/fill';
import { exfatClusterSizes, usualExfatCluster } from '@/core/filesystems/exfat/geometry';
import { SWAP_LABEL_LIMIT, swapLabelBytes } from '@/core/filesystems/swap/format';
import { treeSums } from '@/core/filesystems/tree';
import { fillingOf, storedTreeOf } from '@/core/layout/contents';
import { blobOf } from '@/core/filesystems/supplied';
import { type Expected, EXPECTED, EXPECTED_NAMES } from '@/core/filesystems/left/expected';
import type { Content, ContentOf } from '@/core/filesystems/shapes';
import type { PartitionSlot } from '@/core/layout/document';
import { swapAdvice } from '@/core/layout/swap';
import { memoryOf } from '@/core/layout/medium-spec';
import { VOLUME_ID } from '@/core/filesystems/volume-id';
import type { PlacedPartition } from '@/core/placement/placement';
import { counted, exactText, inBinary, inBoth } from '@/core/quantity/units';
import { Button, buttonClass } from '../../kit/Button';
import { Choice } from '../../kit/Choice';
import { Select } from '../../kit/Select';
import { TextField } from '../../kit/TextField';
import { unstated } from '../state/content-edit';
import { useDesigner } from '../state/context';
import { PAGE_CHOICES, pageSizeChosen, useSlotEditing } from '../state/editing';

type Of<Kind extends Content> = { readonly placed: PlacedPartition; readonly content: Kind };

function ExfatFields({ placed, content }: Of<ContentOf<'exfat'>>) {
  const { sectorSize } = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const set = (patch: Partial<ContentOf<'exfat'>>) => change({ content: { ...content, ...patch } });
  const byRule = inBinary(usualExfatCluster(placed.sectors * sectorSize));
  return (
    <>
      <span className="text-soft">Cluster</span>
      <Select
        label="Cluster size"
        value={content.cluster ?? ''}
        options={[
          { value: '', text: `by size: ${byRule}` },
          ...exfatClusterSizes(sectorSize).map((bytes) => ({ value: inBinary(bytes), text: inBinary(bytes) })),
        ]}
        onChange={(cluster) => set({ cluster: cluster === '' ? undefined : cluster })}
      />
      <TextField
        label="Label"
        mono
        value={content.label ?? ''}
        echo={(draft) => ({
          wrong: draft.length > EXFAT_LABEL_LIMIT,
          text: `${draft.length} of ${EXFAT_LABEL_LIMIT} characters, case kept`,
        })}
        onCommit={(label) => set({ label: label === '' ? undefined : label })}
      />
      <TextField
        label="Volume id"
        mono
        value={content.volumeId}
        echo={(draft) =>
          VOLUME_ID.test(draft)
            ? undefined
            : { wrong: true, text: 'Eight hexadecimal digits in upper case, as in 3A1F-77C0.' }
        }
        onCommit={(volumeId) => set({ volumeId })}
      />
    </>
  );
}

function SwapFields({ placed, content }: Of<ContentOf<'swap'>>) {
  const layout = useDesigner((state) => state.document);
  const { sectorSize } = useDesigner((state) => state.placement);
  const { change } = useSlotEditing(placed.slot.id);
  const set = (patch: Partial<ContentOf<'swap'>>) => change({ content: { ...content, ...patch } });
  const memory = memoryOf(layout);
  const advice = memory === undefined ? undefined : swapAdvice(memory, layout.machine?.hibernates === true);
  const isAdvised = advice === placed.sectors * sectorSize;
  return (
    <>
      <span className="text-soft">Page</span>
      <Choice
        label="Page size"
        dense
        value={String(content.pageSize ?? 'machine')}
        options={[
          { value: 'machine', text: `of the machine: ${inBinary(layout.machine?.pageSize ?? 4096)}` },
          ...PAGE_CHOICES,
        ]}
        onChange={(value) => set({ pageSize: pageSizeChosen(value) })}
      />
      <TextField
        label="Label"
        mono
        value={content.label ?? ''}
        echo={(draft) => ({
          wrong: swapLabelBytes(draft).length > SWAP_LABEL_LIMIT,
          text: `${swapLabelBytes(draft).length} of ${SWAP_LABEL_LIMIT} bytes`,
        })}
        onCommit={(label) => set({ label: label === '' ? undefined : label })}
      />
      <TextField
        label="UUID"
        mono
        value={content.uuid}
        echo={(draft) => (GUID.test(draft) ? undefined : { wrong: true, text: 'A UUID in lower case.' })}
        onCommit={(uuid) => set({ uuid })}
      />
      <span className="text-soft">Advice</span>
      <p>
        {advice === undefined
          ? 'Say how much memory the machine has, then a size can be advised.'
          : `${inBoth(advice)} for ${inBinary(memory!)} of memory${layout.machine?.hibernates ? ', with hibernation' : ''}.`}{' '}
        {advice !== undefined && !isAdvised && (
          <Button onClick={() => change({ size: exactText(advice, sectorSize) })}>Make it so</Button>
        )}
      </p>
    </>
  );
}

/** What the system will make that a partition is left to. */
function LeftFields({ placed: { slot } }: { readonly placed: PlacedPartition }) {
  const { change } = useSlotEditing(slot.id);
  const expects = slot.content?.kind === 'left' ? slot.content.expects : undefined;
  return (
    <>
      <span className="text-soft">Left for</span>
      <Select
        label="What its system will make"
        value={expects ?? ''}
        options={[
          { value: '', text: 'not said' },
          ...EXPECTED.map((one) => ({ value: one, text: EXPECTED_NAMES[one] })),
        ]}
        onChange={(value) =>
          change({ content: value === '' ? unstated(slot) : { kind: 'left', expects: value as Expected } })
        }
      />
    </>
  );
}

type Supplied = Extract<Content, { sha256: string }>;

/** The size text with which a slot follows what is prepared for it. */
const sizeOfIts = ({ kind }: Supplied): string => (kind === 'image' ? 'its image' : 'its file');

function SuppliedFacts({ slot, content }: { readonly slot: PartitionSlot; readonly content: Supplied }) {
  const { change } = useSlotEditing(slot.id);
  const contents = useDesigner((state) => state.placement.contents);
  const image = content.kind === 'image' ? blobOf(content.sha256, contents)?.image : undefined;
  const hidden = content.kind === 'image' && content.hidden;
  return (
    <>
      <span className="text-soft">File</span>
      <p className="min-w-0 break-words">
        <span className="font-mono text-sm">{content.name}</span>, {inBoth(content.size)}
        {image && `: ${image.name}${image.label ? `, ${image.label}` : ''}`}
        {hidden && ', its place is corrected'}
      </p>
      {slot.size !== sizeOfIts(content) && (
        <div className="col-start-2">
          <Button onClick={() => change({ size: sizeOfIts(content) })}>Take its size</Button>
        </div>
      )}
    </>
  );
}

/** How many files, and how to get to them. */
function FilesLine({ slot, isStudied }: { readonly slot: PartitionSlot; readonly isStudied: boolean }) {
  const id = useDesigner((state) => state.view.id);
  const contents = useDesigner((state) => state.placement.contents);
  const filling = fillingOf(slot);
  const tree = storedTreeOf(slot, contents);
  const sums = tree && treeSums(tree);
  const text = !filling
    ? 'Put in an image or a file'
    : !sums
      ? 'being read …'
      : sums.files === 0
        ? 'none yet'
        : `${counted(sums.files, 'file')}, ${inBinary(sums.bytes)}`;
  return (
    <>
      <span className="text-soft">Files</span>
      <p className="flex flex-wrap items-center gap-1.5">
        <span>
          {text}
          {slot.writes && `; ${slot.writes.join(' and ')} written at each build`}
        </span>
        <Link className={buttonClass()} href={`/layouts/${id}/contents?slot=${slot.id}`}>
          Contents
        </Link>
        {isStudied && (
          <Link className={buttonClass()} href={`/layouts/${id}/study?slot=${slot.id}`}>
            Study
          </Link>
        )}
      </p>
    </>
  );
}

/** What is inside a partition beside a FAT file system: exFAT, swap, a supplied file; and the way to its files. */
export function ContentFields({ placed }: { readonly placed: PlacedPartition }) {
  const { slot } = placed;
  const { content } = slot;
  return (
    <>
      {content?.kind === 'exfat' && <ExfatFields placed={placed} content={content} />}
      {content?.kind === 'swap' && <SwapFields placed={placed} content={content} />}
      {content && 'sha256' in content && <SuppliedFacts slot={slot} content={content} />}
      {(content === undefined || content.kind === 'left') && <LeftFields placed={placed} />}
      {content?.kind !== 'swap' && content?.kind !== 'zeros' && (
        <FilesLine slot={slot} isStudied={content?.kind === 'fat' || content?.kind === 'ext'} />
      )}
    </>
  );
}
