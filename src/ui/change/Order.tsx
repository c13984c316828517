'use client';

import { useState } from 'react';
import type { BuildView } from '@/contract/builds';
import type { Slot } from '@/core/layout/document';
import type { Answer } from '../api';
import { BuildCard } from '../build/BuildCard';
import { useBuilds } from '../build/useBuilds';
import { Button } from '../kit/Button';

interface Props {
  /** What the old image is called. */
  readonly name: string;
  /** Why none can be made. */
  readonly obstacle: string | undefined;
  readonly order: () => Promise<Answer<BuildView>>;
  readonly first: readonly BuildView[];
  readonly slots: readonly Slot[];
}

/** The button that orders the new image, below all that it does, and the images that were ordered. */
export function Order({ name, obstacle, order, first, slots }: Props) {
  const { builds, add, refresh } = useBuilds(first);
  const [refused, setRefused] = useState<string>();
  const start = async () => {
    const answer = await order();
    if (answer.ok) add(answer.value);
    setRefused(answer.ok ? undefined : answer.error.sentence);
  };
  return (
    <>
      <div className="mt-4 mb-3 flex items-center gap-3 border-t border-line pt-3">
        <Button look="primary" onClick={() => void start()} disabled={obstacle !== undefined} className="px-4 py-1.5">
          Make the new image
        </Button>
        <span className="text-soft" aria-live="polite">
          {obstacle ?? `“${name}” is only read; the new one is compared with it byte by byte.`}
        </span>
      </div>
      {refused && (
        <p role="alert" className="mb-3 text-stop">
          {refused}
        </p>
      )}
      {builds.map((build) => (
        <BuildCard key={build.id} build={build} slots={slots} onChange={refresh} />
      ))}
    </>
  );
}
