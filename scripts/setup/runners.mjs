/** The test runners, and a database server of the tests' own. */
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { say } from './fail.mjs';
import { startDatabase } from './mariadb.mjs';
import { ROOT } from './settings.mjs';

/** A step that takes longer hangs. */
const LIMIT_MS = 40 * 60_000;
/** The same of the tests of faults, whose load may be made to last. */
const FAULTS_LIMIT_MS = 60 * 60_000;

/** Projects of Vitest by what they need before they run: nothing; the built programs; those and the database. */
export const UNIT = ['core', 'media', 'demo', 'web'];
export const PROGRAMS = ['pipeline', 'cli'];
export const SERVED = ['server', 'setup'];

/** @returns the exit status; 1 when it could not be started or hung */
export function run(command, args, env = {}, limit = LIMIT_MS) {
  return new Promise((done) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', env: { ...process.env, ...env } });
    const timer = setTimeout(() => child.kill('SIGKILL'), limit);
    child.on('error', () => done(1));
    child.on('close', (code) => {
      clearTimeout(timer);
      done(code ?? 1);
    });
  });
}

/**
 * Runs something beside something else, silently until it is done.
 * @param options.nice 19 for what takes the time that nothing else wants, 0 for what must not starve
 * @param options.env added to the environment
 * @returns its exit status and what it said
 */
export function runAside(command, args, { nice = 0, env = {} } = {}) {
  return new Promise((done) => {
    const child = spawn('nice', ['-n', String(nice), command, ...args], {
      cwd: ROOT,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...env },
    });
    let said = '';
    const hear = (chunk) => (said += chunk.toString());
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    const timer = setTimeout(() => {
      said += 'It took too long and was ended.\n';
      child.kill('SIGKILL');
    }, LIMIT_MS);
    child.on('error', (e) => done({ code: 1, said: `${said}${e.message}\n` }));
    child.on('close', (code) => {
      clearTimeout(timer);
      done({ code: code ?? 1, said });
    });
  });
}

const VITEST = ['vitest', 'run'];
export const vitest = (args, env, limit) => run('npx', [...VITEST, ...args], env, limit);
export const vitestAside = (args, options) => runAside('npx', [...VITEST, ...args], options);
export const playwright = (args, env) => run('npx', ['playwright', 'test', ...args], env);
/** Kills, hostile inputs and a load in their long form; prints the table that stands in `docs/reliability.md`. */
export async function faults(args, env) {
  const table = join(env.YARLOP_TEST_FOLDER, 'faults.md');
  // One after the other: what one of them costs must not be told of another.
  const files = args.some((a) => a.endsWith('.ts')) ? args : ['packages/server/test/faults', ...args];
  const all = ['--project', 'server', '--no-file-parallelism', ...files];
  const long = { ...env, YARLOP_FAULTS: 'long', YARLOP_FAULTS_TABLE: table };
  const code = await vitest(all, long, FAULTS_LIMIT_MS);
  if (existsSync(table)) say(`\n| what | result |\n| --- | --- |\n${readFileSync(table, 'utf8')}`);
  return code;
}
export const projects = (names) => names.flatMap((name) => ['--project', name]);

/**
 * A database server in a folder that goes with it; an interrupt ends it too.
 * @returns the folder, the environment in which tests find the server, and the end of both
 */
export async function testDatabase() {
  const folder = mkdtempSync(join(tmpdir(), 'yarlop-test-'));
  const database = await startDatabase(folder, null);
  const end = async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  };
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end().then(() => process.exit(130)));
  const env = {
    YARLOP_DB_PORT: String(database.port),
    YARLOP_DB_USER: database.user,
    YARLOP_DB_PASSWORD: database.password,
    YARLOP_TEST_FOLDER: folder,
  };
  return { folder, env, end };
}
