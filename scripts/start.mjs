/** `npm start`: sets up what is missing, starts the database and the server, and ends both in order on Ctrl-C. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { FOR_START, ensurePackages } from './setup/debian.mjs';
import { SetupError, main } from './setup/fail.mjs';
import { lock } from './setup/lock.mjs';
import { startDatabase } from './setup/mariadb.mjs';
import { ROOT, isFree, settings } from './setup/settings.mjs';
import { build, installPackages } from './setup/steps.mjs';

await main(async () => {
  const { data, port, databasePort } = settings();
  const unlock = lock(data);
  process.on('exit', unlock);
  if (!(await isFree(port)))
    throw new SetupError(`Port ${port} is taken by another program; stop it, or set YARLOP_PORT to a free port.`);
  await ensurePackages(FOR_START);
  await installPackages();
  await build();
  const database = await startDatabase(data, databasePort);
  let server = null;
  let ending = false;
  const end = async (status) => {
    if (ending) return;
    ending = true;
    if (server && server.exitCode === null && server.signalCode === null) {
      const gone = new Promise((done) => server.once('exit', done));
      server.kill('SIGTERM');
      await Promise.race([gone, new Promise((done) => setTimeout(done, 8000))]);
      if (server.exitCode === null && server.signalCode === null) server.kill('SIGKILL');
    }
    await database.stop();
    process.exit(status);
  };
  process.on('SIGINT', () => void end(0));
  process.on('SIGTERM', () => void end(0));
  server = spawn(process.execPath, ['--enable-source-maps', join(ROOT, 'dist/server.mjs')], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true,
    env: {
      ...process.env,
      NODE_ENV: 'production',
      YARLOP_DATA: data,
      YARLOP_PORT: String(port),
      YARLOP_DEMO: process.env.YARLOP_NO_DEMO ? '' : join(ROOT, 'packages/demo/assets'),
      YARLOP_DB_PORT: String(database.port),
      YARLOP_DB_USER: database.user,
      YARLOP_DB_PASSWORD: database.password,
      YARLOP_WEB: join(ROOT, 'dist/web'),
      YARLOP_MIGRATIONS: join(ROOT, 'packages/server/migrations'),
    },
  });
  server.on('exit', (code) => void end(code ?? 1));
});
