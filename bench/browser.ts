/** The browser of measurements. */
import { type Browser, chromium } from '@playwright/test';

/** Debian's Chromium, without a window. */
export function launched(): Promise<Browser> {
  return chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
}
