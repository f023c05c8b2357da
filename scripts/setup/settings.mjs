/** Where data lies and which ports are used; all of it can be set from the environment. */
import { existsSync } from 'node:fs';
import { createServer } from 'node:net';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { SetupError } from './fail.mjs';

export const ROOT = dirname(dirname(dirname(fileURLToPath(import.meta.url))));

/** What `.env` holds, where the environment itself does not say otherwise. */
const FILE = join(ROOT, '.env');
if (existsSync(FILE)) process.loadEnvFile(FILE);

function portFrom(name, fallback) {
  const text = process.env[name];
  if (text === undefined || text === '') return fallback;
  const port = Number(text);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new SetupError(`${name} is "${text}"; a port is a whole number from 1 to 65535.`);
  return port;
}

export function settings() {
  return {
    data: resolve(process.env.YARLOP_DATA || join(ROOT, '.yarlop')),
    port: portFrom('YARLOP_PORT', 4420),
    databasePort: portFrom('YARLOP_DB_PORT', null),
  };
}

export function isFree(port) {
  return new Promise((done) => {
    const probe = createServer();
    probe.once('error', () => done(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)));
  });
}

export function freePort() {
  return new Promise((done, failed) => {
    const probe = createServer();
    probe.once('error', failed);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => done(port));
    });
  });
}
