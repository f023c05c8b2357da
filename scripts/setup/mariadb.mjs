/**
 * A MariaDB of the project's own: its data in one folder, on loopback only, in a process group of its own so that
 * Ctrl-C reaches it only through us, after the server has drained.
 */
import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  chownSync,
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { SetupError, say } from './fail.mjs';
import { findProgram } from './debian.mjs';
import { isAlive } from './lock.mjs';
import { freePort, isFree } from './settings.mjs';

const READY_MS = 30_000;

const wait = (ms) => new Promise((done) => setTimeout(done, ms));

function answers(port) {
  return new Promise((done) => {
    const socket = connect({ port, host: '127.0.0.1' });
    const answered = (there) => {
      socket.destroy();
      done(there);
    };
    socket.once('data', () => answered(true));
    socket.once('error', () => done(false));
    socket.setTimeout(1000, () => answered(false));
  });
}

/** The server that a killed start left behind in this folder, if it still runs. */
function leftover(folder) {
  const path = join(folder, 'mariadb.pid');
  if (!existsSync(path)) return null;
  const pid = Number(readFileSync(path, 'utf8'));
  if (!(pid > 0) || !isAlive(pid)) return null;
  const command = existsSync(`/proc/${pid}/cmdline`) ? readFileSync(`/proc/${pid}/cmdline`, 'utf8') : '';
  return command.includes(folder) ? pid : null;
}

/** Access to the database of a data folder while it runs; null while it does not. */
export async function runningDatabase(data) {
  const folder = join(data, 'database');
  if (!leftover(folder)) return null;
  const port = Number(readFileSync(join(folder, 'port'), 'utf8'));
  return (await answers(port)) ? { ...JSON.parse(readFileSync(join(folder, 'access.json'), 'utf8')), port } : null;
}

/** The account that the server runs under, as its own programs take it. */
const asRoot = (account) => (process.getuid() === 0 ? [`--user=${account?.name ?? 'root'}`] : []);

/** Empty tables, whole or not at all. */
function prepare(folder, files, account) {
  say('Preparing the database ...');
  const fresh = `${files}.new`;
  rmSync(fresh, { recursive: true, force: true });
  const made = spawnSync(
    findProgram('mariadb-install-db'),
    [
      '--no-defaults',
      ...asRoot(account),
      `--datadir=${fresh}`,
      '--auth-root-authentication-method=normal',
      '--skip-test-db',
      '--skip-name-resolve',
    ],
    { encoding: 'utf8' },
  );
  if (made.status !== 0)
    throw new SetupError(
      `The database could not be prepared (${`${made.stdout}\n${made.stderr}`.split('\n').find((l) => /ERROR/.test(l)) ?? 'no reason given'}); see ${folder}, check space and rights.`,
    );
  renameSync(fresh, files);
}

/** Name and password of the application's own account, made at the first start. */
function accessTo(folder) {
  const path = join(folder, 'access.json');
  if (!existsSync(path)) {
    const access = { user: 'yarlop', password: randomBytes(24).toString('hex') };
    writeFileSync(path, JSON.stringify(access), { mode: 0o600 });
  }
  return JSON.parse(readFileSync(path, 'utf8'));
}

/** A database that still runs from before; null where there is none, or it does not answer and was ended. */
async function takenOver(folder, access) {
  const old = leftover(folder);
  if (!old) return null;
  const port = Number(readFileSync(join(folder, 'port'), 'utf8'));
  if (await answers(port)) {
    say(`Taking over the database that still runs from before (process ${old}).`);
    return { ...access, port, gone: goneOf(old), stop: () => stop(old) };
  }
  await stop(old);
  return null;
}

async function portFor(wanted) {
  if (wanted && !(await isFree(wanted)))
    throw new SetupError(
      `Port ${wanted} for the database is taken by another program; stop it, or set YARLOP_DB_PORT to a free port (or leave it out).`,
    );
  return wanted ?? (await freePort());
}

