/** Queues: order within a lane, short ones beside long ones, progress and cancel; orders of the same image are one. */
import { ownContext } from '@tests/own-context';
import { fatPart, layoutOn } from '@tests/samples';
import { turn, until } from '@tests/until';
import { getBuild, listBuilds, startBuild } from './builds';
import { JobQueue } from './jobs';
import { createLayout } from './layouts';

test('jobs of a lane run one after the other, and a short one does not wait for a long one', async () => {
  const queue = new JobQueue();
  const said: string[] = [];
  const isOver = (name: string) => said.includes(`${name} ends`);
  const job =
    (name: string, after: () => boolean = () => true) =>
    async () => {
      said.push(`${name} begins`);
      await turn();
      await until(after);
      said.push(`${name} ends`);
    };
  queue.add(
    '1',
    job('long 1', () => isOver('short 2')),
    'long',
  );
  queue.add('2', job('long 2'), 'long');
  queue.add('3', job('short 1'), 'short');
  queue.add('4', job('short 2'), 'short');
  expect(queue.length).toBe(4);
  await queue.idle();
  expect(said.filter((one) => one.startsWith('long'))).toEqual([
    'long 1 begins',
    'long 1 ends',
    'long 2 begins',
    'long 2 ends',
  ]);
  expect(said.filter((one) => one.startsWith('short'))).toEqual([
    'short 1 begins',
    'short 1 ends',
    'short 2 begins',
    'short 2 ends',
  ]);
  expect(said.indexOf('short 2 ends')).toBeLessThan(said.indexOf('long 1 ends'));
  expect(queue.length).toBe(0);
});

test('a job that fails, or is cancelled while it waits, stops none behind it', async () => {
  const queue = new JobQueue();
  const seen: boolean[] = [];
  const complaint = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  queue.add('1', () => Promise.reject(new Error('a defect')));
  queue.add('2', (signal) => Promise.resolve(void seen.push(signal.aborted)));
  expect(queue.cancel('2')).toBe(true);
  expect(queue.cancel('none')).toBe(false);
  queue.add('3', (_, report) => {
    report('writing', 5, 10);
    seen.push(queue.progress('3')!.done === 5);
    return Promise.resolve();
  });
  await queue.idle();
  expect(seen).toEqual([true, true]);
  expect(complaint).toHaveBeenCalledTimes(1);
  complaint.mockRestore();
});

describe('orders', () => {
  const { context } = ownContext();
  const layout = (name: string) => layoutOn('40 MiB', [fatPart('a', 'rest')], { name });

  test('two of the same image that come at once are one build; another revision, or the same again later, is not', async () => {
    const { id } = await createLayout(context(), layout('Twice'), 'New');
    const order = { layoutId: id, revision: 1 };
    const all = await Promise.all([
      startBuild(context(), order),
      startBuild(context(), order),
      startBuild(context(), order),
    ]);
    expect(new Set(all.map((build) => build.id)).size).toBe(1);
    const copy = await startBuild(context(), { ...order, copy: 0 });
    expect(copy.id).toBe(all[0]!.id);
    await context().buildQueue.idle();
    const later = await startBuild(context(), order);
    expect(later.id).not.toBe(all[0]!.id);
    await context().buildQueue.idle();
    expect((await listBuilds(context(), id)).map(({ state }) => state)).toEqual(['done', 'done']);
    expect((await getBuild(context(), later.id)).state).toBe('done');
  });

  test('an order that is refused can be made again', async () => {
    await expect(startBuild(context(), { layoutId: 'none', revision: 1 })).rejects.toMatchObject({ status: 404 });
    const { id } = await createLayout(context(), layout('Again'), 'New');
    await startBuild(context(), { layoutId: id, revision: 1 });
    await context().buildQueue.idle();
    expect(context().orders.size).toBe(0);
  });
});
