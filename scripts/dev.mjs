/**
 * `npm run dev`: the database, the server (bundled anew and started again after every change of what runs on Node) and
 * Vite with hot reload before it. Its data lie where `npm start` keeps them, so that only one of the two runs at a
 * time.
 */
import { spawn } from 'node:child_process';
import { watch as watchFiles } from 'node:fs';
import { join } from 'node:path';
import { FOR_START, ensurePackages } from './setup/debian.mjs';
import { SetupError, main, say } from './setup/fail.mjs';
import { lock } from './setup/lock.mjs';
import { startDatabase } from './setup/mariadb.mjs';
import { endServer, startServer } from './setup/serve.mjs';
import { ROOT, freePort, isFree, settings } from './setup/settings.mjs';
import { build, installPackages } from './setup/steps.mjs';

/** Apart from dist, whose files belong to a build of a known state. */
const BUNDLES = join(ROOT, '.cache/dev');

/** Makes types, validators and kernels again when their sources change; what watches the sources notices by itself. */
function watchGenerated() {
  let waiting = null;
  const make = () => {
    waiting = null;
    spawn('npm', ['run', '--silent', 'build', '--', 'generated'], { cwd: ROOT, stdio: 'inherit' });
  };
  for (const folder of ['packages/contracts/schemas', 'packages/core/kernels'])
    watchFiles(join(ROOT, folder), () => {
      clearTimeout(waiting);
      waiting = setTimeout(make, 200);
    });
}

/** The server, started again after each bundle: one change after the other, never two servers at once. */
function restarting(options) {
  let server = null;
  let turn = Promise.resolve();
  const restart = () => {
    turn = turn.then(async () => {
      await endServer(server);
      server = startServer(join(BUNDLES, 'server.mjs'), options);
    });
    return turn;
  };
  const end = async () => {
    await turn;
    await endServer(server);
  };
  return { restart, end };
}

async function watchServer(restart) {
  const { watch } = await import('rolldown');
  const { SERVER_PROGRAMS, bundling, writing } = await import('./build.mjs');
  const watcher = watch({ ...bundling(SERVER_PROGRAMS), output: writing(BUNDLES) });
  watcher.on('event', (event) => {
    if (event.code === 'ERROR') say(`\n${event.error.message}\nThe server before this change goes on.`);
    if (event.code === 'END') void restart();
    if (event.result) void event.result.close();
  });
  return watcher;
}

async function startVite(port, api) {
  const { createServer } = await import('vite');
  const vite = await createServer({
    configFile: join(ROOT, 'packages/web/vite.config.ts'),
    server: {
      port,
      strictPort: true,
      proxy: {
        '/api': {
          target: api,
          changeOrigin: true,
          // The server takes changes from its own pages only.
          configure: (proxy) => proxy.on('proxyReq', (request) => request.setHeader('Origin', api)),
        },
      },
    },
  });
  await vite.listen();
  return vite;
}

await main(async () => {
  const { data, port, databasePort } = settings();
  const unlock = lock(data);
  process.on('exit', unlock);
  if (!(await isFree(port)))
    throw new SetupError(`Port ${port} is taken by another program; stop it, or set YARLOP_PORT to a free port.`);
  await ensurePackages(FOR_START);
  await installPackages();
  await build(['generated']);
  const database = await startDatabase(data, databasePort);
  const apiPort = await freePort();
  const server = restarting({ data, port: apiPort, database });
  watchGenerated();
  const watcher = await watchServer(server.restart);
  const vite = await startVite(port, `http://127.0.0.1:${apiPort}`);
  say(`\nFor work on Yarlop: http://localhost:${port}/ (the server itself is at ${apiPort})\n`);
  let ending = false;
  const end = async () => {
    if (ending) return;
    ending = true;
    await vite.close();
    await watcher.close();
    await server.end();
    await database.stop();
    process.exit(0);
  };
  process.on('SIGINT', () => void end());
  process.on('SIGTERM', () => void end());
});
