'use client';

import { isLocked, keepsInside } from '@/core/layout/kept';
import { madeAs } from '@/core/filesystems/kinds';
import { useState } from 'react';
import type { LayoutView } from '@/contract/layouts';
import type { BlobView } from '@/contract/contents';
import { codeRoom } from '@/core/filesystems/fat/variants';
import { treeSums } from '@/core/filesystems/tree';
import type { Finding } from '@/core/findings/layout/finding';
import { fillingOf, storedTreeOf } from '@/core/layout/contents';
import { blobOf } from '@/core/filesystems/supplied';
import type { PartitionSlot, RawSlot } from '@/core/layout/document';
import type { Stored, StoredPart } from '@/core/filesystems/fields';
import {
  isPartition,
  isRaw,
  type Placed,
  type PlacedPartition,
  type PlacedRaw,
  type Placement,
} from '@/core/placement/placement';
import { codeTaken, takenOf } from '@/core/placement/supplied';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { CODE_LENGTH } from '@/core/tables/mbr';
import { ContentChoice } from '../designer/panels/ContentChoice';
import { ContentFields } from '../designer/panels/ContentFields';
import { DesignerProvider, useDesigner, useDesignerNow } from '../designer/state/context';
import { useUndoKeys } from '../designer/keys/useUndoKeys';
import { buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { Mark } from '../kit/Mark';
import { TextField } from '../kit/TextField';
import { TopBar } from '../kit/TopBar';
import { FilesPlace } from './FilesPlace';
import { SuppliedPlace } from './SuppliedPlace';
import { Remedies } from '../designer/bars/Findings';
import { Notice } from '../designer/bars/Notice';
import { UndoRedo } from '../designer/bars/UndoRedo';
import { FindingLine } from '../kit/FindingList';
import Link from 'next/link';

/** Key of the place that is no slot. */
const SECTOR_0 = 'sector 0';

function summaryOf(placed: Placed, { contents }: Placement): string {
  const { slot } = placed;
  if (isLocked(slot) && (slot.kind === 'raw' || keepsInside(slot))) return 'kept as it is';
  if (slot.kind === 'raw') return slot.blob?.name ?? 'empty: zeros';
  if (slot.kind !== 'partition') return '';
  const { content } = slot;
  if (content && 'name' in content) return content.name;
  if (content?.kind === 'swap') return 'swap';
  if (content?.kind === 'zeros') return 'overwritten with zeros';
  if (!fillingOf(slot)) return 'left to its system';
  const tree = storedTreeOf(slot, contents);
  if (!tree) return 'files …';
  const { files, bytes } = treeSums(tree);
  return files === 0 ? 'no files yet' : `${counted(files, 'file')}, ${inBinary(bytes)}`;
}

/** True for a finding about one of the places of this screen: a slot, or the code area of sector 0. */
function isAbout({ rule, place }: Finding, key: string): boolean {
  if (place.kind === 'slot') return place.id === key;
  if (key !== SECTOR_0 || place.kind !== 'table') return false;
  return ['content/', 'image/', 'code/sector-0', 'code/two-codes-for-sector-0'].some((start) => rule.startsWith(start));
}

function PlaceButton({
  title,
  summary,
  size,
  isChosen,
  worst,
  onChoose,
}: {
  readonly title: string;
  readonly summary: string;
  readonly size: string;
  readonly isChosen: boolean;
  readonly worst: 'stop' | 'risk' | undefined;
  readonly onChoose: () => void;
}) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      onClick={onChoose}
      className={`grid w-full grid-cols-[1fr_auto] gap-x-2 border-b border-hair px-4 py-1.5 text-left focus-visible:-outline-offset-2 ${isChosen ? 'bg-selected' : 'hover:bg-card'}`}
    >
      <b className="truncate font-semibold">{title}</b>
      <span className="font-mono text-sm text-soft">{size}</span>
      <span className="truncate text-soft">{summary}</span>
      <span className="justify-self-end">{worst && <Mark severity={worst} />}</span>
    </button>
  );
}

