'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import type { BenchMedium, BenchView } from '@/contract/bench';
import type { DeviceUse } from '@/core/medium/device';
import { KIND_NAMES } from '@/core/medium/medium';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { surveyUrl } from '../api';
import { Button, buttonClass } from '../kit/Button';
import { TopBar } from '../kit/TopBar';

function inUseText({ kind, node, by }: DeviceUse): string {
  if (kind === 'mounted') return `${node} is mounted at ${by}`;
  return kind === 'swap' ? `${node} is used as swap` : `${node} is held by ${by}`;
}

function Facts({ device }: Pick<BenchMedium, 'device'>) {
  const { kind, bus, logicalSector, physicalSector, removable, readOnly, writeUnit, optimalIo } = device;
  const facts = [
    `${bus || 'unknown bus'}, ${KIND_NAMES[kind]}`,
    `sectors ${grouped(logicalSector)} in ${grouped(physicalSector)} B`,
    removable ? 'removable' : 'fixed',
    ...(readOnly ? ['read-only'] : []),
    ...(writeUnit > 0 ? [`write unit ${inBinary(writeUnit)}`] : []),
    ...(optimalIo > 0 ? [`optimal I/O ${grouped(optimalIo)} B`] : []),
  ];
  return <span className="text-soft">{facts.join(' · ')}</span>;
}

function Row({ medium: { device, distinctions, refused } }: { medium: BenchMedium }) {
  const { key, node, model, serial, size, uses, unread } = device;
  return (
    <li className="grid grid-cols-[230px_260px_1fr_auto] items-start gap-4 border-b border-line py-2.5">
      <div>
        <b className="block font-semibold">{model || 'no model given'}</b>
        <span className="block font-mono text-sm text-soft">{serial ? `serial ${serial}` : 'no serial given'}</span>
        {node && <span className="block font-mono text-sm text-soft">called {node} now</span>}
      </div>
      <div>
        <b className="block font-semibold">{inBoth(size, 'decimal')}</b>
        <span className="block font-mono text-sm text-soft">
          {grouped(Math.floor(size / device.logicalSector))} sectors
          <span className="block">{grouped(size)} bytes</span>
        </span>
      </div>
      <div>
        <span className="block">
          <Facts device={device} />
        </span>
        {uses.map((use, i) => (
          <span key={i} className="block text-risk">
            In use: {inUseText(use)}.
          </span>
        ))}
        {distinctions.length > 0 && (
          <span className="block">Looks like another one; told apart by {distinctions.join('; ')}.</span>
        )}
        {unread.map((one) => (
          <span key={one} className="block text-stop">
            Could not be read: {one}.
          </span>
        ))}
        {refused && <span className="block text-stop">{refused}</span>}
      </div>
      <div className="flex gap-1.5">
        {device.simulated && (
          <Link
            className={buttonClass()}
            href={surveyUrl(`bench:${key.replace(/^simulated:/, '')}`)}
            aria-label={`Survey ${model}, ${serial}`}
          >
            Survey
          </Link>
        )}
        {refused === null && (
          <Link
            className={buttonClass()}
            href={`/new?bench=${encodeURIComponent(key)}`}
            aria-label={`Make a layout for ${model}, ${serial || node}`}
          >
            Make a layout for it
          </Link>
        )}
      </div>
    </li>
  );
}

/** The media at hand: the machine's own, only looked at, and simulated ones to practise on. */
export function BenchScreen({ view }: { view: BenchView }) {
  const router = useRouter();
  const real = view.media.filter(({ device }) => !device.simulated);
  const simulated = view.media.filter(({ device }) => device.simulated);
  return (
    <>
      <TopBar title="Bench" detail="media at hand: only looked at, never written">
        <Button onClick={() => router.refresh()}>Look again</Button>
        <Link className={buttonClass()} href="/">
          Back to the shelf
        </Link>
      </TopBar>
      <main id="main" tabIndex={-1} className="mx-auto max-w-[1240px] px-5 py-4">
        <h2 className="text-base font-semibold">Of this machine</h2>
        <p className="text-soft">
          {real.length === 0
            ? 'The system shows no block device here. Plug one in and look again, or practise on the simulated media below.'
            : `${counted(real.length, 'medium').replace('mediums', 'media')}. Names change between boots: go by size, model and serial.`}
        </p>
        <ul>
          {real.map((one) => (
            <Row key={one.device.key} medium={one} />
          ))}
        </ul>
        <h2 className="mt-6 text-base font-semibold">Simulated</h2>
        <p className="text-soft">
          Sparse files with a description beside them, in the data folder: nothing can go wrong on them.
        </p>
        <ul aria-label="Simulated media">
          {simulated.map((one) => (
            <Row key={one.device.key} medium={one} />
          ))}
        </ul>
      </main>
    </>
  );
}
