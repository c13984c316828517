/** A server of its own for measurements: started on a data folder, asked over the wire, its memory read from the system. */
import type { ChildProcess } from 'node:child_process';
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import type { BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import { endServer, startServer } from '../scripts/serving.mjs';

const PORT = 4321;
export const BASE = `http://127.0.0.1:${PORT}`;

function descendants(pid: number): number[] {
  const children = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((name) => {
      try {
        return (
          readFileSync(`/proc/${name}/stat`, 'utf8')
            .replace(/^.*\) /, '')
            .split(' ')[1] === String(pid)
        );
      } catch {
        return false;
      }
    })
    .map(Number);
  return [pid, ...children.flatMap(descendants)];
}

/** Sum of the peak resident memory of a process and its children, in MB. */
export function peakMemory(pid: number): number {
  const kilobytes = descendants(pid).map((one) =>
    Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${one}/status`, 'utf8'))![1]),
  );
  return (kilobytes.reduce((sum, n) => sum + n, 0) * 1024) / 1e6;
}

/** On a connection of its own: one that is kept may belong to the server of the section before. */
const OWN = { headers: { connection: 'close' } };

/** Posts JSON and reads the answer. */
export async function post<T>(url: string, body: unknown): Promise<T> {
  const response = await fetch(BASE + url, { method: 'POST', body: JSON.stringify(body), ...OWN });
  if (!response.ok) throw new Error(await response.text());
  return (await response.json()) as T;
}

/** Puts a layout on the shelf of the server and builds it; gives the build when it is done. */
export async function buildOnServer(document: Layout): Promise<BuildView> {
  const layout = await post<LayoutView>('/api/layouts', { document, note: 'bench' });
  const { id } = await post<BuildView>('/api/builds', { layoutId: layout.id, revision: 1 });
  for (;;) {
    const build = (await (await fetch(`${BASE}/api/builds/${id}`, OWN)).json()) as BuildView;
    if (build.state === 'done') return build;
    if (build.state === 'failed') throw new Error(build.failure!.sentence);
    await new Promise((resume) => setTimeout(resume, 100));
  }
}

/** Runs measurements against a server on a data folder, which is gone afterwards. */
export async function serving<T>(data: string, work: (server: ChildProcess) => Promise<T>): Promise<T> {
  const server = await startServer(PORT, data);
  try {
    return await work(server);
  } finally {
    await endServer(server, 'SIGKILL');
    rmSync(data, { recursive: true, force: true });
  }
}
