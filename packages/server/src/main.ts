/** The server's process: configuration from the environment, migrations, jobs, HTTP, and an orderly end. */
import { chmod, mkdir } from 'node:fs/promises';
import { createServer } from 'node:http';
import AsyncLock from 'async-lock';
import type { Logger } from 'pino';
import { createApp } from './app';
import { readConfig } from './config';
import type { Context } from './context';
import { Database, migrate } from './database';
import { Desk } from './desk';
import { EventHub } from './events';
import { Readers } from './readers';
import { logFolder, openLog } from './request-log';
import { Runner } from './runner';
import { seedDemo } from './seed-demo';
import { Storage } from './storage';
import { sweep } from './sweep';
import { removeExpired } from './use-cases/bin';
import { firstLink } from './use-cases/people';
import { visitorKey } from './visitor';

/** Ms. */
const BIN_LOOKED_AFTER = 3600 * 1000;
/** Of the data folder: for its owner alone. */
const PRIVATE = 0o700;

/** Removes what lies in the bin longer than its days, now and from time to time. */
function keepBin(c: Context, log: Logger): void {
  const look = (): void =>
    void removeExpired(c).then(
      (gone) => gone.length > 0 && log.warn({ gone }, 'removed from the bin after its days'),
      (e: unknown) => log.error(e, 'the bin could not be looked through'),
    );
  look();
  setInterval(look, BIN_LOOKED_AFTER).unref();
}

/** Where accounts are asked for and nobody has one, tells how the first is made. */
async function tellFirst(c: Context): Promise<void> {
  const token = c.config.studio ? await firstLink(c) : null;
  if (token === null) return;
  const { names, studio } = c.config;
  const scheme = studio!.isSecure ? 'https' : 'http';
  process.stdout.write(
    `Nobody has an account here yet. The first administrator chooses a password at\n${scheme}://${names[0]}/join#${token}\nonce, within a day.\n`,
  );
}

async function start(): Promise<void> {
  const config = readConfig(process.env);
  const storage = new Storage(config.data);
  await mkdir(storage.uploads(), { recursive: true });
  // Clips are nobody else's business, whatever the folder was before.
  await chmod(config.data, PRIVATE);
  const log = openLog(logFolder(config.data), process.env['YARLOP_LOG'] ?? 'warn');
  const backup = await migrate(config);
  if (backup) process.stdout.write(`The tables were changed; what was there before lies in ${backup}\n`);
  const db = new Database(config.database);
  const events = new EventHub();
  const desk = new Desk(log);
  const readers = new Readers(log);
  const alone = new AsyncLock();
  const context: Context = { config, db, storage, events, desk, readers, alone, wake: () => runner.wake() };
  const runner: Runner = new Runner(context, log);
  const left = await sweep(context);
  if (left.length > 0) log.warn({ left }, 'what an earlier run left unfinished was removed');
  keepBin(context, log);
  if (process.env['YARLOP_DEMO']) await seedDemo(context, process.env['YARLOP_DEMO']);
  await tellFirst(context);
  const server = createServer(createApp(context, runner, log, await visitorKey(config.data)));
  server.on('error', (e: NodeJS.ErrnoException) => {
    const taken = e.code === 'EADDRINUSE';
    process.stderr.write(
      taken
        ? `Port ${config.port} is taken by another program; stop it, or set YARLOP_PORT to a free port.\n`
        : `The server could not start: ${e.message}\n`,
    );
    process.exit(1);
  });
  server.listen(config.port, config.host, () => {
    runner.start();
    process.send?.('ready');
    process.stdout.write(`Yarlop is at http://localhost:${config.port}/\n`);
  });
  let ending = false;
  const end = async (): Promise<void> => {
    if (ending) return;
    ending = true;
    events.close();
    server.close();
    await Promise.all([runner.stop(), desk.close(), readers.close()]);
    server.closeAllConnections();
    await db.close();
    process.exit(0);
  };
  process.on('SIGTERM', () => void end());
  process.on('SIGINT', () => void end());
  process.on('disconnect', () => void end());
}

start().catch((e: Error) => {
  process.stderr.write(`The server could not start: ${e.message}\n`);
  process.exit(1);
});
