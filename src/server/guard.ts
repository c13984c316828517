/**
 * Who may talk to the server. It serves the person at this machine: requests must name a
 * loopback host (so that no foreign name can be pointed at it) and must not come from pages
 * of another origin.
 */
import type { IncomingHttpHeaders } from 'node:http';
import { Refusal } from './refusal';

const LOOPBACK = ['127.0.0.1', 'localhost', '[::1]'];

function isOwnHost(host: string | undefined, port: number): boolean {
  return (
    host !== undefined &&
    LOOPBACK.some((name) => host.toLowerCase() === `${name}:${port}` || (port === 80 && host === name))
  );
}

/** Why a request is refused; undefined when it may pass. */
export function refuseStranger(
  request: {
    readonly headers: IncomingHttpHeaders;
    readonly method?: string | undefined;
    readonly url?: string | undefined;
  },
  port: number,
): Refusal | undefined {
  const { headers, method = 'GET', url = '/' } = request;
  if (!isOwnHost(headers.host, port))
    return new Refusal(
      403,
      'host-refused',
      `This server answers on 127.0.0.1:${port} only, not as another host.`,
      'Host',
    );
  const origin = headers.origin;
  const ownOrigins = LOOPBACK.map((name) => `http://${name}:${port}`);
  if (origin !== undefined && !ownOrigins.includes(origin.toLowerCase()))
    return new Refusal(403, 'origin-refused', 'Requests from pages of another origin are refused.', 'Origin');
  const site = headers['sec-fetch-site'];
  // A link may lead here; a frame, an object or a picture on a page of somebody else may not.
  const isVisit = headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document';
  const isPageVisit = method === 'GET' && !url.startsWith('/api/') && isVisit;
  if ((site === 'cross-site' || site === 'same-site') && !isPageVisit)
    return new Refusal(403, 'origin-refused', 'Requests from pages of another origin are refused.', 'Sec-Fetch-Site');
  return undefined;
}
