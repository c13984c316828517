/**
 * Where tests of a file run: Jest's own surroundings, which leave no storage of theirs behind. Every promise of a process
 * asks every storage that was ever used in it, those of files that are long over too, unless somebody ends them.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import { TestEnvironment } from 'jest-environment-node';

type Run = typeof AsyncLocalStorage.prototype.run;

// Of the process, not of a test: its own is put back when the tests of a file are over.
const own = Object.getOwnPropertyDescriptor(AsyncLocalStorage.prototype, 'run')!;

export default class LeavingNothing extends TestEnvironment {
  private readonly used = new Set<AsyncLocalStorage<unknown>>();

  override async setup(): Promise<void> {
    const { used } = this;
    const run = own.value as Run;
    AsyncLocalStorage.prototype.run = function (this: AsyncLocalStorage<unknown>, ...asked: Parameters<Run>) {
      used.add(this);
      return run.apply(this, asked);
    } as Run;
    await super.setup();
  }

  override async teardown(): Promise<void> {
    await super.teardown();
    Object.defineProperty(AsyncLocalStorage.prototype, 'run', own);
    for (const one of this.used) one.disable();
  }
}
