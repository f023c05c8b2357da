/**
 * `npm run test:faults`: kills, hostile inputs, people at work and pages that listen, for about ten minutes; prints the
 * table that stands in `docs/reliability.md`. A short form of it runs with `npm test`.
 */
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FOR_TESTS, ensurePackages } from './setup/debian.mjs';
import { main, say } from './setup/fail.mjs';
import { testDatabase, vitest } from './setup/runners.mjs';
import { build, installPackages } from './setup/steps.mjs';

await main(async () => {
  await ensurePackages(FOR_TESTS);
  await installPackages();
  await build(['generated', 'programs']);
  const { env, end } = await testDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'yarlop-faults-'));
  const table = join(folder, 'table.md');
  // One after the other: what one of them costs must not be told of another.
  const args = ['--project', 'server', '--no-file-parallelism', 'packages/server/test/faults'];
  const code = await vitest(args, { ...env, YARLOP_FAULTS: 'long', YARLOP_FAULTS_TABLE: table });
  await end();
  if (existsSync(table)) say(`\n| what | result |\n| --- | --- |\n${readFileSync(table, 'utf8')}`);
  rmSync(folder, { recursive: true });
  process.exit(code);
});
