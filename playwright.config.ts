import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'packages/web/e2e',
  // Test machines are shared: everything may take twice as long.
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // Files side by side, each with a server of its own; most of a test is waiting for something.
  workers: 2,
  fullyParallel: false,
  forbidOnly: true,
  retries: 0,
  outputDir: 'test-results',
  use: {
    testIdAttribute: 'data-test',
    viewport: { width: 1280, height: 720 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
