/** The log of the disk that can lose power: read back, and turned into folders as they may be after a cut. */
import { closeSync, ftruncateSync, mkdirSync, openSync, readdirSync, readFileSync, statSync, writeSync } from 'node:fs';
import path from 'node:path';

/** Records in the order of `enum kind` in disk.c. */
const KINDS = [
  'create',
  'truncate',
  'write',
  'rename',
  'unlink',
  'mkdir',
  'sync',
  'sync failed',
  'sync all',
  'mark',
] as const;

export interface Logged {
  readonly kind: (typeof KINDS)[number];
  readonly inode: number;
  readonly offset: number;
  readonly path: string;
  readonly other: string;
  readonly data: Buffer;
}

const HEAD = 32;

/** Every record of a log file. */
export function readLog(file: string): Logged[] {
  const bytes = readFileSync(file);
  const log: Logged[] = [];
  for (let at = 0; at + HEAD <= bytes.length;) {
    const [kind, a, b, c] = [0, 4, 8, 12].map((field) => bytes.readUInt32LE(at + field)) as [
      number,
      number,
      number,
      number,
    ];
    const inode = Number(bytes.readBigUInt64LE(at + 16));
    const offset = Number(bytes.readBigUInt64LE(at + 24));
    const text = at + HEAD;
    log.push({
      kind: KINDS[kind - 1]!,
      inode,
      offset,
      path: bytes.toString('utf8', text, text + a),
      other: bytes.toString('utf8', text + a, text + a + b),
      data: bytes.subarray(text + a + b, text + a + b + c),
    });
    at = text + a + b + c;
  }
  return log;
}

/** Something done to a file or a folder that is on the disk, or may not be yet. */
interface Step {
  state: 'pending' | 'durable' | 'lost';
}
interface Change extends Step {
  readonly offset: number;
  /** Bytes that were written; without them the file got the length `offset`. */
  readonly bytes?: Buffer;
}
/** A change of names, atomic: names that came, and names that went, each in a folder. */
interface Naming extends Step {
  readonly puts: readonly { readonly folder: number; readonly name: string; readonly node: number }[];
  readonly takes: readonly { readonly folder: number; readonly name: string }[];
}

type Node = { readonly kind: 'file'; readonly changes: Change[] } | { readonly kind: 'folder' };

/** What was there before the log begins: all of it is on the disk. */
export interface Beginning {
  readonly path: string;
  readonly inode: number;
  /** Missing for a folder. */
  readonly bytes?: Buffer;
}

/** Everything below a folder, to begin with. */
export function beginningOf(root: string): Beginning[] {
  const entries = readdirSync(root, { recursive: true, withFileTypes: true });
  return entries.map((entry) => {
    const file = path.join(entry.parentPath, entry.name);
    const inode = statSync(file).ino;
    return { path: path.relative(root, file), inode, ...(entry.isFile() && { bytes: readFileSync(file) }) };
  });
}

const ROOT = 0;

/** A disk whose log is played up to some record. */
export class Disk {
  private readonly nodes: Node[] = [{ kind: 'folder' }];
  private readonly nodeOf = new Map<number, number>();
  private readonly paths = new Map<string, number>([['', ROOT]]);
  private readonly namings: Naming[] = [];
  /** What waits to be synced, by the node that it waits for. */
  private readonly waiting = new Map<number, Step[]>();

  constructor(rootInode: number, beginning: readonly Beginning[]) {
    this.nodeOf.set(rootInode, ROOT);
    for (const one of beginning) {
      this.make(one.path, one.inode, one.bytes ? 'file' : 'folder', 'durable');
      if (one.bytes) this.change(one.inode, { offset: 0, bytes: one.bytes, state: 'durable' });
    }
  }

  private place(whole: string): { folder: number; name: string } {
    const parent = path.dirname(whole);
    const folder = this.paths.get(parent === '.' ? '' : parent);
    if (folder === undefined) throw new Error(`no folder for ${whole}`);
    return { folder, name: path.basename(whole) };
  }

  private make(whole: string, inode: number, kind: Node['kind'], state: Step['state']): void {
    const node = this.nodes.push(kind === 'file' ? { kind, changes: [] } : { kind }) - 1;
    this.nodeOf.set(inode, node);
    this.name({ state, puts: [{ ...this.place(whole), node }], takes: [] });
    this.paths.set(whole, node);
  }