/** The places of the layout that can hold something, in the order of the medium. */
function Places({ chosen, choose }: { readonly chosen: string; readonly choose: (key: string) => void }) {
  const placement = useDesigner((state) => state.placement);
  const findings = useDesigner((state) => state.findings);
  const { table } = placement.layout;
  const worstOf = (isOwn: (finding: Finding) => boolean) => {
    const own = findings.filter((one) => isOwn(one) && one.accepted === undefined);
    return own.find((one) => one.severity === 'stop')
      ? 'stop'
      : own.find((one) => one.severity === 'risk')
        ? 'risk'
        : undefined;
  };
  return (
    <nav aria-label="Places" className="overflow-y-auto border-r border-line">
      {table.kind !== 'none' && (
        <PlaceButton
          title="Code area of sector 0"
          summary={table.code?.name ?? 'empty: zeros'}
          size={`${CODE_LENGTH} B`}
          isChosen={chosen === SECTOR_0}
          worst={worstOf((one) => isAbout(one, SECTOR_0))}
          onChoose={() => choose(SECTOR_0)}
        />
      )}
      {placement.placed
        .filter(({ slot }) => slot.kind !== 'free')
        .map((placed) => (
          <PlaceButton
            key={placed.slot.id}
            title={placed.slot.name}
            summary={summaryOf(placed, placement)}
            size={inBinary(placed.span.end - placed.span.start)}
            isChosen={chosen === placed.slot.id}
            worst={worstOf((one) => isAbout(one, placed.slot.id))}
            onChoose={() => choose(placed.slot.id)}
          />
        ))}
    </nav>
  );
}

/** Which bytes of a supplied file are meant. */
function PartFields({ part, onChange }: { readonly part: StoredPart; readonly onChange: (part: StoredPart) => void }) {
  const { sha256, name, size, from, take } = part;
  const put = (next: { from?: number | undefined; take?: number | undefined }) =>
    onChange({
      sha256,
      name,
      size,
      ...(next.from !== undefined && { from: next.from }),
      ...(next.take !== undefined && { take: next.take }),
    });
  return (
    <div className="mt-2 grid grid-cols-[120px_200px] items-center gap-x-2.5 gap-y-1.5">
      <TextField
        label="From its byte"
        mono
        value={String(from ?? 0)}
        echo={byteEcho}
        onCommit={(text) => put({ from: Number(text) || undefined, take })}
      />
      <TextField
        label="Bytes of it"
        mono
        value={take === undefined ? '' : String(take)}
        placeholder="all that follow"
        echo={byteEcho}
        onCommit={(text) => put({ from, take: Number(text) || undefined })}
      />
    </div>
  );
}

function CodePlace() {
  const { table } = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const now = useDesignerNow();
  if (table.kind === 'none') return null;
  // An upload may end late: what else was changed in the table meanwhile stays.
  const put = (code: StoredPart | undefined) =>
    commit({ do: 'change layout', patch: { table: { ...now().document.table, code } as typeof table } });
  return (
    <SuppliedPlace
      title="Boot code of sector 0"
      about={`What a BIOS runs first: bytes 0 to ${CODE_LENGTH - 1}. Behind them stand the disk signature and the table, which are written as ever. Of a whole boot sector of 512 bytes the first ${CODE_LENGTH} are taken.`}
      file={table.code}
      room={CODE_LENGTH}
      taken={codeTaken(table.code)?.length ?? 0}
      onFile={put}
      onNone={() => put(undefined)}
    >
      {table.code && <PartFields part={table.code} onChange={put} />}
    </SuppliedPlace>
  );
}

function byteEcho(draft: string) {
  return draft === '' || /^\d{1,15}$/.test(draft) ? undefined : { wrong: true, text: 'A whole number of bytes.' };
}

