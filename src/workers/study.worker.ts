/** Entry of the worker: one question in, one answer out. */
import { answerStudy, type StudyAsked } from './study';

self.onmessage = ({ data }: MessageEvent<StudyAsked>) => {
  self.postMessage(answerStudy(data, () => performance.now()));
};
