import { resolve } from 'node:path';

/** Bytes; a few shots of a few hundred frames in HD. By trial. */
const WARN_BELOW = 10 * 1024 ** 3;

/** Ms; longer than the database waits for a lock of its own in any work here. By trial. */
const CALL_MS = 20_000;

/** MB. By trial. */
const WORKER_MB = 2048;

export interface Config {
  readonly host: string;
  readonly port: number;
  /** host names and ports that it answers for, as a browser writes them; the first is told to people */
  readonly names: readonly string[];
  /** accounts are asked for; null where whoever reaches this machine may work here */
  readonly studio: { readonly isSecure: boolean } | null;
  readonly data: string;
  readonly web: string;
  readonly migrations: string;
  /** bytes of disk that uploads must leave free */
  readonly reserve: number;
  /** bytes of free disk below which the person is warned */
  readonly warnBelow: number;
  /** MB that the objects of a worker may take up before it is ended; pictures lie outside of them */
  readonly workerMb: number;
  readonly database: {
    readonly host: string;
    readonly port: number;
    readonly user: string;
    readonly password: string;
    readonly name: string;
    /** ms after which a call to it that has no answer is given up */
    readonly callMs: number;
  };
}

const LOOPBACK: readonly string[] = ['127.0.0.1', 'localhost', '::1'];

/** @param named further host names, with commas between; one without a port is the name of a proxy before it */
function namesOf(named: string, port: number): string[] {
  const own = ['localhost', '127.0.0.1', '[::1]'].map((h) => `${h}:${port}`);
  const further = named.split(',').map((n) => n.trim().toLowerCase());
  return [...further.filter((n) => n !== ''), ...own];
}

/** @throws Error with a sentence when a setting is missing or wrong */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const need = (key: string): string => {
    const v = env[key];
    if (!v) throw new Error(`The setting ${key} is missing; start Yarlop with npm start.`);
    return v;
  };
  const host = env['YARLOP_HOST'] ?? '127.0.0.1';
  const studio = env['YARLOP_STUDIO'] === '1' ? { isSecure: env['YARLOP_TLS'] === '1' } : null;
  if (!studio && !LOOPBACK.includes(host))
    throw new Error(
      `YARLOP_HOST is ${host}; without accounts Yarlop listens on loopback only. Leave it out, start with npm start -- --studio, or reach this machine through an SSH tunnel.`,
    );
  const port = Number(env['YARLOP_PORT'] ?? 4420);
  return {
    host,
    port,
    names: namesOf(env['YARLOP_NAMES'] ?? '', port),
    studio,
    data: resolve(need('YARLOP_DATA')),
    web: resolve(env['YARLOP_WEB'] ?? 'dist/web'),
    migrations: resolve(env['YARLOP_MIGRATIONS'] ?? 'packages/server/migrations'),
    reserve: Number(env['YARLOP_RESERVE_BYTES'] ?? 200 * 1024 * 1024),
    warnBelow: Number(env['YARLOP_WARN_BYTES'] ?? WARN_BELOW),
    workerMb: Number(env['YARLOP_WORKER_MB'] ?? WORKER_MB),
    database: {
      host: '127.0.0.1',
      port: Number(need('YARLOP_DB_PORT')),
      user: need('YARLOP_DB_USER'),
      password: need('YARLOP_DB_PASSWORD'),
      name: env['YARLOP_DB_NAME'] ?? 'yarlop',
      callMs: Number(env['YARLOP_DB_CALL_MS'] ?? CALL_MS),
    },
  };
}
