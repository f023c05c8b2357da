import { defineConfig } from 'vitest/config';

/** The tests of one part; their names come from `scripts/mutation.mjs`. */
export default defineConfig({
  test: { include: (process.env.MUTATION_TESTS ?? '').split(','), testTimeout: 120_000 },
});
