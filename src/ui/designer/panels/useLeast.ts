'use client';

import { useEffect, useRef, useState } from 'react';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import type { Site } from '@/core/filesystems/kind';
import type { Tree } from '@/core/filesystems/tree';
import type { LeastAnswer, LeastAsked } from '../../../workers/least';

/** Bytes of the smallest slot for an ext file system and its files, worked out beside the page; undefined until it is known, null where there is none. */
export function useLeast(content: ExtContent, site: Site, tree: Tree): number | null | undefined {
  const [answer, setAnswer] = useState<LeastAnswer>();
  const worker = useRef<Worker>(undefined);
  const sent = useRef<Tree>(undefined);
  const { sectors: _, ...place } = site;
  const key = JSON.stringify([content, place]);
  useEffect(() => {
    if (!worker.current) {
      worker.current = new Worker(new URL('../../../workers/least.worker.ts', import.meta.url), { type: 'module' });
      worker.current.onmessage = ({ data }: MessageEvent<LeastAnswer>) => setAnswer(data);
    }
    const asked: LeastAsked = { key, content, site: place, ...(sent.current !== tree && { tree }) };
    sent.current = tree;
    worker.current.postMessage(asked);
    // The question is the same as long as its text is.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, tree]);
  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = undefined;
      sent.current = undefined;
    },
    [],
  );
  if (answer?.key !== key) return undefined;
  return answer.bytes ?? null;
}
