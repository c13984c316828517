import { defineConfig } from '@playwright/test';
import { LAUNCH } from './scripts/chromium.mjs';

export default defineConfig({
  testDir: 'e2e',
  // Only a hang takes this long.
  timeout: 55_000,
  expect: { timeout: 15_000 },
  // One for each core; each has a server of its own.
  workers: 2,
  globalSetup: './e2e/setup.ts',
  forbidOnly: true,
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    launchOptions: {
      ...LAUNCH,
      args: [
        ...LAUNCH.args,
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
