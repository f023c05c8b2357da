/**
 * `npm test`: set-up, then lint, types, unit and API tests against a database server of their own, and browser tests.
 * The last line counts everything; a lint or type error or a crash counts as failed.
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FOR_TESTS, ensurePackages } from './setup/debian.mjs';
import { main, say } from './setup/fail.mjs';
import { fetchSamples } from './setup/samples.mjs';
import { startDatabase } from './setup/mariadb.mjs';
import { ROOT } from './setup/settings.mjs';
import { build, installPackages } from './setup/steps.mjs';

const LIMIT_MS = 20 * 60_000;

function run(command, args, env = {}) {
  return new Promise((done) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', env: { ...process.env, ...env } });
    const timer = setTimeout(() => child.kill('SIGKILL'), LIMIT_MS);
    child.on('error', () => done(1));
    child.on('close', (code) => {
      clearTimeout(timer);
      done(code ?? 1);
    });
  });
}

function readReport(path) {
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : null;
}

/** Adds a report's counts; a runner that failed without a failed test (a crash) counts as one. */
function count(total, passed, failed, code) {
  total.passed += passed;
  total.failed += failed > 0 || code === 0 ? failed : 1;
}

await main(async () => {
  await ensurePackages(FOR_TESTS);
  await installPackages();
  await build();
  await fetchSamples();
  const total = { passed: 0, failed: 0 };
  const folder = mkdtempSync(join(tmpdir(), 'yarlop-test-'));
  for (const step of ['lint', 'types']) {
    say(`\n== ${step}`);
    const code = await run('npm', ['run', '--silent', step]);
    count(total, code === 0 ? 1 : 0, 0, code);
  }
  const database = await startDatabase(folder, null);
  const end = async (status) => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
    process.exit(status);
  };
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end(130));
  const env = {
    YARLOP_DB_PORT: String(database.port),
    YARLOP_DB_USER: database.user,
    YARLOP_DB_PASSWORD: database.password,
    YARLOP_TEST_FOLDER: folder,
  };
  say('\n== unit and API');
  const unit = join(folder, 'unit.json');
  const unitCode = await run(
    'npx',
    ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile.json=${unit}`],
    env,
  );
  const u = readReport(unit);
  const broken = u
    ? u.testResults.filter((f) => f.status === 'failed' && f.assertionResults.every((a) => a.status !== 'failed'))
        .length
    : 1;
  const left = u ? u.numPendingTests + u.numTodoTests : 0;
  count(total, u?.numPassedTests ?? 0, (u?.numFailedTests ?? 0) + broken + left, unitCode);
  say('\n== browser');
  const browser = join(folder, 'browser.json');
  const browserCode = await run('npx', ['playwright', 'test', '--reporter=list,json'], {
    ...env,
    PLAYWRIGHT_JSON_OUTPUT_NAME: browser,
  });
  const b = readReport(browser);
  count(
    total,
    b?.stats.expected ?? 0,
    (b?.stats.unexpected ?? 1) + (b?.stats.flaky ?? 0) + (b?.stats.skipped ?? 0),
    browserCode,
  );
  say(`\n${total.passed} passed, ${total.failed} failed`);
  await end(total.failed > 0 ? 1 : 0);
});