function RawPlace({ placed }: { readonly placed: PlacedRaw }) {
  const commit = useDesigner((state) => state.commit);
  const { slot, span } = placed;
  const put = (blob: RawSlot['blob']) => commit({ do: 'change slot', id: slot.id, patch: { blob } });
  return (
    <SuppliedPlace
      title="File in this range"
      about={`A raw range, bytes ${grouped(span.start)} to ${grouped(span.end - 1)} (${inBoth(span.end - span.start)}). A loader that a ROM reads from there lies here, to the byte; what it leaves is zeros.`}
      file={slot.blob}
      room={span.end - span.start}
      taken={takenOf(placed)?.length ?? 0}
      onFile={put}
      onNone={() => put(undefined)}
    >
      {slot.blob && <PartFields part={slot.blob} onChange={put} />}
    </SuppliedPlace>
  );
}

/** A partition without a file system made here: an image, or a file as it is. */
function WholePlace({ placed }: { readonly placed: PlacedPartition }) {
  const commit = useDesigner((state) => state.commit);
  const { slot, span } = placed;
  const { content } = slot;
  const file = content && 'sha256' in content ? content : undefined;
  const image = useDesigner((state) => blobOf(file?.sha256, state.placement.contents)?.image);
  // Only a FAT header is corrected, where its 32 bits can tell the place.
  const isCorrectable = image?.variant !== undefined && placed.start < 2 ** 32;
  const put = (next: PartitionSlot['content']) => commit({ do: 'change slot', id: slot.id, patch: { content: next } });
  const asImage = (stored: Stored, view: BlobView) =>
    put({ ...stored, kind: view.image || slot.role !== 'bios-boot' ? 'image' : 'file' });
  return (
    <SuppliedPlace
      title="File in this partition"
      about={`${inBoth(span.end - span.start)} without a file system made here. A prepared image of a file system can be put in as it is, or any other file: a loader for a BIOS boot partition, say.`}
      file={file}
      room={span.end - span.start}
      onFile={asImage}
      onNone={() => put(undefined)}
    >
      {content?.kind === 'image' && (isCorrectable || content.hidden !== undefined) && (
        <p className="mt-2 flex items-center gap-2">
          <span className="text-soft">Its place in its header</span>
          <Choice
            label="Its place in its header"
            dense
            value={content.hidden === undefined ? 'kept' : 'corrected'}
            options={[
              { value: 'kept', text: 'as it is' },
              { value: 'corrected', text: 'corrected' },
            ]}
            onChange={(value) => {
              const { hidden: _, ...rest } = content;
              put(value === 'corrected' ? { ...rest, hidden: 'corrected' } : rest);
            }}
          />
        </p>
      )}
    </SuppliedPlace>
  );
}

function VolumeCode({ placed }: { readonly placed: PlacedPartition }) {
  const commit = useDesigner((state) => state.commit);
  const now = useDesignerNow();
  const { slot } = placed;
  const { content } = slot;
  const fat = madeAs(placed, 'fat');
  if (content?.kind !== 'fat' || !fat?.ok) return null;
  const room = codeRoom(fat.value.variant);
  const put = (code: Stored | undefined) => {
    const current = now().document.slots.find(({ id }) => id === slot.id);
    if (current?.kind !== 'partition' || current.content?.kind !== 'fat') return;
    const { code: _, ...rest } = current.content;
    commit({ do: 'change slot', id: slot.id, patch: { content: code ? { ...rest, code } : rest } });
  };
  return (
    <div className="mt-4">
      <SuppliedPlace
        title="Boot code of this volume"
        about={`For the boot sector of the volume: ${room} bytes, or a whole sector of 512 of which that part is taken. Without it the sector says that the volume does not boot.`}
        file={content.code}
        room={content.code?.size === 512 ? 512 : room}
        onFile={put}
        onNone={() => put(undefined)}
      />
    </div>
  );
}

