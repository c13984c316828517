'use client';

import { useRef, useState } from 'react';
import { type NameRules, nameTrouble } from '@/core/filesystems/names';
import { Button } from '../kit/Button';
import { TextField } from '../kit/TextField';
import { chosenFiles } from './tar';
import type { TreeWork } from './useTree';

/** The buttons that bring files in. */
export function Bringing({
  work,
  path,
  rules,
  openFromImage,
}: {
  readonly work: TreeWork;
  readonly path: string;
  /** What names here are for. */
  readonly rules: NameRules;
  readonly openFromImage: () => void;
}) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [naming, setNaming] = useState(false);
  const isBusy = work.sending !== undefined;
  const take = (list: FileList | null) => {
    if (list && list.length > 0) void work.add(chosenFiles(list), path);
  };
  return (
    <div className="my-2 flex flex-wrap items-center gap-1.5">
      <input
        ref={files}
        type="file"
        multiple
        className="hidden"
        aria-label="Files to put in"
        onChange={(event) => {
          take(event.target.files);
          event.target.value = '';
        }}
      />
      <input
        ref={(element) => {
          folder.current = element;
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        className="hidden"
        aria-label="Folder to put in"
        onChange={(event) => {
          take(event.target.files);
          event.target.value = '';
        }}
      />
      <Button onClick={() => files.current?.click()} disabled={isBusy}>
        Files or an archive …
      </Button>
      <Button onClick={() => folder.current?.click()} disabled={isBusy}>
        A folder …
      </Button>
      <Button onClick={openFromImage} disabled={isBusy}>
        From an image …
      </Button>
      {naming ? (
        <span className="grid w-72 grid-cols-[76px_1fr] items-center gap-x-2">
          <TextField
            label="New folder"
            autoFocus
            mono
            value=""
            echo={(draft) =>
              draft === '' || nameTrouble(draft, rules) === undefined
                ? undefined
                : { wrong: true, text: `That ${nameTrouble(draft, rules)}.` }
            }
            onCommit={(name) => {
              setNaming(false);
              void work.change({ do: 'folder', path: path === '' ? name : `${path}/${name}` });
            }}
          />
        </span>
      ) : (
        <Button onClick={() => setNaming(true)} disabled={isBusy}>
          An empty folder …
        </Button>
      )}
    </div>
  );
}
