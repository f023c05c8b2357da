import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vitest/config';

/** The slow, outside-facing suites run one file at a time; two workers fit a machine of two cores. */
export default defineConfig({
  test: {
    maxWorkers: 2,
    testTimeout: 120_000,
    hookTimeout: 60_000,
    projects: ['core', 'media', 'pipeline', 'cli', 'server', 'demo', 'web', 'setup'].map((name) => ({
      extends: true as const,
      plugins: name === 'web' ? [vue()] : [],
      test: { name, include: [name === 'setup' ? 'scripts/test/**/*.test.ts' : `packages/${name}/test/**/*.test.ts`] },
    })),
  },
});
