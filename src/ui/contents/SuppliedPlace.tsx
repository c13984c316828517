'use client';

import { type ReactNode, useEffect, useRef, useState } from 'react';
import type { BlobView } from '@/contract/contents';
import { blobOf, type ImageFacts } from '@/core/filesystems/supplied';
import type { Stored } from '@/core/filesystems/fields';
import { counted, grouped, inBoth } from '@/core/quantity/units';
import { contentUrl, storedUrl } from '../api';
import { useDesigner } from '../designer/state/context';
import { Button, buttonClass } from '../kit/Button';
import { send, type Sending } from '../upload/upload';
import { follow, showsItself } from '../upload/uploads';
import { SendingProgress } from '../upload/UploadProgress';
import { useDrop } from '../kit/useDrop';

interface Props {
  readonly title: string;
  /** What belongs here and how much of it. */
  readonly about: ReactNode;
  readonly file: Stored | undefined;
  readonly onFile: (file: Stored, view: BlobView) => void;
  readonly onNone: () => void;
  /** Bytes of the place. */
  readonly room: number;
  /** Bytes of the file that come into it, where those are not all. */
  readonly taken?: number;
  readonly children?: ReactNode;
}

function ImageLines({ image }: { readonly image: ImageFacts }) {
  const lines: (readonly [string, string])[] = [
    ['Holds', image.name],
    ['Label', image.label || 'none'],
    ...(image.id ? [['Id', image.id] as const] : []),
    ...(image.bytes === undefined ? [] : [['Its size', inBoth(image.bytes)] as const]),
    ...(image.sectorSize === undefined ? [] : [['Sectors of', `${image.sectorSize} B`] as const]),
    ...(image.used === undefined ? [] : [['In use', inBoth(image.used)] as const]),
    ...(image.hidden === undefined ? [] : [['Says it starts at', `sector ${grouped(image.hidden)}`] as const]),
  ];
  return (
    <dl className="mt-2 grid grid-cols-[120px_1fr] gap-y-0.5">
      {lines.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-soft">{name}</dt>
          <dd className="font-mono text-sm">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** A place that takes one file that a person supplies. */
export function SuppliedPlace({ title, about, file, onFile, onNone, room, taken = file?.size ?? 0, children }: Props) {
  const contents = useDesigner((state) => state.placement.contents);
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<Sending>();
  const [uploadId, setUploadId] = useState<string>();
  const [refused, setRefused] = useState<string>();
  const layoutName = useDesigner((state) => state.document.name);
  const facts = blobOf(file?.sha256, contents);
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    const followed = follow(`“${chosen.name}” as ${title.toLowerCase()} of ${layoutName}`);
    setUploadId(followed.id);
    const answer = await send<BlobView>(contentUrl('blob', { name: chosen.name }), chosen, chosen.name, (state) => {
      setSending(state);
      followed.progress(state);
    });
    setRefused(answer.ok ? undefined : answer.error.sentence);
    if (answer.ok) {
      const { sha256, name, size } = answer.value;
      onFile({ sha256, name, size }, answer.value);
    }
    followed.over(answer.ok, answer.ok ? 'It is in.' : answer.error.sentence);
  };
  useEffect(() => (uploadId === undefined ? undefined : showsItself(uploadId)), [uploadId]);
  const { isOver, handlers } = useDrop(({ files }) => void take(files[0]));
  return (
    <section
      aria-label={title}
      {...handlers}
      className={`rounded-[6px] border border-line bg-card px-3 py-2 ${isOver ? 'bg-selected' : ''}`}
    >
      <h3 className="font-semibold">{title}</h3>
      <p className="text-soft">{about}</p>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label={`Choose a file: ${title}`}
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      {sending && <SendingProgress sending={sending} />}
      {refused && (
        <p role="alert" className="text-stop">
          {refused}
        </p>
      )}
      {file && (
        <p className="mt-2">
          <span className="font-mono text-sm font-semibold">{file.name}</span>
          {`, ${counted(file.size, 'byte')} (${inBoth(file.size)}) `}
          <span className={taken > room ? 'text-stop' : 'text-soft'}>
            {taken < file.size && `(${grouped(taken)} of them taken) `}of {grouped(room)} bytes here
            {taken > room && `: ${grouped(taken - room)} too many`}
          </span>
          <span className="block font-mono text-xs break-all text-soft">{file.sha256}</span>
        </p>
      )}
      {facts?.image && <ImageLines image={facts.image} />}
      {children}
      <p className="mt-2 flex gap-1.5">
        <Button onClick={() => input.current?.click()} disabled={sending !== undefined}>
          {file ? 'Another file …' : 'Choose a file …'}
        </Button>
        {file && (
          <>
            <a className={buttonClass()} href={storedUrl(file.sha256, file.name)} download>
              Download
            </a>
            <Button onClick={onNone}>Leave it empty</Button>
          </>
        )}
      </p>
    </section>
  );
}
