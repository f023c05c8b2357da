/**
 * `npm test`: set-up, then tests of the server and after them those of the browser, against a database server of their
 * own; in the idle moments of all that what only computes, and format, lint and types, told at the end.
 * The last line counts everything; an error of format, lint or types and a crash count as failed.
 */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { FOR_TESTS, ensurePackages } from './setup/debian.mjs';
import { main, say } from './setup/fail.mjs';
import { failedOfPlaywright, failedOfVitest } from './setup/failures.mjs';
import {
  PROGRAMS,
  SERVED,
  UNIT,
  playwright,
  projects,
  runAside,
  testDatabase,
  vitest,
  vitestAside,
} from './setup/runners.mjs';
import { fetchSamples } from './setup/samples.mjs';
import { build, installPackages } from './setup/steps.mjs';

/** Scripts of package.json that pass or fail as a whole. */
const CHECKS = ['format:check', 'lint', 'types'];
/**
 * One page, its server and its database keep hardly one core busy; the rest is left to what only computes, and to checks alike: with
 * any less, one of them went on alone when all else was done.
 */
const ASIDE_NICE = 10;
/** As many as fill what the others leave of two cores, with one that waits for its turn. */
const ASIDE_WORKERS = 2;

function readReport(path) {
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : null;
}

/** What failed is told once more at the end, where it is found without reading on. */
function tellFailures(what) {
  if (what.length > 0) say(`\n== what failed\n${what.join('\n')}`);
}

/** Adds a report's counts; a runner that failed without a failed test (a crash) counts as one. */
function count(total, passed, failed, code) {
  total.passed += passed;
  total.failed += failed > 0 || code === 0 ? failed : 1;
}

/** @param run starts Vitest with its arguments, and gives its exit status */
async function countVitest(total, { folder }, name, run) {
  const path = join(folder, `${name}.json`);
  const code = await run(['--reporter=default', '--reporter=json', `--outputFile.json=${path}`]);
  const report = readReport(path);
  const isBroken = (f) => f.status === 'failed' && f.assertionResults.every((a) => a.status !== 'failed');
  const broken = report ? report.testResults.filter(isBroken).length : 1;
  const left = report ? report.numPendingTests + report.numTodoTests : 0;
  total.what.push(...failedOfVitest(report, name));
  count(total, report?.numPassedTests ?? 0, (report?.numFailedTests ?? 0) + broken + left, code);
}

function runServed(total, database) {
  say('\n== server');
  return countVitest(total, database, 'server', (args) => vitest([...projects(SERVED), ...args], database.env));
}

/** They take what the others leave, and are told afterwards. */
function runBeside(total, database, name, which) {
  return countVitest(total, database, name, async (args) => {
    const chosen = [...projects(which), `--maxWorkers=${ASIDE_WORKERS}`];
    const { code, said } = await vitestAside([...chosen, ...args], { nice: ASIDE_NICE, env: database.env });
    say(`\n== ${name}\n${said}`);
    return code;
  });
}

async function runBrowser(total, { folder, env }) {
  say('\n== browser');
  const path = join(folder, 'browser.json');
  const code = await playwright(['--reporter=list,json'], { ...env, PLAYWRIGHT_JSON_OUTPUT_NAME: path });
  const report = readReport(path);
  const stats = report?.stats ?? { expected: 0, unexpected: 1, flaky: 0, skipped: 0 };
  total.what.push(...failedOfPlaywright(report));
  count(total, stats.expected, stats.unexpected + stats.flaky + stats.skipped, code);
}

await main(async () => {
  await ensurePackages(FOR_TESTS);
  await installPackages();
  await build();
  await fetchSamples();
  const total = { passed: 0, failed: 0, what: [] };
  const checks = CHECKS.map((check) => runAside('npm', ['run', '--silent', check], { nice: ASIDE_NICE }));
  const database = await testDatabase();
  const unit = runBeside(total, database, 'unit', UNIT);
  await runServed(total, database);
  // Programs are stopped and asked in time: the browser leaves them more than the server does.
  await Promise.all([runBrowser(total, database), runBeside(total, database, 'programs', PROGRAMS), unit]);
  for (const [i, { code, said }] of (await Promise.all(checks)).entries()) {
    say(`\n== ${CHECKS[i]}: ${code === 0 ? 'in order' : 'failed'}\n${said}`);
    count(total, code === 0 ? 1 : 0, 0, code);
    if (code !== 0) total.what.push(CHECKS[i]);
  }
  tellFailures(total.what);
  say(`\n${total.passed} passed, ${total.failed} failed`);
  await database.end();
  process.exit(total.failed > 0 ? 1 : 0);
});