/** A partition: what is made in it or put into it, and what belongs to that. */
function PartitionPlace({ placed }: { readonly placed: PlacedPartition }) {
  const { slot } = placed;
  const { content } = slot;
  const isSwap = content?.kind === 'swap';
  return (
    <>
      <div className="mb-2 grid grid-cols-[76px_minmax(0,560px)] items-center gap-x-2.5 gap-y-1.5">
        <ContentChoice slot={slot} />
        {isSwap && <ContentFields placed={placed} />}
      </div>
      {fillingOf(slot) ? (
        <>
          <FilesPlace key={slot.id} placed={placed} />
          <VolumeCode placed={placed} />
        </>
      ) : content?.kind === 'zeros' ? (
        <p className="text-soft">
          Every byte of it is zeros once the image is on its medium, whatever was there before. Choose a file system to
          put files in, or “left” to put in an image or a file as it is.
        </p>
      ) : (
        !isSwap && <WholePlace key={slot.id} placed={placed} />
      )}
    </>
  );
}

function PlaceOf({ placed }: { readonly placed: Placed }) {
  if (isRaw(placed)) return <RawPlace key={placed.slot.id} placed={placed} />;
  return isPartition(placed) ? <PartitionPlace placed={placed} /> : null;
}

function PlaceFindings({ of }: { readonly of: string }) {
  const findings = useDesigner((state) => state.findings);
  const own = findings.filter((one) => isAbout(one, of));
  if (own.length === 0) return null;
  return (
    <ul aria-label="Findings" className="mt-4 border-t border-line pt-1">
      {own.map((finding) => (
        <FindingLine
          key={finding.rule + finding.sentence}
          finding={finding}
          below={
            finding.accepted === undefined &&
            finding.remedies.length + (finding.fileRemedies?.length ?? 0) > 0 && (
              <span className="col-start-2 flex flex-wrap gap-1">
                <Remedies finding={finding} />
              </span>
            )
          }
        />
      ))}
    </ul>
  );
}

function Screen({ first }: { readonly first: string | undefined }) {
  const view = useDesigner((state) => state.view);
  const placement = useDesigner((state) => state.placement);
  const [asked, choose] = useState(first);
  useUndoKeys();
  const chosen = placement.placed.find(({ slot }) => slot.id === asked);
  const fallback =
    placement.placed.find(({ slot }) => slot.kind === 'partition' && fillingOf(slot)) ?? placement.placed[0];
  const placed = asked === SECTOR_0 ? undefined : (chosen ?? fallback);
  const key = asked === SECTOR_0 ? SECTOR_0 : (placed?.slot.id ?? SECTOR_0);
  const title = placed ? placed.slot.name : 'Code area of sector 0';
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <TopBar title={placement.layout.name} detail={`revision ${view.revision}: contents`}>
        <UndoRedo />
        <Link className={buttonClass()} href={`/layouts/${view.id}`}>
          Back to the designer
        </Link>
        <Link className={buttonClass('primary')} href={`/layouts/${view.id}/build`}>
          Build image
        </Link>
      </TopBar>
      <Notice />
      <main id="main" tabIndex={-1} className="grid min-h-0 flex-1 grid-cols-[300px_1fr]">
        <Places chosen={key} choose={choose} />
        <section aria-label="Contents" className="overflow-y-auto px-5 py-3">
          <h2 className="mb-1 text-base font-semibold">{title}</h2>
          {placed ? <PlaceOf placed={placed} /> : <CodePlace />}
          <PlaceFindings of={placed?.slot.id ?? SECTOR_0} />
        </section>
      </main>
    </div>
  );
}

/** The screen of what goes into the partitions, raw ranges and code areas of a layout. */
export function ContentsScreen({ view, first }: { readonly view: LayoutView; readonly first: string | undefined }) {
  return (
    <DesignerProvider view={view}>
      <Screen first={first} />
    </DesignerProvider>
  );
}
