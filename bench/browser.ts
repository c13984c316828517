/** The browser of measurements. */
import { type Browser, chromium } from '@playwright/test';
import { LAUNCH } from '../scripts/chromium.mjs';

/** Debian's Chromium, without a window. */
export function launched(): Promise<Browser> {
  return chromium.launch(LAUNCH);
}
