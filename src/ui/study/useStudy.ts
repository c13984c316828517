'use client';

import { useEffect, useRef, useState } from 'react';
import type { ExtStudyAnswer, ExtStudyAsked, StudyAnswer, StudyAsked } from '../../workers/study';

/**
 * Asks the worker whenever the question changes; the last answer stays until the next one is there.
 * There is one worker for as long as the screen stands: it answers in the order in which it is asked. `said`: what
 * tells one question from another, where that is shorter than the question.
 */
export function useStudy(asked: StudyAsked): StudyAnswer | undefined;
export function useStudy(asked: ExtStudyAsked, key: string): ExtStudyAnswer | undefined;
export function useStudy(asked: StudyAsked | ExtStudyAsked, said?: string): StudyAnswer | ExtStudyAnswer | undefined {
  const [answer, setAnswer] = useState<StudyAnswer | ExtStudyAnswer>();
  const worker = useRef<Worker>(undefined);
  const key =
    said ??
    JSON.stringify(asked, (_, value: unknown) => (value instanceof Map ? [...(value as Map<number, number>)] : value));
  useEffect(() => {
    if (!worker.current) {
      worker.current = new Worker(new URL('../../workers/study.worker.ts', import.meta.url), { type: 'module' });
      worker.current.onmessage = ({ data }: MessageEvent<StudyAnswer | ExtStudyAnswer>) => setAnswer(data);
    }
    worker.current.postMessage(asked);
    // The question is the same as long as its text is.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = undefined;
    },
    [],
  );
  return answer;
}
