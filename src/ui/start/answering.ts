import type { Answers } from '@/core/advice/answers';

/** How the questions say an answer: finished ones are kept, what is being typed shows at once. */
export interface Answering {
  readonly answers: Answers;
  /** The answers with what is being typed; undefined where something cannot be read. */
  readonly shown: Answers | undefined;
  /** An answer that was chosen or finished. */
  readonly change: (patch: Partial<Answers>) => void;
  /** What is being typed into a field: the answer that it would be, no answer where it cannot be read; undefined when nothing is. */
  readonly typed: (field: string, draft: Draft | undefined) => void;
}

/** A text that is being typed, and the answer that it would be, where it can be read. */
export interface Draft {
  readonly text: string;
  readonly patch: Partial<Answers> | undefined;
}

/** What is being typed, by the label of its field. */
export type Typed = Readonly<Record<string, Draft | undefined>>;

/** The answers with what is being typed, and the fields that cannot be read. */
export function withTyped(
  answers: Answers,
  typed: Typed,
): { readonly answers: Answers; readonly unread: readonly (readonly [field: string, text: string])[] } {
  const all = Object.entries(typed).flatMap(([field, draft]) => (draft ? [[field, draft] as const] : []));
  return {
    answers: all.reduce((so, [, { patch }]) => ({ ...so, ...patch }), answers),
    unread: all.flatMap(([field, { text, patch }]) => (patch === undefined ? [[field, text] as const] : [])),
  };
}

/** For a field: tells what is being typed into it; `meant` is the answer that a text would be. */
export function drafting(
  field: string,
  typed: Answering['typed'],
  meant: (text: string) => Partial<Answers>,
): (draft: string | undefined, isUsable: boolean) => void {
  return (draft, isUsable) =>
    typed(field, draft === undefined ? undefined : { text: draft, patch: isUsable ? meant(draft) : undefined });
}
