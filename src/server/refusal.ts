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
