'use client';

import { useCallback, useEffect, useState } from 'react';
import type { BuildView } from '@/contract/builds';
import { getBuild } from '../api';

/** How often a job that runs is asked for. */
const INTERVAL = 250;

function isMoving(build: BuildView): boolean {
  return [build.state, build.digest.state].some((state) => state === 'waiting' || state === 'running');
}

/** A list of builds that follows those that still run. */
export function useBuilds(first: readonly BuildView[]) {
  const [builds, setBuilds] = useState(first);
  const refresh = useCallback(async (id: string) => {
    const answer = await getBuild(id);
    setBuilds((list) =>
      answer.ok
        ? list.map((one) => (one.id === id ? answer.value : one))
        : list.filter((one) => answer.error.status !== 404 || one.id !== id),
    );
  }, []);
  const moving = builds.filter(isMoving).map((build) => build.id).join(' ');
  useEffect(() => {
    if (moving === '') return undefined;
    const timer = setInterval(() => void Promise.all(moving.split(' ').map(refresh)), INTERVAL);
    return () => clearInterval(timer);
  }, [moving, refresh]);
  return { builds, refresh, add: (build: BuildView) => setBuilds((list) => [build, ...list]) };
}
