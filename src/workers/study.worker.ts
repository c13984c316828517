/** Entry of the worker: one question in, one answer out. */
import { answerExtStudy, answerStudy, type ExtStudyAsked, type StudyAsked } from './study';

self.onmessage = ({ data }: MessageEvent<StudyAsked | ExtStudyAsked>) => {
  const now = () => performance.now();
  self.postMessage('extFiles' in data ? answerExtStudy(data, now) : answerStudy(data, now));
};
