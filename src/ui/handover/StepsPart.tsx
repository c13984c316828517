'use client';

import { useState } from 'react';
import { mountLines } from '@/core/naming/mount-table';
import type { MachineMedium } from '@/core/naming/nameable';
import { imageSteps, type Step, stepsFor, titleOf } from '@/core/handover/steps';
import { Select } from '../kit/Select';
import { CopyButton } from './CopyButton';
import { tieKey } from './ties';

function Steps({ steps }: { readonly steps: readonly Step[] }) {
  return (
    <ol className="mt-2 max-w-[900px]">
      {steps.map(({ title, why, commands }, i) => (
        <li key={i} className="grid grid-cols-[26px_1fr] border-t border-hair py-2 first:border-t-0">
          <span className="text-soft tabular-nums">{i + 1}</span>
          <div className="min-w-0">
            <p>
              <b className="font-semibold">{title}.</b> <span className="text-soft">{why}</span>
            </p>
            <ul className="mt-1">
              {commands.map((command) => (
                <li key={command} className="flex items-center gap-2">
                  <code className="overflow-x-auto font-mono text-sm whitespace-pre">{command}</code>
                  <CopyButton text={command} name={`Copy ${command}`} />
                </li>
              ))}
            </ul>
          </div>
        </li>
      ))}
    </ol>
  );
}

/** How each file system is mounted by hand, before the table has it. */
export function StepsPart({ media }: { readonly media: readonly MachineMedium[] }) {
  const all = [
    ...mountLines(media).map((line) => ({
      value: tieKey(line.of),
      text: titleOf(line, media.length > 1),
      steps: () => stepsFor(line, media),
    })),
    ...media
      .filter(({ placement }) => placement.layout.medium.kind === 'image')
      .map((medium) => ({
        value: medium.name,
        text: `The image of ${medium.name}: attach and detach`,
        steps: () => imageSteps(medium, `${medium.name}.img`),
      })),
  ];
  const [asked, setAsked] = useState<string>();
  const chosen = all.find(({ value }) => value === asked) ?? all[0];
  if (!chosen) return <p className="text-soft">Nothing is mounted: no partition has a mount point.</p>;
  return (
    <>
      <p className="flex items-center gap-3">
        <span className="text-soft">Steps for</span>
        <span className="w-96">
          <Select label="Steps for" value={chosen.value} options={all} onChange={setAsked} />
        </span>
        <span className="text-sm text-soft">As the administrator, on the machine.</span>
      </p>
      <Steps steps={chosen.steps()} />
    </>
  );
}