/** What the server does before it answers: one account for the application, none for anybody else. */
function writeInit(path, access, account) {
  const q = (s) => `'${s.replaceAll("'", "''")}'`;
  const own = `${q(access.user)}@'127.0.0.1'`;
  const lines = [
    `CREATE USER IF NOT EXISTS ${own} IDENTIFIED BY ${q(access.password)};`,
    `REVOKE ALL PRIVILEGES, GRANT OPTION FROM ${own};`,
    // Its own databases alone, those of tests among them.
    `GRANT ALL ON \`yarlop%\`.* TO ${own};`,
    `ALTER USER 'root'@'localhost' IDENTIFIED BY ${q(access.password)};`,
    `DELETE FROM mysql.global_priv WHERE User = 'root' AND Host <> 'localhost';`,
    `DELETE FROM mysql.global_priv WHERE User = '';`,
    'FLUSH PRIVILEGES;',
    '',
  ];
  writeFileSync(path, lines.join('\n'), { mode: 0o600 });
  if (account) chownSync(path, account.uid, account.gid);
}

/** Starts the server, detached. @returns the process and a question whether, and how, it has ended */
function launch(folder, { port, init, log, account }) {
  const err = openSync(log, 'a');
  if (account) chownSync(log, account.uid, account.gid);
  const child = spawn(
    findProgram('mariadbd'),
    [
      '--no-defaults',
      ...asRoot(account),
      `--datadir=${join(folder, 'data')}`,
      '--socket=mariadb.sock',
      `--pid-file=${join(folder, 'mariadb.pid')}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      '--skip-name-resolve',
      '--skip-log-bin',
      `--log-error=${log}`,
      `--init-file=${init}`,
      '--innodb-buffer-pool-size=128M',
      '--innodb-flush-log-at-trx-commit=1',
      '--max-allowed-packet=64M',
      '--character-set-server=utf8mb4',
    ],
    { detached: true, stdio: ['ignore', err, err] },
  );
  closeSync(err);
  let ended = null;
  child.on('error', (e) => (ended = e.message));
  child.on('exit', (code) => (ended ??= `status ${code}`));
  return { child, ended: () => ended };
}

/** The last error that the server wrote down, without its date; null where it wrote none. */
function lastErrorIn(log) {
  if (!existsSync(log)) return null;
  const errors = readFileSync(log, 'utf8')
    .split('\n')
    .filter((l) => /\[ERROR\]/.test(l));
  return errors.at(-1)?.replace(/^.*\[ERROR\]\s*/, '') ?? null;
}

/** @throws SetupError where it ends, or does not answer in time */
async function untilItAnswers(port, log, ended) {
  for (const until = Date.now() + READY_MS; !(await answers(port)); await wait(40)) {
    if (ended() === null && Date.now() <= until) continue;
    const why = lastErrorIn(log) ?? ended() ?? 'no answer';
    throw new SetupError(`The database did not start (${why}); see ${log}.`);
  }
}

/** @param account as `account.mjs` gives it; null for whoever starts it */
export async function startDatabase(data, wantedPort, account = null) {
  const folder = join(data, 'database');
  const log = join(folder, 'mariadb.log');
  const init = join(folder, 'init.sql');
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  if (account) chownSync(folder, account.uid, account.gid);
  const files = join(folder, 'data');
  if (!existsSync(files)) prepare(folder, files, account);
  const access = accessTo(folder);
  const before = await takenOver(folder, access);
  if (before) return before;
  const port = await portFor(wantedPort);
  writeInit(init, access, account);
  const { child, ended } = launch(folder, { port, init, log, account });
  await untilItAnswers(port, log, ended);
  writeFileSync(join(folder, 'port'), String(port));
  return { ...access, port, gone: goneOf(child.pid), stop: () => stop(child.pid) };
}

/** Ms between looks at a database that another start began. */
const LOOKS_MS = 300;

/** Settles once a process is no more; it need not be a child. */
async function goneOf(pid) {
  while (isAlive(pid)) await new Promise((done) => setTimeout(done, LOOKS_MS).unref());
  return `process ${pid} is gone`;
}

async function stop(pid) {
  try {
    process.kill(pid, 'SIGTERM');
  } catch {
    return;
  }
  for (const until = Date.now() + 20_000; isAlive(pid) && Date.now() < until;) await wait(50);
}
