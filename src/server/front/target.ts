/** The target of a request (RFC 9112, "Request Target"): read in one place, or refused. */
import { Refusal } from '../refusal';

export interface Target {
  readonly pathname: string;
  /** Parts between slashes, without their escapes. */
  readonly segments: readonly string[];
  readonly query: URLSearchParams;
}

/** Longest target, in characters. */
const LONGEST = 8192;

const unreadable = () =>
  new Refusal(
    400,
    'address-unreadable',
    'This is no address: it begins with one / and its escapes are UTF-8, without zeros.',
    'address',
  );

/** Reads a target; throws a Refusal for everything that is no path of this server. */
export function targetOf(url: string | undefined): Target {
  if (url === undefined || !url.startsWith('/') || url.startsWith('//')) throw unreadable();
  if (url.length > LONGEST)
    throw new Refusal(414, 'address-too-long', `An address has at most ${LONGEST} characters.`, 'address');
  try {
    const { pathname, searchParams } = new URL(url, 'http://localhost');
    const segments = pathname
      .split('/')
      .slice(1)
      .map((part) => decodeURIComponent(part));
    if (segments.some((one) => one.includes('\0'))) throw unreadable();
    return { pathname, segments, query: searchParams };
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw unreadable();
  }
}
