/** Headers of every answer: who may show it, run it, and hear where it came from. */

/** On every answer. */
export const COMMON: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  'referrer-policy': 'no-referrer',
  'x-frame-options': 'DENY',
};

/**
 * The content security policy of a page: scripts of this origin and those with the nonce of this answer, no frames in either
 * direction. The framework writes styles into elements, which have no nonce.
 */
export function pagePolicy(nonce: string, isDevelopment: boolean): string {
  return [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}'${isDevelopment ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self' data:",
    `connect-src 'self'${isDevelopment ? ' ws:' : ''}`,
    "worker-src 'self' blob:",
    "manifest-src 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
}

/** Of everything that is no page: nothing in it is shown or run. */
export const DATA_POLICY = "default-src 'none'; frame-ancestors 'none'; sandbox";
