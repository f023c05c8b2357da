/** `npm start`: sets up what is missing, starts the database and the server, and ends both in order on Ctrl-C. */
import { join } from 'node:path';
import { accountFor } from './setup/account.mjs';
import { FOR_START, ensurePackages } from './setup/debian.mjs';
import { SetupError, main } from './setup/fail.mjs';
import { lock } from './setup/lock.mjs';
import { startDatabase } from './setup/mariadb.mjs';
import { ServerEnded, standingServer } from './setup/serve.mjs';
import { ROOT, isFree, settings } from './setup/settings.mjs';
import { build, installPackages } from './setup/steps.mjs';
import { keepRunning } from './setup/supervise.mjs';

await main(async () => {
  const { data, port, databasePort } = settings();
  const unlock = lock(data);
  process.on('exit', unlock);
  if (!(await isFree(port)))
    throw new SetupError(`Port ${port} is taken by another program; stop it, or set YARLOP_PORT to a free port.`);
  await ensurePackages(FOR_START);
  await installPackages();
  await build();
  const account = accountFor(data);
  // A database that is started again keeps its port, so that the server finds it.
  let database = null;
  const databases = await keepRunning('The database', async () => {
    database = await startDatabase(data, database?.port ?? databasePort, account);
    return database;
  });
  let servers = null;
  /** With accounts; what `.env` says of it stays where it is not asked for here. */
  const studio = process.argv.includes('--studio') ? { YARLOP_STUDIO: '1' } : {};
  let isEnding = false;
  const end = async (status) => {
    if (isEnding) return;
    isEnding = true;
    await servers?.stop();
    await databases.stop();
    process.exit(status);
  };
  process.on('SIGINT', () => void end(0));
  process.on('SIGTERM', () => void end(0));
  const program = join(ROOT, 'dist/server.mjs');
  try {
    servers = await keepRunning('The server', () =>
      standingServer(program, { data, port, database, account, env: { NODE_ENV: 'production', ...studio } }),
    );
  } catch (e) {
    if (!(e instanceof ServerEnded)) throw e;
    await end(typeof e.status === 'number' ? e.status : 1);
  }
});
