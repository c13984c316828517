'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type DragEvent, useRef, useState } from 'react';
import type { ImageFile, StrangeFile } from '@/contract/surveys';
import { visible } from '@/core/bytes/record';
import { inBoth } from '@/core/quantity/units';
import { fileUrl, removeFile, surveyUrl } from '../api';
import { Button, buttonClass } from '../kit/Button';
import { DeleteForGood } from '../kit/Sure';
import { send, type Sending } from '../upload/upload';
import { SendingProgress } from '../upload/UploadProgress';

function Line({ file, onRefused }: { file: ImageFile; onRefused: (sentence: string | undefined) => void }) {
  const router = useRouter();
  const remove = async () => {
    const answer = await removeFile(file.name);
    onRefused(answer.ok ? undefined : answer.error.sentence);
    router.refresh();
  };
  return (
    <li className="flex items-center gap-3 border-b border-hair py-1.5">
      <span className="font-mono text-sm font-semibold">{file.name}</span>
      <span className="min-w-0 flex-1 text-soft">
        {inBoth(file.size)}
        {file.story && <span className="block">{file.story}</span>}
      </span>
      <DeleteForGood name={file.name} question="Delete it from the disk?" onSure={() => void remove()} />
      <Link
        className="hover:underline"
        href={`/new?file=${encodeURIComponent(file.name)}`}
        aria-label={`Make a layout as large as ${file.name}`}
      >
        Layout of its size
      </Link>
      <Link className={buttonClass()} href={surveyUrl(`file:${file.name}`)} aria-label={`Survey ${file.name}`}>
        Survey
      </Link>
    </li>
  );
}

interface Props {
  readonly files: readonly ImageFile[];
  /** What lies there and is passed over. */
  readonly strange: readonly StrangeFile[];
  readonly folder: string;
}

/** Image files to survey: sent here, or put into the folder. */
export function ImageFiles({ files, strange, folder }: Props) {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<Sending>();
  const [refused, setRefused] = useState<string>();
  const [over, setOver] = useState(false);
  const take = async (list: FileList | null) => {
    setRefused(undefined);
    for (const file of list ?? []) {
      const answer = await send(fileUrl(file.name), file, file.name, setSending);
      if (!answer.ok) setRefused(answer.error.sentence);
    }
    router.refresh();
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void take(event.dataTransfer.files);
  };
  return (
    <section aria-label="Image files">
      <h2 className="mt-6 mb-1 flex items-center gap-3 text-base font-semibold">
        Image files to survey
        <input
          ref={input}
          type="file"
          className="hidden"
          aria-label="Image file"
          onChange={(event) => void take(event.target.files).finally(() => (event.target.value = ''))}
        />
        <Button onClick={() => input.current?.click()} disabled={sending !== undefined}>
          Send an image file
        </Button>
      </h2>
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={onDrop}
        className={over ? 'rounded-[6px] bg-selected' : ''}
      >
        {sending && <SendingProgress sending={sending} />}
        {refused && (
          <p role="alert" className="py-1 text-stop">
            {refused}
          </p>
        )}
        <ul>
          {files.map((file) => (
            <Line key={file.name} file={file} onRefused={setRefused} />
          ))}
        </ul>
        <p className="py-1 text-soft">
          {files.length === 0 && 'None yet. '}Drop a file here, or put it into{' '}
          <span className="font-mono text-sm">{folder}</span>. It is read and never changed.
        </p>
        {strange.length > 0 && (
          <p className="py-1 text-risk">
            Passed over there: {strange.map(({ name, what }) => `${visible(name)} (${what})`).join(', ')}.
          </p>
        )}
      </div>
    </section>
  );
}
