/**
 * `npm test`: set-up, then unit and API tests and browser tests side by side, against a database server of their own; beside
 * them format, lint and types, told at the end. The last line counts everything; an error of format, lint or types and a crash
 * count as failed.
 */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { FOR_TESTS, ensurePackages } from './setup/debian.mjs';
import { main, say } from './setup/fail.mjs';
import { playwrightAside, runAside, testDatabase, vitest } from './setup/runners.mjs';
import { fetchSamples } from './setup/samples.mjs';
import { build, installPackages } from './setup/steps.mjs';

/** Scripts of package.json that pass or fail as a whole. */
const CHECKS = ['format:check', 'lint', 'types'];
/** They take what the tests leave: browser tests run one at a time, and wait a good deal. */
const CHECKS_NICE = 19;
/** Two files of unit and API tests beside one page: neither alone keeps two cores busy, more would bring pages near their limits. */
const WORKERS_BESIDE_BROWSER = 2;

function readReport(path) {
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : null;
}

/** Adds a report's counts; a runner that failed without a failed test (a crash) counts as one. */
function count(total, passed, failed, code) {
  total.passed += passed;
  total.failed += failed > 0 || code === 0 ? failed : 1;
}

async function runUnits(total, { folder, env }) {
  const path = join(folder, 'unit.json');
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${path}`];
  const code = await vitest([`--maxWorkers=${WORKERS_BESIDE_BROWSER}`, ...reporters], env);
  const report = readReport(path);
  const isBroken = (f) => f.status === 'failed' && f.assertionResults.every((a) => a.status !== 'failed');
  const broken = report ? report.testResults.filter(isBroken).length : 1;
  const left = report ? report.numPendingTests + report.numTodoTests : 0;
  count(total, report?.numPassedTests ?? 0, (report?.numFailedTests ?? 0) + broken + left, code);
}

async function runBrowser(total, { folder, env }) {
  const path = join(folder, 'browser.json');
  const { code, said } = await playwrightAside(['--reporter=list,json'], { ...env, PLAYWRIGHT_JSON_OUTPUT_NAME: path });
  say(`\n== browser\n${said}`);
  const stats = readReport(path)?.stats ?? { expected: 0, unexpected: 1, flaky: 0, skipped: 0 };
  count(total, stats.expected, stats.unexpected + stats.flaky + stats.skipped, code);
}

await main(async () => {
  await ensurePackages(FOR_TESTS);
  await installPackages();
  await build();
  await fetchSamples();
  const total = { passed: 0, failed: 0 };
  // They take the processor's idle moments.
  const checks = CHECKS.map((check) => runAside('npm', ['run', '--silent', check], { nice: CHECKS_NICE }));
  const database = await testDatabase();
  say('\n== unit and API; browser tests beside them, told afterwards');
  await Promise.all([runUnits(total, database), runBrowser(total, database)]);
  for (const [i, { code, said }] of (await Promise.all(checks)).entries()) {
    say(`\n== ${CHECKS[i]}: ${code === 0 ? 'in order' : 'failed'}\n${said}`);
    count(total, code === 0 ? 1 : 0, 0, code);
  }
  say(`\n${total.passed} passed, ${total.failed} failed`);
  await database.end();
  process.exit(total.failed > 0 ? 1 : 0);
});
