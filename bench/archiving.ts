/** What measurements of archives have in common: the system's own archiver beside us, and an archive that is sent. */
import { execFileSync } from 'node:child_process';
import { createReadStream, mkdirSync, rmSync, statSync } from 'node:fs';
import { request } from 'node:http';
import { pipeline } from 'node:stream/promises';
import type { TreeView } from '@/contract/contents';
import { BASE } from './server';

/** Seconds that the archiver takes once, with what it wrote on the disk. */
export function unpackSeconds(archive: string, folder: string): number {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder);
  const started = performance.now();
  execFileSync('tar', ['-xf', archive, '-C', folder]);
  execFileSync('sync', ['-f', folder]);
  const seconds = (performance.now() - started) / 1000;
  rmSync(folder, { recursive: true });
  return seconds;
}

/** Sends an archive to the server; what it answers. */
export function sendArchive(archive: string, query = ''): Promise<{ status: number; view: TreeView }> {
  return new Promise((resolve, reject) => {
    const asked = request(`${BASE}/api/contents/archive${query}`, {
      method: 'PUT',
      headers: { 'content-length': statSync(archive).size },
    });
    asked.on('error', reject);
    asked.on('response', (response) => {
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part));
      response.on('end', () =>
        resolve({ status: response.statusCode!, view: JSON.parse(Buffer.concat(parts).toString('utf8')) as TreeView }),
      );
    });
    pipeline(createReadStream(archive), asked).catch(reject);
  });
}
