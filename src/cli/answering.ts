/** Answers for machines: each says what it is, and of which version. */
import type { Answers, AnswersVersion } from './answers';
import { jsonText } from './text';

/** Version of all answers, as `answers.ts` has it, which is not loaded for a number. */
const VERSION: AnswersVersion = 1;

/** Fields that may be missing may be undefined, which JSON leaves out. */
export type Answer<T> = T extends readonly (infer U)[]
  ? readonly Answer<U>[]
  : T extends object
    ? { readonly [K in keyof T]: Answer<T[K]> | (undefined extends T[K] ? undefined : never) }
    : T;

/** The text of an answer. */
export function answerText<Name extends keyof Answers>(answer: Name, value: Answer<Answers[Name]>, indent = 2): string {
  return jsonText({ answer, version: VERSION, ...value }, indent || undefined);
}
