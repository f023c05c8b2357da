import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vitest/config';

/** Names of the projects whose test files share what they load: warm code follows and renders quicker. */
const SHARED = ['core', 'media', 'pipeline', 'cli', 'server', 'demo'];

/** One worker more than a machine of two cores has: tests of servers wait a good deal. */
export default defineConfig({
  test: {
    maxWorkers: 3,
    // What computes runs beside the browser's tests, and takes what those leave.
    testTimeout: 300_000,
    hookTimeout: 300_000,
    projects: ['core', 'media', 'pipeline', 'cli', 'server', 'demo', 'web', 'setup'].map((name) => ({
      extends: true as const,
      plugins: name === 'web' ? [vue()] : [],
      test: {
        name,
        include: [name === 'setup' ? 'scripts/test/**/*.test.ts' : `packages/${name}/test/**/*.test.ts`],
        isolate: !SHARED.includes(name),
      },
    })),
  },
});
