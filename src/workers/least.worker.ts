/** Entry of the worker: one question in, one answer out. */
import { type LeastAsked, LeastKeeper } from './least';

const keeper = new LeastKeeper();

self.onmessage = ({ data }: MessageEvent<LeastAsked>) => {
  self.postMessage(keeper.answer(data, () => performance.now()));
};
