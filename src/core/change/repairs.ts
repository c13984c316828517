/** What a repair is: one thing that is wrong with a medium, and the bytes that mend it. */
import type { BlockSource } from '../bytes/blocks';
import type { Result } from '../quantity/result';
import type { Survey } from '../survey/found';

/** What is written, by bytes of the medium: it goes into a draft when all of it is known. */
export type Change = readonly { readonly what: string; readonly at: number; readonly bytes: Uint8Array }[];

export interface Repair {
  readonly id: string;
  /** Rules of the survey that it answers. */
  readonly rules: readonly string[];
  readonly label: string;
  readonly why: string;
  /** Made only where it is asked for: it takes away what tells of something else, or somebody has to choose. */
  readonly onRequest?: true;
  /** What it means on this medium, for whoever chooses it. */
  readonly says?: (survey: Survey, source: BlockSource) => Promise<readonly string[]>;
  /** What it writes on a medium with this survey, or why it cannot. */
  readonly change: (survey: Survey, source: BlockSource) => Promise<Result<Change, string>>;
}
