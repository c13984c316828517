/**
 * Where the data of a sparse file lies. Node cannot ask a file system for that; the `tar` of GNU can, and writes it ahead of
 * the data of an archive: that map is read, and the archive goes no further. Where there is no such program, nothing is
 * known, and whoever asks reads all of the file.
 */
import { spawn } from 'node:child_process';
import path from 'node:path';
import type { BlockSource } from '@/core/bytes/blocks';
import { type PaxRecords, paxRecords } from './pax';
import { MapAhead, sparseOf, type Stretch } from './sparse-tar';

const BLOCK = 512;
/** Longest extended header. */
const HEADER_LIMIT = 1024 * 1024;

const octal = (bytes: Buffer): number => parseInt(bytes.toString('latin1').replace(/\0.*$/, '').trim() || '0', 8);

/** Takes an archive of one file, as it comes; `stretches` is there when the map has been read. */
class FirstMap {
  private pending = Buffer.alloc(0);
  private pax: PaxRecords | undefined;
  private ahead: MapAhead | undefined;
  stretches: readonly Stretch[] | undefined;
  /** The file has no map: it has no holes, or the archive is another one. */
  isWithout = false;

  get isOver(): boolean {
    return this.isWithout || this.stretches !== undefined;
  }

  take(chunk: Buffer): void {
    if (this.ahead) return this.map(chunk);
    this.pending = Buffer.concat([this.pending, chunk]);
    while (!this.isOver && !this.ahead && this.pending.length >= BLOCK) if (!this.header()) return;
  }

  private map(bytes: Buffer): void {
    this.ahead!.take(bytes);
    this.stretches = this.ahead!.pieces;
  }

  /** Reads a header, where all of it has come. */
  private header(): boolean {
    const [kind, size] = [String.fromCharCode(this.pending[156]!), octal(this.pending.subarray(124, 136))];
    if (kind !== 'x') {
      const holes = sparseOf(this.pax);
      if (!holes || holes.pieces) this.isWithout = true;
      else {
        this.ahead = new MapAhead(holes.length);
        this.map(this.pending.subarray(BLOCK));
      }
      return true;
    }
    const end = BLOCK + Math.ceil(size / BLOCK) * BLOCK;
    if (end > HEADER_LIMIT) this.isWithout = true;
    if (this.isWithout || this.pending.length < end) return this.isWithout;
    this.pax = paxRecords(this.pending.subarray(BLOCK, BLOCK + size));
    this.pending = this.pending.subarray(end);
    return true;
  }
}

/** Stretches of a file that hold data, ascending; everything else in it is a hole. Undefined where that cannot be found out. */
export function dataOf(file: string): Promise<readonly Stretch[] | undefined> {
  return new Promise((resolve) => {
    const args = ['--create', '--sparse', '--hole-detection=seek', '--format=posix', '--file=-'];
    const child = spawn('tar', [...args, '-C', path.dirname(file), '--', path.basename(file)], {
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    const map = new FirstMap();
    const end = () => {
      child.kill('SIGKILL');
      resolve(map.stretches);
    };
    child.stdout.on('data', (chunk: Buffer) => {
      try {
        map.take(chunk);
      } catch {
        map.isWithout = true;
      }
      if (map.isOver) end();
    });
    child.once('error', () => resolve(undefined));
    child.once('close', () => resolve(map.stretches));
  });
}

/** A source of a file, at a path that leads to it, which knows where the file has holes: nobody need read those. */
export async function withHoles(source: BlockSource, file: string): Promise<BlockSource> {
  const data = await dataOf(file);
  if (!data) return source;
  /** The first stretch that ends behind a byte. */
  const behind = (offset: number): Stretch | undefined => {
    let [low, high] = [0, data.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      const [at, length] = data[middle]!;
      if (at + length > offset) high = middle;
      else low = middle + 1;
    }
    return data[low];
  };
  return { ...source, isHole: (offset, length) => (behind(offset)?.[0] ?? Infinity) >= offset + length };
}
