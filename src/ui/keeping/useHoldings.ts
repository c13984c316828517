'use client';

import { useCallback, useEffect, useState } from 'react';
import type { FolderOrder, Holdings } from '@/contract/keeping';
import { type Answer, getCheck, getHoldings, orderOfFolder } from '../api';

/** How often a check that runs is asked for, in milliseconds. */
const INTERVAL = 400;

/** What the data folder holds, and orders about it. It follows a check that runs. */
export function useHoldings(first: Holdings) {
  const [holdings, setHoldings] = useState(first);
  const [refused, setRefused] = useState<string>();
  const [isBusy, setBusy] = useState(false);
  const take = useCallback((answer: Answer<Holdings>) => {
    if (answer.ok) setHoldings(answer.value);
    setRefused(answer.ok ? undefined : answer.error.sentence);
  }, []);
  const order = async (what: FolderOrder) => {
    setBusy(true);
    const { limits } = holdings;
    // A limit stands in its field while it is saved.
    if (what.do === 'limit') setHoldings((now) => ({ ...now, limits: what }));
    const answer = await orderOfFolder(what);
    if (what.do === 'limit' && !answer.ok) setHoldings((now) => ({ ...now, limits }));
    take(answer);
    setBusy(false);
  };
  const isChecking = holdings.check.progress !== null;
  useEffect(() => {
    if (!isChecking) return undefined;
    const follow = async () => {
      const answer = await getCheck();
      if (!answer.ok) return;
      // What it came to may have changed what there is.
      if (answer.value.progress) setHoldings((now) => ({ ...now, check: answer.value }));
      else take(await getHoldings());
    };
    const timer = setInterval(() => void follow(), INTERVAL);
    return () => clearInterval(timer);
  }, [isChecking, take]);
  return { holdings, refused, isBusy, order };
}
