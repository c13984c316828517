import type { Metadata } from 'next';
import { listBench } from '@/server/bench';
import { currentContext } from '@/server/context';
import { BenchScreen } from '@/ui/bench/BenchScreen';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Bench · Loess' };

export default async function BenchPage() {
  return <BenchScreen view={await listBench(currentContext())} />;
}
