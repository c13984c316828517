/**
 * Brings the log of a database to the disk, beside other work: SQLite would do that in the thread that answers requests, and
 * keep all of them waiting for as long as the disk is busy.
 *
 * The system tells once that it could not write, and then forgets it: nothing that was committed behind such bytes is there for
 * good either, until the log is begun anew.
 */
import { open } from 'node:fs/promises';
import path from 'node:path';
import { ifThere } from '../files/system-errors';
import { syncFolder } from '../files/durable';

export class LogSync {
  private running: Promise<void> = Promise.resolve();
  private next: Promise<void> | undefined;
  /** The log whose name is known to be there for good. */
  private inode: number | undefined;
  private failure: { readonly error: unknown } | undefined;

  /** `file`: the database. */
  constructor(private readonly file: string) {}

  /** True where the log may have bytes that never come to the disk. */
  get isBroken(): boolean {
    return this.failure !== undefined;
  }

  /** All that was committed is in the database, and the log is empty. */
  begunAnew(): void {
    this.failure = undefined;
  }

  /** Resolves when what was written before is there for good; rejects as the system does. Those who ask together wait for one. */
  done(): Promise<void> {
    // One that runs already may have begun before what was written.
    this.next ??= this.running.then(() => {
      this.next = undefined;
      const synced = this.sync();
      this.running = synced.catch((error: unknown) => {
        this.failure ??= { error };
      });
      return synced;
    });
    return this.next;
  }

  private async sync(): Promise<void> {
    if (this.failure) throw this.failure.error;
    // Without a log all of it is in the file.
    const log = await ifThere(open(/* turbopackIgnore: true */ `${this.file}-wal`, 'r'));
    if (!log) return;
    try {
      await log.datasync();
      const { ino } = await log.stat();
      if (ino === this.inode) return;
      await syncFolder(path.dirname(this.file));
      this.inode = ino;
    } finally {
      await log.close();
    }
  }
}
