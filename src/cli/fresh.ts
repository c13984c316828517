/** What is made by chance, or taken from the clock: only while a document is written. */
import { randomBytes, randomInt, randomUUID } from 'node:crypto';
import type { Fresh } from '@/core/advice/answers';

/** The time that the environment says instead of the clock, in seconds since 1970. */
export function saidTime(): number | undefined {
  const { SOURCE_DATE_EPOCH: text } = process.env;
  const epoch = text === undefined || text.trim() === '' ? Number.NaN : Number(text);
  return Number.isSafeInteger(epoch) ? epoch : undefined;
}

export const freshSignature = (): string =>
  randomInt(1, 2 ** 32)
    .toString(16)
    .padStart(8, '0');

export const freshGuid = (): string => randomUUID();

export function freshVolumeId(): string {
  const digits = randomBytes(4).toString('hex').toUpperCase();
  return `${digits.slice(0, 4)}-${digits.slice(4)}`;
}

/** Now, or what SOURCE_DATE_EPOCH says. */
export function freshDate(): string {
  const said = saidTime();
  return (said === undefined ? new Date() : new Date(said * 1000)).toISOString().slice(0, 19);
}

/** Ids by chance, and the date. */
export function fresh(): Fresh {
  return { signature: freshSignature(), diskId: freshGuid(), date: freshDate() };
}
