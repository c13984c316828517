/** How a command is told what a document is filled with. */

/** What the command line says of contents. */
export interface SupplyOptions {
  readonly contents?: string;
  /** `SLOT=PATH`, each. */
  readonly from?: readonly string[];
  /** Paths of the document may lead out of its folder. */
  readonly outside?: boolean;
  readonly leaveOut?: boolean;
}

export interface GatherOptions extends SupplyOptions {
  /** Folder for what has to be unpacked to be read; without it, sums alone are taken. */
  readonly unpackInto?: string;
  /** Other sums than the document says are taken, not refused. */
  readonly renews?: boolean;
}
