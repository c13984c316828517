/** A request that is refused: an error that a person caused and can mend. */
export class Refusal extends Error {
  /**
   * @param status HTTP status
   * @param code short and stable, for programs
   * @param sentence for people: what, why, and what to do
   * @param field the field of the request that it is about
   */
  constructor(
    readonly status: number,
    readonly code: string,
    sentence: string,
    readonly field?: string,
  ) {
    super(sentence);
  }
}

/** What work comes to, or the sentence by which it is refused: a page shows that in its place. */
export async function orSentence<T>(work: Promise<T>): Promise<T | string> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof Refusal) return error.message;
    throw error;
  }
}
