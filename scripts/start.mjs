/** `npm start`: sets up what is missing, starts the database and the server, and ends both in order on Ctrl-C. */
import { join } from 'node:path';
import { FOR_START, ensurePackages } from './setup/debian.mjs';
import { SetupError, main } from './setup/fail.mjs';
import { lock } from './setup/lock.mjs';
import { startDatabase } from './setup/mariadb.mjs';
import { endServer, startServer } from './setup/serve.mjs';
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
    await endServer(server);
    await database.stop();
    process.exit(status);
  };
  process.on('SIGINT', () => void end(0));
  process.on('SIGTERM', () => void end(0));
  server = startServer(join(ROOT, 'dist/server.mjs'), { data, port, database, env: { NODE_ENV: 'production' } });
  server.on('exit', (code) => void end(code ?? 1));
});
