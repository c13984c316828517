/** What server and interface tell each other about changes of images: before, after, and what is written. */
import type { Becoming, Gathered } from '@/core/change/before-after';
import type { Does } from '@/core/change/proposal';
import type { FieldChange } from '@/core/change/told';
import type { Finding } from '@/core/findings/layout/finding';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import type { Survey } from '@/core/survey/found';

/** An image that has the size of the medium that a layout was made from. */
export interface Candidate {
  /** As surveys name it. */
  readonly of: string;
  readonly name: string;
}

/** Ranges that are one thing, with what lies there now. */
export interface WrittenRange extends Gathered {
  /** What the first of them lies over, in a word or two, and its first bytes in hexadecimal. */
  readonly there: string;
  readonly bytesThere: string;
  /** Its fields that will say something else, as the ledger reads them. */
  readonly fields: readonly FieldChange[];
}

/** What becomes of an image by a revision of a layout. */
export interface ChangeView {
  readonly layoutId: string;
  readonly revision: number;
  readonly of: string;
  readonly name: string;
  readonly survey: Survey;
  readonly findings: readonly Finding[];
  /** Why it cannot be done on this image; empty where it can. */
  readonly refused: readonly string[];
  /** That is because it is another image than the layout was made from. */
  readonly isOther: boolean;
  readonly rows: readonly Becoming[];
  readonly ranges: readonly WrittenRange[];
  /** What a survey would find afterwards. */
  readonly left: readonly SurveyFinding[];
  /** What tells this plan from every other: who orders the image says that it was seen. */
  readonly mark: string;
}

/** What would mend, cut or clear an image. */
export interface ProposalView {
  readonly of: string;
  readonly name: string;
  readonly does: Does;
  /** One repair alone. */
  readonly only: string | null;
  readonly sectorSize: 512 | 4096;
  readonly size: number;
  readonly becomes: number;
  /** What it means. */
  readonly words: readonly string[];
  /** What could be mended too, and is only where somebody asks for it. */
  readonly onRequest: readonly { readonly id: string; readonly label: string }[];
  /** What cannot be done, and why. */
  readonly refused: readonly string[];
  readonly ranges: readonly WrittenRange[];
  readonly left: readonly SurveyFinding[];
  readonly mark: string;
}

/** What the report of a changed image says beside its size. */
export interface ChangedReport {
  readonly from: string;
  readonly changed: number;
  readonly equal: number;
  readonly zeros: number;
  readonly allocated: { readonly old: number; readonly made: number };
}
