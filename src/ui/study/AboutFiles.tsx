'use client';

import { type ReactNode, useState } from 'react';
import { TYPICAL_MIXES, type TypicalMix } from '@/core/filesystems/fat/study';
import { counted, inBoth } from '@/core/quantity/units';
import type { StudiedFiles } from '../../workers/study';
import { Choice } from '../kit/Choice';
import { Select } from '../kit/Select';

/** Which files a study is about. */
type About = 'files' | 'list' | 'mix';

const MIXES = Object.keys(TYPICAL_MIXES) as TypicalMix[];

/** Which files a study is about, and how a person changes that. */
export function useAbout(hasFiles: boolean) {
  const [chosen, choose] = useState<About>();
  const [list, setList] = useState('');
  const [mix, setMix] = useState<TypicalMix>('readings of instruments');
  const kind: About = chosen ?? (hasFiles ? 'files' : 'mix');
  /** The sizes that are meant, where it is not the files of the slot. */
  const sizes = (usable: number): Exclude<StudiedFiles, { kind: 'load' }> | undefined => {
    if (kind === 'files') return undefined;
    return kind === 'list' ? { kind: 'list', text: list } : { kind: 'mix', mix, usable };
  };
  return { kind, choose, list, setList, mix, setMix, sizes };
}

/** The choice of files that a study is about; what is said of the answer stands beside it. */
export function AboutFiles({
  files,
  hasFiles,
  children,
}: {
  readonly files: ReturnType<typeof useAbout>;
  readonly hasFiles: boolean;
  readonly children: ReactNode;
}) {
  const { kind, choose, list, setList, mix, setMix } = files;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <span className="text-soft">For</span>
        <Choice<About>
          label="Which files"
          value={kind}
          options={[
            {
              value: 'files',
              text: 'the files of this slot',
              disabled: hasFiles ? undefined : 'The slot has no files yet.',
            },
            { value: 'list', text: 'a list of sizes' },
            { value: 'mix', text: 'a typical mix' },
          ]}
          onChange={choose}
        />
        {kind === 'mix' && (
          <span className="w-56">
            <Select
              label="Mix"
              value={mix}
              options={MIXES.map((value) => ({ value, text: value }))}
              onChange={setMix}
            />
          </span>
        )}
        {children}
      </div>
      {kind === 'list' && (
        <textarea
          aria-label="Sizes, one a line"
          value={list}
          onChange={(event) => setList(event.target.value)}
          placeholder={'one size a line, a name may follow:\n1024 BUOY07.CSV\n2.5 MiB kernel'}
          rows={4}
          className="mt-2 w-full rounded-[5px] border border-edge bg-card px-2 py-1 font-mono text-sm"
        />
      )}
    </>
  );
}

/** What an answer says of the files that it is about. */
interface Answered {
  readonly files: number;
  readonly bytes: number;
  readonly skipped: number;
  readonly milliseconds: number;
}

/** What the answer is about, in words. */
export function AboutText({ answer, about }: { readonly answer: Answered; readonly about: About }) {
  const skipped = answer.skipped > 0 ? `; ${counted(answer.skipped, 'line')} without a size` : '';
  return (
    <p aria-live="polite" className="text-soft">
      {counted(answer.files, 'file')}, {inBoth(answer.bytes)}
      {about === 'mix' && ', made up: about half of the volume'}
      {skipped}; computed in {Math.ceil(answer.milliseconds)} ms beside the page
    </p>
  );
}
