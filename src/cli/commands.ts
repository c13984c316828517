/** `check` and `place`: what is said of a document. Each ends with the number that it returns. */
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { EXIT, type Exit } from './exit';
import { exitFor } from './findings-end';
import { type Document, documentWritten, folderOf, type Io } from './io';
import { findingsText, placementText } from './report';
import { jsonText, printable } from './text';
import { gather, type Supplies } from './supplies';
import type { GatherOptions, SupplyOptions } from './supply-options';

const json = (value: unknown): string => jsonText(value, 2);

/** What every command takes that reads a document with what it is filled with. */
export interface DocumentOptions extends SupplyOptions {
  readonly json?: boolean;
}

/** Reads a document and finds what it is filled with. */
export async function supplied(io: Io, document: string, options: GatherOptions): Promise<Document & Supplies> {
  const written = await documentWritten(io, document);
  return { ...written, ...(await gather(io, written.layout, folderOf(document), options)) };
}

/** Places a document with what it is filled with. */
async function placed(io: Io, document: string, options: SupplyOptions): Promise<Placement> {
  const { layout, contents } = await supplied(io, document, options);
  return place(layout, contents);
}

/** `check`: what every rule says about a document. */
export async function checkCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  const findings = check(placement);
  io.out(options.json ? json({ findings }) : printable(findingsText(findings, placement, document)));
  return exitFor(findings);
}

/** A placement for machines: every range with its reasons. */
function placementData({ placed, strata, layout, contents: _, ...rest }: Placement) {
  return {
    layout: layout.name,
    table: layout.table,
    ...rest,
    placed: placed.map(({ slot, rule, ...one }) => ({
      id: slot.id,
      name: slot.name,
      kind: slot.kind,
      ...(rule && { takes: rule.kind }),
      ...one,
    })),
    strata: strata.map((one) =>
      one.kind === 'slot' ? { kind: one.kind, start: one.start, sectors: one.sectors, id: one.placed.slot.id } : one,
    ),
  };
}

/** `place`: where everything lands. */
export async function placeCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  io.out(options.json ? json(placementData(placement)) : printable(placementText(placement)));
  return stopsAmong(check(placement)).length > 0 ? EXIT.stop : EXIT.done;
}
