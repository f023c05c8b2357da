/** The server as a process of its own, ended in order: it drains before the database goes. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from './settings.mjs';

/** Longer than the server takes to store what its jobs have. */
const DRAIN_MS = 8000;

/** How programs are told of the database. @param database as {@link startDatabase} gives it */
export function databaseEnv({ port, user, password }) {
  return { YARLOP_DB_PORT: String(port), YARLOP_DB_USER: user, YARLOP_DB_PASSWORD: password };
}

/**
 * @param program the bundled server
 * @param database as {@link startDatabase} gives it
 * @param env further settings
 * @param account as `account.mjs` gives it; null for whoever starts it
 */
export function startServer(program, { data, port, database, env = {}, account = null }) {
  return spawn(process.execPath, ['--enable-source-maps', program], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true,
    ...(account ? { uid: account.uid, gid: account.gid } : {}),
    env: {
      ...process.env,
      YARLOP_DATA: data,
      YARLOP_PORT: String(port),
      YARLOP_DEMO: process.env.YARLOP_NO_DEMO ? '' : join(ROOT, 'packages/demo/assets'),
      ...databaseEnv(database),
      YARLOP_WEB: join(ROOT, 'dist/web'),
      YARLOP_MIGRATIONS: join(ROOT, 'packages/server/migrations'),
      ...env,
    },
  });
}

const hasEnded = (server) => server.exitCode !== null || server.signalCode !== null;

export async function endServer(server) {
  if (!server || hasEnded(server)) return;
  const gone = new Promise((done) => server.once('exit', done));
  server.kill('SIGTERM');
  await Promise.race([gone, new Promise((done) => setTimeout(done, DRAIN_MS))]);
  if (!hasEnded(server)) server.kill('SIGKILL');
}

/** What a server that did not come to stand is told by: it has said why itself. */
export class ServerEnded extends Error {
  constructor(status) {
    super(`status ${status}`);
    this.status = status;
  }
}

/** Starts it and waits until it answers. @returns {Promise<import('./supervise.mjs').Running>} */
export async function standingServer(program, options) {
  const server = startServer(program, options);
  const ended = new Promise((done) => server.once('exit', (code, signal) => done(code ?? signal)));
  const stands = new Promise((done) => server.once('message', done));
  const first = await Promise.race([stands.then(() => null), ended.then((how) => ({ how }))]);
  if (first) throw new ServerEnded(first.how);
  return { gone: ended.then(String), stop: () => endServer(server) };
}
