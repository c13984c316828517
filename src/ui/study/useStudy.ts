'use client';

import { useEffect, useState } from 'react';
import type { StudyAnswer, StudyAsked } from '../../workers/study';

/** Asks the worker whenever the question changes; the last answer stays until the next one is there. */
export function useStudy(asked: StudyAsked | undefined): StudyAnswer | undefined {
  const [answer, setAnswer] = useState<StudyAnswer>();
  const key =
    asked && JSON.stringify({ ...asked, files: asked.files.kind === 'sizes' ? [...asked.files.sizes] : asked.files });
  useEffect(() => {
    if (!asked) return;
    const worker = new Worker(new URL('../../workers/study.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<StudyAnswer>) => setAnswer(data);
    worker.postMessage(asked);
    return () => worker.terminate();
    // The question is the same as long as its text is.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return answer;
}
