/**
 * `npm run backup -- FOLDER`: everything into a folder, while Yarlop runs or not. `npm run restore -- FOLDER`: back into a
 * data folder that has nothing yet; Yarlop must not run from it.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { FOR_START, ensurePackages } from './setup/debian.mjs';
import { SetupError, main } from './setup/fail.mjs';
import { lock } from './setup/lock.mjs';
import { runningDatabase, startDatabase } from './setup/mariadb.mjs';
import { databaseEnv } from './setup/serve.mjs';
import { ROOT, settings } from './setup/settings.mjs';
import { build, installPackages } from './setup/steps.mjs';

/** The command on its way, with the database of this data folder. @returns its exit status */
async function run(args, data, database) {
  const child = spawn(process.execPath, ['--enable-source-maps', join(ROOT, 'dist/library.mjs'), ...args], {
    stdio: 'inherit',
    env: { ...process.env, YARLOP_DATA: data, ...databaseEnv(database) },
  });
  const [code] = await once(child, 'exit');
  return code ?? 1;
}

await main(async () => {
  const args = process.argv.slice(2);
  if (!args[1]) throw new SetupError(`Say which folder: npm run ${args[0]} -- FOLDER.`);
  const { data, databasePort } = settings();
  const running = await runningDatabase(data);
  if (running && args[0] === 'restore')
    throw new SetupError('Yarlop runs from this data folder; end it first, or set YARLOP_DATA to a new folder.');
  if (running) process.exit(await run(args, data, running));
  const unlock = lock(data);
  process.on('exit', unlock);
  await ensurePackages(FOR_START);
  await installPackages();
  await build(['generated', 'programs']);
  const database = await startDatabase(data, databasePort);
  const code = await run(args, data, database);
  await database.stop();
  process.exit(code);
});
