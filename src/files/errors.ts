/** Why something that a person supplied cannot be taken. What it means for a request or a terminal is theirs to say. */
export type SupplyReason = 'broken off' | 'too large' | 'unknown kind' | 'unusable';

/** Something that was supplied and cannot be taken. */
export class SupplyError extends Error {
  /**
   * @param reason what sort of error it is
   * @param code short and stable, for programs
   * @param sentence for people: what, why, and what to do
   */
  constructor(
    readonly reason: SupplyReason,
    readonly code: string,
    sentence: string,
  ) {
    super(sentence);
  }
}
