/** `check` and `place`: what is said of a document. Each ends with the number that it returns. */
import { check } from '@/core/findings/layout/check';
import { type Finding, stopsAmong } from '@/core/findings/layout/finding';
import { placeWritten } from '@/core/naming/written';
import type { Placement, Reason } from '@/core/placement/placement';
import { type Answer, answerText } from './answering';
import type { Answers } from './answers';
import { EXIT, type Exit } from './exit';
import { exitFor } from './findings-end';
import { type Document, documentWritten, folderOf, type Io } from './io';
import { findingsText, placementText } from './report';
import { printable } from './text';
import { gather, type Supplies } from './supplies';
import type { GatherOptions, SupplyOptions } from './supply-options';

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
  return placeWritten(layout, contents);
}

/** `check`: what every rule says about a document. */
export async function checkCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  const findings = check(placement);
  io.out(
    options.json
      ? answerText('check', { findings: findings.map(findingData) })
      : printable(findingsText(findings, placement, document)),
  );
  return exitFor(findings);
}

/** A finding for machines: its remedies are told by what they do. */
function findingData({ rule, severity, place: where, sentence, why, remedies, fileRemedies = [], ...rest }: Finding) {
  const { accepted, acceptedBefore: before } = rest;
  return {
    rule,
    severity,
    place: where,
    sentence,
    why,
    remedies: [...remedies, ...fileRemedies].map(({ label }) => label),
    accepted,
    acceptedBefore: before && { sentence: before.sentence, reason: before.reason },
  };
}

const reasonData = ({ rule, grain, cost, text }: Reason) => ({ rule, grain, cost, text });

/** A placement for machines: every range with its reasons. */
function placementData(placement: Placement): Answer<Answers['place']> {
  const { layout, sectorSize, sectors, usable, grain, dataUnit, gpt, containers, misfits } = placement;
  return {
    layout: layout.name,
    sectorSize,
    sectors,
    usable,
    grain: { bytes: grain.bytes, sectors: grain.sectors, rule: grain.rule, because: grain.because },
    dataUnit,
    gpt,
    placed: placement.placed.map(({ slot, rule, startReason, endReason, made, ...one }) => ({
      id: slot.id,
      name: slot.name,
      kind: slot.kind,
      takes: rule?.kind,
      start: one.start,
      sectors: one.sectors,
      span: one.span,
      startReason: reasonData(startReason),
      endReason: reasonData(endReason),
      entry: one.entry,
      recordAt: one.recordAt,
      made: made && { ...made },
    })),
    containers,
    strata: placement.strata.map((one) => ({
      kind: one.kind,
      start: one.start,
      sectors: one.sectors,
      id: one.kind === 'slot' ? one.placed.slot.id : undefined,
      cause: one.kind === 'gap' ? one.cause : undefined,
      text: one.kind === 'slot' ? undefined : one.text,
    })),
    misfits,
  };
}

/** `place`: where everything lands. */
export async function placeCommand(io: Io, document: string, options: DocumentOptions): Promise<Exit> {
  const placement = await placed(io, document, options);
  io.out(options.json ? answerText('place', placementData(placement)) : printable(placementText(placement)));
  return stopsAmong(check(placement)).length > 0 ? EXIT.stop : EXIT.done;
}
