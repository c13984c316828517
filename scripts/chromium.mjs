/** Debian's Chromium without a window of its own, and how it is started for tests, measurements and pictures. */
export const CHROMIUM = '/usr/bin/chromium-headless-shell';

export const LAUNCH = { executablePath: CHROMIUM, args: ['--no-sandbox', '--disable-gpu'] };
