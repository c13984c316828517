'use client';

import { useEffect, useState } from 'react';
import type { FileSource } from '@/contract/contents';
import { listFileSources } from '../api';
import { Button } from '../kit/Button';

interface Props {
  readonly take: (from: { of: string; partition: string; path: string }) => Promise<void>;
  readonly close: () => void;
}

/** Taking files from a volume of an image at hand: all of it, or one folder or file. */
export function FromImage({ take, close }: Props) {
  const [sources, setSources] = useState<readonly FileSource[]>();
  const [chosen, setChosen] = useState(0);
  const [path, setPath] = useState('');
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    void listFileSources().then((answer) => setSources(answer.ok ? answer.value : []));
  }, []);
  const source = sources?.[chosen];
  const go = async () => {
    if (!source) return;
    setBusy(true);
    await take({
      of: source.of,
      partition: source.partition,
      path: path.replaceAll('\\', '/').replace(/^\/+|\/+$/g, ''),
    });
    close();
  };
  if (!sources) return <p className="text-soft">Looking into the images at hand …</p>;
  return (
    <section
      aria-label="From an image"
      className="my-1 flex flex-wrap items-center gap-2 rounded-[5px] bg-selected px-2 py-1.5"
    >
      {source ? (
        <>
          <select
            aria-label="Volume"
            value={chosen}
            onChange={(event) => setChosen(Number(event.target.value))}
            className="max-w-[360px] rounded-[5px] border border-edge bg-card px-1 py-[3px]"
          >
            {sources.map((one, i) => (
              <option key={i} value={i}>
                {one.text}
              </option>
            ))}
          </select>
          <input
            aria-label="Folder or file in it"
            placeholder="all of it, or a path as in EFI\BOOT"
            value={path}
            onChange={(event) => setPath(event.target.value)}
            className="w-56 rounded-[5px] border border-edge bg-card px-2 py-[2px] font-mono text-sm"
          />
          <Button look="primary" onClick={() => void go()} disabled={busy}>
            {busy ? 'Taking …' : 'Take them'}
          </Button>
        </>
      ) : (
        <span className="flex-1">
          There is no image with a FAT or exFAT volume at hand. Send one on the shelf, under “Image files to survey”.
        </span>
      )}
      <Button look="quiet" onClick={close}>
        Close
      </Button>
    </section>
  );
}
