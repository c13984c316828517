'use client';

import Link from 'next/link';
import { useRef } from 'react';
import type { FolderView } from '@/contract/contents';
import { visible } from '@/core/bytes/record';
import type { EntryOwned } from '@/core/filesystems/volume';
import { counted, grouped, inBoth } from '@/core/quantity/units';
import { folderUrl, surveyUrl, volumeFileUrl } from '../api';
import { buttonClass } from '../kit/Button';
import { Spacer } from '../kit/Spacer';
import { TopBar } from '../kit/TopBar';
import { useLongRows } from '../kit/useLongRows';
import { VolumePanel } from './VolumePanel';

/** Height of a row in pixels, before it is measured. */
const ROW = 25;

/** Mode in octal, owner and group by number; names, where it has several. */
function ownedText({ mode, user, group, names }: EntryOwned, isFolder: boolean): string {
  const several = !isFolder && names > 1 ? `, ${grouped(names)} names` : '';
  return `${mode.toString(8).padStart(4, '0')} ${user}:${group}${several}`;
}

/** What is in the folder, each file to fetch. */
function Entries({ view: { of, partition, path, entries, numbers } }: { readonly view: FolderView }) {
  const body = useRef<HTMLTableSectionElement>(null);
  const { rows, above, below, measure } = useLongRows(body, entries.length, ROW);
  const at = (to: string) => folderUrl({ of, partition, path: to });
  const inside = (name: string) => (path === '' ? name : `${path}/${name}`);
  const hasAliases = entries.some((one) => one.alias);
  const isOwned = entries.some((one) => one.owned);
  return (
    <table className="w-full" aria-rowcount={entries.length + 1}>
      <thead>
        <tr className="border-b border-line text-left text-xs text-soft">
          <th className="py-1 font-normal">name</th>
          {hasAliases && <th className="px-2 font-normal">alias</th>}
          <th className="px-2 text-right font-normal">bytes</th>
          <th className="px-2 font-normal">written</th>
          <th className="px-2 font-normal">{isOwned ? 'mode, owner and group' : 'attributes'}</th>
          <th className="px-2 text-right font-normal">{numbers}</th>
        </tr>
      </thead>
      <tbody ref={body}>
        <Spacer height={above} />
        {rows.map(({ index }) => {
          const one = entries[index]!;
          return (
            <tr
              key={index}
              ref={measure}
              data-index={index}
              aria-rowindex={index + 2}
              className="border-b border-hair font-mono text-sm"
            >
              <td className="py-0.5">
                {one.folder ? (
                  <Link className="hover:underline" href={at(inside(one.name))}>
                    {visible(one.name)}/
                  </Link>
                ) : one.special !== undefined ? (
                  <>
                    {visible(one.name)}{' '}
                    <span className="font-sans text-soft">
                      {one.special}
                      {one.target !== undefined && ` to ${visible(one.target)}`}
                    </span>
                  </>
                ) : (
                  <a
                    className="underline decoration-hair underline-offset-2 hover:decoration-current"
                    href={volumeFileUrl({ of, partition, path: inside(one.name) })}
                    download
                    title="Download"
                  >
                    {visible(one.name)}
                  </a>
                )}
              </td>
              {hasAliases && <td className="px-2 text-soft">{one.alias && visible(one.alias)}</td>}
              <td className="px-2 text-right">{one.folder || one.special !== undefined ? '' : grouped(one.size)}</td>
              <td className="px-2 text-soft">{one.time?.replace('T', ' ') ?? '–'}</td>
              <td className="px-2 text-soft">
                {one.owned ? (
                  ownedText(one.owned, one.folder)
                ) : (
                  <span className="font-sans">{one.attributes.join(', ')}</span>
                )}
              </td>
              <td className="px-2 text-right text-soft">{one.cluster === 0 ? '–' : grouped(one.cluster)}</td>
            </tr>
          );
        })}
        <Spacer height={below} />
      </tbody>
    </table>
  );
}

/** A folder of a volume: what is in it, each file to fetch. */
export function FolderScreen({ view }: { readonly view: FolderView }) {
  const { of, partition, path, entries } = view;
  const names = path === '' ? [] : path.split('/');
  const at = (to: string) => folderUrl({ of, partition, path: to });
  const bytes = entries.reduce((sum, one) => sum + one.size, 0);
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <TopBar title={view.name} detail={`${view.volume}: files, read only`}>
        <Link className={buttonClass()} href={surveyUrl(of)}>
          Back to the survey
        </Link>
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <main id="main" tabIndex={-1} className="min-h-0 min-w-0 flex-1 overflow-y-auto px-5 py-3">
          <nav aria-label="Folder" className="flex flex-wrap items-center gap-1 font-mono text-sm">
            <Link className="hover:underline" href={at('')}>
              volume
            </Link>
            {names.map((name, i) => (
              <span key={i} className="flex gap-1">
                <span className="text-soft">/</span>
                <Link className="hover:underline" href={at(names.slice(0, i + 1).join('/'))}>
                  {visible(name)}
                </Link>
              </span>
            ))}
          </nav>
          <p className="my-1 text-soft">
            {view.kind}; {counted(entries.filter((one) => one.folder).length, 'folder')} and{' '}
            {counted(entries.filter((one) => !one.folder && one.special === undefined).length, 'file')} here,{' '}
            {inBoth(bytes)}.
            {entries.some((one) => !one.folder && one.special === undefined) && ' The name of a file fetches it.'}
          </p>
          {view.remark && <p className="my-1 text-risk">{view.remark}</p>}
          {view.trouble && (
            <p role="alert" className="my-1 text-stop">
              This folder is damaged: {view.trouble}. What could be read is shown.
            </p>
          )}
          {entries.length === 0 ? <p className="mt-4 text-soft">This folder is empty.</p> : <Entries view={view} />}
        </main>
        <VolumePanel view={view} />
      </div>
    </div>
  );
}
