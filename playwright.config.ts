import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'packages/web/e2e',
  // Test machines are shared: everything may take twice as long.
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // One at a time: two cores are busy with one page, its server and its database; two side by side gained a tenth and came near their limits.
  workers: 1,
  fullyParallel: false,
  forbidOnly: true,
  retries: 0,
  outputDir: 'test-results',
  use: {
    testIdAttribute: 'data-test',
    viewport: { width: 1280, height: 720 },
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
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
