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

/** @param account as `account.mjs` gives it; null for whoever starts it */
export async function startDatabase(data, wantedPort, account = null) {
  const folder = join(data, 'database');
  const files = join(folder, 'data');
  const log = join(folder, 'mariadb.log');
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  if (account) chownSync(folder, account.uid, account.gid);
  const asRoot = process.getuid() === 0 ? [`--user=${account?.name ?? 'root'}`] : [];
  if (!existsSync(files)) {
    say('Preparing the database ...');
    const fresh = `${files}.new`;
    rmSync(fresh, { recursive: true, force: true });
    const made = spawnSync(
      findProgram('mariadb-install-db'),
      [
        '--no-defaults',
        ...asRoot,
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
  const secretPath = join(folder, 'access.json');
  if (!existsSync(secretPath))
    writeFileSync(secretPath, JSON.stringify({ user: 'yarlop', password: randomBytes(24).toString('hex') }), {
      mode: 0o600,
    });
  const access = JSON.parse(readFileSync(secretPath, 'utf8'));
  const portPath = join(folder, 'port');
  const old = leftover(folder);
  if (old) {
    const port = Number(readFileSync(portPath, 'utf8'));
    if (await answers(port)) {
      say(`Taking over the database that still runs from before (process ${old}).`);
      return { ...access, port, gone: goneOf(old), stop: () => stop(old) };
    }
    await stop(old);
  }
  if (wantedPort && !(await isFree(wantedPort)))
    throw new SetupError(
      `Port ${wantedPort} for the database is taken by another program; stop it, or set YARLOP_DB_PORT to a free port (or leave it out).`,
    );
  const port = wantedPort ?? (await freePort());
  const init = join(folder, 'init.sql');
  const q = (s) => `'${s.replaceAll("'", "''")}'`;
  writeFileSync(
    init,
    [
      `CREATE USER IF NOT EXISTS ${q(access.user)}@'127.0.0.1' IDENTIFIED BY ${q(access.password)};`,
      `REVOKE ALL PRIVILEGES, GRANT OPTION FROM ${q(access.user)}@'127.0.0.1';`,
      // Its own databases alone, those of tests among them.
      `GRANT ALL ON \`yarlop%\`.* TO ${q(access.user)}@'127.0.0.1';`,
      `ALTER USER 'root'@'localhost' IDENTIFIED BY ${q(access.password)};`,
      `DELETE FROM mysql.global_priv WHERE User = 'root' AND Host <> 'localhost';`,
      `DELETE FROM mysql.global_priv WHERE User = '';`,
      'FLUSH PRIVILEGES;',
      '',
    ].join('\n'),
    { mode: 0o600 },
  );
  if (account) chownSync(init, account.uid, account.gid);
  const err = openSync(log, 'a');
  if (account) chownSync(log, account.uid, account.gid);
  const child = spawn(
    findProgram('mariadbd'),
    [
      '--no-defaults',
      ...asRoot,
      `--datadir=${files}`,
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
  for (const until = Date.now() + READY_MS; !(await answers(port)); await wait(40)) {
    if (ended !== null || Date.now() > until) {
      const last = existsSync(log)
        ? readFileSync(log, 'utf8')
            .split('\n')
            .filter((l) => /\[ERROR\]/.test(l))
            .at(-1)
        : null;
      throw new SetupError(
        `The database did not start (${last?.replace(/^.*\[ERROR\]\s*/, '') ?? ended ?? 'no answer'}); see ${log}.`,
      );
    }
  }
  writeFileSync(portPath, String(port));
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
