/**
 * Extents: the byte ranges that something defines on a medium. A formatter yields one for
 * every range it defines, zero fills included, because old bytes may lie under them.
 * Offsets are bytes from the start of the medium, not sectors.
 */

/** `length` bytes of something that is stored under the name `from`, beginning at its byte `at`. */
export interface Copied {
  readonly from: string;
  readonly at: number;
  readonly length: number;
  /** CRC-32 of exactly these bytes, where it is known: whoever copies them compares. */
  readonly crc32?: number;
}

/** A defined range: literal bytes, bytes that are all zero, or bytes of stored content that nobody holds in memory. */
export type Extent =
  | { readonly offset: number; readonly bytes: Uint8Array }
  | { readonly offset: number; readonly zeros: number }
  | { readonly offset: number; readonly copied: Copied };

/** Bytes of the medium as it is, from byte `at` on. */
export interface MovedFrom {
  readonly at: number;
  readonly length: number;
}

/** Bytes that something is given: literal ones, zeros, stored content, or what lies elsewhere on the same medium. */
export type PlannedExtent = Extent | { readonly offset: number; readonly moved: MovedFrom };

/** Bytes that an extent covers. */
export function lengthOf(extent: Extent): number {
  if ('bytes' in extent) return extent.bytes.length;
  return 'zeros' in extent ? extent.zeros : extent.copied.length;
}

/** First byte behind an extent. */
export function endOf(extent: Extent): number {
  return extent.offset + lengthOf(extent);
}

/** What an extent has from byte `start` of the medium up to `end` exclusive, both of which lie in it. */
export function part(extent: Extent, start: number, end: number): Extent {
  const { offset } = extent;
  if (start === offset && end === endOf(extent)) return extent;
  if ('zeros' in extent) return { offset: start, zeros: end - start };
  if ('bytes' in extent) return { offset: start, bytes: extent.bytes.subarray(start - offset, end - offset) };
  const { from, at } = extent.copied;
  return { offset: start, copied: { from, at: at + start - offset, length: end - start } };
}

/** The same extent, `by` bytes further on. */
export function shifted(extent: Extent, by: number): Extent {
  return { ...extent, offset: extent.offset + by };
}

/** A byte range; `end` is exclusive. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** What is left of `span` when every one of `holes` (in any order) is taken out; ascending. */
export function without(span: Span, holes: readonly Span[]): Span[] {
  const left: Span[] = [];
  let start = span.start;
  for (const hole of [...holes].sort((a, b) => a.start - b.start)) {
    if (hole.end <= Math.max(start, hole.start) || hole.start >= span.end) continue;
    if (hole.start > start) left.push({ start, end: hole.start });
    start = Math.max(start, hole.end);
  }
  if (start < span.end) left.push({ start, end: span.end });
  return left;
}

/** Spans that were covered so far, kept merged: what is added mostly comes in ascending order. */
export class Coverage {
  private readonly spans: { start: number; end: number }[] = [];

  /** Covers a range. */
  add(start: number, length: number): void {
    const last = this.spans[this.spans.length - 1];
    if (last && start >= last.start && start <= last.end) last.end = Math.max(last.end, start + length);
    else this.spans.push({ start, end: start + length });
  }

  /** True when any byte of the range is covered. */
  touches(start: number, length: number): boolean {
    return this.spans.some((span) => span.start < start + length && span.end > start);
  }
}

/** Pieces one behind the other, with zeros up to `length`. */
export function joined(
  parts: readonly Uint8Array[],
  length = parts.reduce((sum, part) => sum + part.length, 0),
): Uint8Array {
  const out = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
