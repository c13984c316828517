import type { Metadata } from 'next';
import type { MediumSpec } from '@/core/layout/document';
import { mediumOfDevice } from '@/core/medium/device';
import { exactText } from '@/core/quantity/units';
import { benchDevice } from '@/server/bench';
import { currentContext } from '@/server/context';
import { imageFile } from '@/server/image-folder';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { StartPageQuery } from '@/server/requests/queries';
import { StartScreen } from '@/ui/start/StartScreen';
import { Refused } from '@/ui/survey/Refused';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Start · Loess' };

type Query = { searchParams: Promise<object> };

/** A medium of the bench as a document says it: exactly its sectors; or why it cannot be one. */
async function fromBench(key: string): Promise<{ name: string; medium: MediumSpec } | string> {
  const device = await benchDevice(currentContext(), key);
  const medium = mediumOfDevice(device);
  if (typeof medium === 'string') return medium;
  const { kind, capacity, logicalSector, physicalSector, writeUnit, optimalIo } = medium;
  const sectors = Math.floor(capacity / logicalSector);
  return {
    name: device.model || device.serial || 'a medium',
    medium: {
      kind,
      capacity: { exact: `${sectors} sectors` },
      logicalSector,
      physicalSector,
      ...(writeUnit > 0 && { writeUnit: exactText(writeUnit, logicalSector) }),
      ...(optimalIo > 0 && { optimalIo: exactText(optimalIo, logicalSector) }),
    },
  };
}

/** An image file of exactly the size of another. */
async function fromFile(name: string): Promise<{ name: string; medium: MediumSpec } | string> {
  const { size } = await imageFile(currentContext(), name);
  if (size === 0) return `“${name}” is empty: no layout has room in it.`;
  const exact = exactText(size, 512);
  return { name, medium: { kind: 'image', capacity: { exact }, logicalSector: 512, physicalSector: 512 } };
}

export default async function StartPage({ searchParams }: Query) {
  const query = await pageQuery(searchParams, StartPageQuery);
  if (typeof query === 'string') return <Refused sentence={query} />;
  const { start, bench, file } = query;
  const asked = bench !== undefined ? fromBench(bench) : file !== undefined ? fromFile(file) : undefined;
  const found = asked && (await orSentence(asked));
  if (typeof found === 'string') return <Refused sentence={found} />;
  return <StartScreen key={`${start ?? ''} ${bench ?? ''} ${file ?? ''}`} startKey={start} bench={found} />;
}