  private wait(node: number, step: Step): void {
    if (step.state !== 'pending') return;
    const steps = this.waiting.get(node);
    if (steps) steps.push(step);
    else this.waiting.set(node, [step]);
  }

  private name(naming: Naming): void {
    this.namings.push(naming);
    for (const { folder } of [...naming.puts, ...naming.takes]) this.wait(folder, naming);
  }

  private change(inode: number, change: Change): void {
    const number = this.nodeOf.get(inode)!;
    const node = this.nodes[number];
    if (node?.kind !== 'file') throw new Error(`no file of inode ${inode}`);
    node.changes.push(change);
    this.wait(number, change);
  }

  private rename(from: string, to: string): void {
    const node = this.paths.get(from)!;
    this.name({ state: 'pending', puts: [{ ...this.place(to), node }], takes: [this.place(from)] });
    if (this.nodes[node]!.kind === 'file') {
      this.paths.delete(from);
      this.paths.set(to, node);
      return;
    }
    for (const [whole, one] of [...this.paths]) {
      if (whole !== from && !whole.startsWith(`${from}/`)) continue;
      this.paths.delete(whole);
      this.paths.set(to + whole.slice(from.length), one);
    }
  }

  /** Plays one record. */
  play({ kind, inode, offset, path: whole, other, data }: Logged): void {
    switch (kind) {
      case 'create':
      case 'mkdir':
        return this.make(whole, inode, kind === 'create' ? 'file' : 'folder', 'pending');
      case 'truncate':
        return this.change(inode, { offset, state: 'pending' });
      case 'write':
        return this.change(inode, { offset, bytes: data, state: 'pending' });
      case 'rename':
        return this.rename(whole, other);
      case 'unlink':
        this.name({ state: 'pending', puts: [], takes: [this.place(whole)] });
        this.paths.delete(whole);
        return;
      case 'sync':
      case 'sync failed':
        // Bytes that could not be written are gone; names wait for the next try, in the log of the file system.
        return this.sync(this.nodeOf.get(inode), kind);
      case 'sync all':
        for (const node of [...this.waiting.keys()]) this.sync(node, 'sync');
        return;
      case 'mark':
        return;
    }
  }

  /** What waits of a file, or of a folder's names, is there for good now, or will never be written. */
  private sync(node: number | undefined, kind: 'sync' | 'sync failed'): void {
    if (node === undefined) return;
    const found = this.nodes[node];
    if (!found || (found.kind === 'folder' && kind === 'sync failed')) return;
    const state = kind === 'sync' ? 'durable' : 'lost';
    for (const step of this.waiting.get(node) ?? []) if (step.state === 'pending') step.state = state;
    this.waiting.delete(node);
  }

  /**
   * Makes the folder `to` as it may be after a cut now: what is durable is there, and of the rest
   * what `keeps` says, asked for each step, and for each sector-sized piece of a write.
   */
  cut(to: string, keeps: () => boolean): void {
    const folders = new Map<number, Map<string, number>>();
    const of = (folder: number) => folders.get(folder) ?? folders.set(folder, new Map()).get(folder)!;
    for (const { state, puts, takes } of this.namings) {
      if (state !== 'durable' && !keeps()) continue;
      for (const { folder, name } of takes) of(folder).delete(name);
      for (const { folder, name, node } of puts) of(folder).set(name, node);
    }
    const write = (node: number, place: string): void => {
      const one = this.nodes[node]!;
      if (one.kind === 'file') return writeFileOf(one.changes, place, keeps);
      mkdirSync(place, { recursive: true });
      for (const [name, child] of folders.get(node) ?? []) write(child, path.join(place, name));
    };
    write(ROOT, to);
  }
}

/** A write that is not synced may be there in part: pieces of this size are written whole, or not. */
const PIECE = 4096;

function writeFileOf(changes: readonly Change[], place: string, keeps: () => boolean): void {
  // The index of the log lies in shared memory and is made anew by whoever opens the database first.
  if (place.endsWith('-shm')) return;
  const file = openSync(place, 'w');
  for (const { state, offset, bytes } of changes) {
    const isSure = state === 'durable';
    if (!bytes) {
      if (isSure || keeps()) ftruncateSync(file, offset);
      continue;
    }
    for (let at = 0; at < bytes.length;) {
      const length = isSure ? bytes.length : Math.min(PIECE - ((offset + at) % PIECE), bytes.length - at);
      if (isSure || keeps()) writeSync(file, bytes, at, length, offset + at);
      at += length;
    }
  }
  closeSync(file);
}
