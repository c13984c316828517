'use client';

import { useEffect, useState } from 'react';
import type { FileSource, FolderView } from '@/contract/contents';
import { visible } from '@/core/bytes/record';
import { pathIn } from '@/core/filesystems/allocation';
import type { VolumeEntry } from '@/core/filesystems/volume';
import { grouped, inBoth } from '@/core/quantity/units';
import { listFileSources, listVolumeFolder } from '../api';
import { Button } from '../kit/Button';
import { Crumbs } from './Crumbs';

type From = { readonly of: string; readonly partition: string; readonly path: string };

interface Props {
  /** Takes a file, or what is in a folder, into a folder of the tree. */
  readonly take: (from: From, under: string) => Promise<void>;
  /** The folder of the tree that is shown. */
  readonly under: string;
  readonly close: () => void;
}

/** Most entries of a folder that are shown. */
const ROWS = 500;

/** What is in a folder of the volume; each entry can be taken. */
function Entries({
  view,
  open,
  takeOne,
  isBusy,
}: {
  readonly view: FolderView;
  readonly open: (path: string) => void;
  readonly takeOne: (entry: VolumeEntry) => void;
  readonly isBusy: boolean;
}) {
  const { entries } = view;
  if (entries.length === 0) return <p className="text-soft">This folder is empty.</p>;
  return (
    <>
      <table className="w-full">
        <tbody>
          {entries.slice(0, ROWS).map((one, i) => (
            <tr key={i} className="border-t border-hair font-mono text-sm">
              <td className="py-0.5">
                {one.folder ? (
                  <button
                    type="button"
                    className="rounded-sm hover:underline"
                    onClick={() => open(pathIn(view, one.name))}
                  >
                    {visible(one.name)}/
                  </button>
                ) : (
                  visible(one.name)
                )}
              </td>
              <td className="px-2 text-right">{one.folder ? '' : `${grouped(one.size)} B`}</td>
              <td className="px-2 text-soft">{one.time?.replace('T', ' ') ?? '–'}</td>
              <td className="py-0.5 text-right font-sans">
                {one.special === undefined ? (
                  <Button onClick={() => takeOne(one)} disabled={isBusy} aria-label={`Take ${one.name}`}>
                    Take
                  </Button>
                ) : (
                  <span className="text-soft">{one.special}</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {entries.length > ROWS && (
        <p className="text-soft">
          The first {grouped(ROWS)} of {grouped(entries.length)} are shown; all of them can be taken at once.
        </p>
      )}
    </>
  );
}

/** A volume of an image, opened folder by folder. */
function Opened({ source, take, under }: { readonly source: FileSource } & Omit<Props, 'close'>) {
  const { of, partition } = source;
  const [path, setPath] = useState('');
  const [view, setView] = useState<FolderView>();
  const [refused, setRefused] = useState<string>();
  const [isBusy, setBusy] = useState(false);
  useEffect(() => {
    let isWanted = true;
    void listVolumeFolder({ of, partition, path }).then((answer) => {
      if (!isWanted) return;
      if (answer.ok) setView(answer.value);
      setRefused(answer.ok ? undefined : answer.error.sentence);
    });
    return () => {
      isWanted = false;
    };
  }, [of, partition, path]);
  const run = async (from: string, into: string) => {
    setBusy(true);
    await take({ of, partition, path: from }, into);
    setBusy(false);
  };
  // A folder keeps its name; what is taken as a whole does not.
  const takeOne = ({ name, folder }: VolumeEntry) =>
    void run(pathIn({ path }, name), folder ? pathIn({ path: under }, name) : under);
  const bytes = view?.entries.reduce((sum, one) => sum + one.size, 0) ?? 0;
  return (
    <>
      <div className="my-1 flex items-center gap-3">
        <Crumbs label="Folder of the image" path={path} go={setPath} />
        <span className="flex-1 text-soft">{view && `${inBoth(bytes)} in the files of this folder`}</span>
        <Button look="primary" onClick={() => void run(path, under)} disabled={isBusy || view?.entries.length === 0}>
          {isBusy ? 'Taking …' : 'Take all of it, folders too'}
        </Button>
      </div>
      {(refused ?? view?.trouble) && (
        <p role="alert" className="text-stop">
          {refused ?? `This folder is damaged: ${view?.trouble}. What could be read is shown.`}
        </p>
      )}
      <div className="max-h-56 overflow-y-auto">
        {view && !refused && <Entries view={view} open={setPath} takeOne={takeOne} isBusy={isBusy} />}
      </div>
    </>
  );
}

/** Taking files from a volume of an image at hand: all of it, a folder, or one file. */
export function FromImage({ take, under, close }: Props) {
  const [sources, setSources] = useState<readonly FileSource[]>();
  const [chosen, setChosen] = useState(0);
  useEffect(() => {
    void listFileSources().then((answer) => setSources(answer.ok ? answer.value : []));
  }, []);
  const source = sources?.[chosen];
  if (!sources) return <p className="text-soft">Looking into the images at hand …</p>;
  return (
    <section aria-label="From an image" className="my-2 rounded-[6px] border border-line bg-card px-3 py-2">
      <div className="flex items-center gap-2">
        <b className="font-semibold">From an image</b>
        {source ? (
          <select
            aria-label="Volume of an image"
            value={chosen}
            onChange={(event) => setChosen(Number(event.target.value))}
            className="min-w-0 flex-1 rounded-[5px] border border-edge bg-card px-1 py-[3px]"
          >
            {sources.map((one, i) => (
              <option key={i} value={i}>
                {one.text}
              </option>
            ))}
          </select>
        ) : (
          <span className="flex-1">
            There is no image with a volume that can be browsed at hand. Send one on the shelf, under “Image files to
            survey”.
          </span>
        )}
        <Button look="quiet" onClick={close}>
          Close
        </Button>
      </div>
      {source && <Opened key={`${source.of} ${source.partition}`} source={source} take={take} under={under} />}
    </section>
  );
}
