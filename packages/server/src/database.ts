import mysql from 'mysql2/promise';
import pTimeout from 'p-timeout';
import Postgrator from 'postgrator';
import { backUp } from './back-up';
import type { Config } from './config';

export type Parameter = string | number | bigint | null;

export interface Executor {
  /** rows of a prepared SELECT */
  all<T>(sql: string, values?: Parameter[]): Promise<T[]>;
  one<T>(sql: string, values?: Parameter[]): Promise<T | null>;
  /** a prepared write */
  run(sql: string, values?: Parameter[]): Promise<{ insertId: number; affectedRows: number }>;
}

/** The database did not answer in time: it stands still, or hangs on a disk. */
export class DatabaseSilent extends Error {
  readonly code = 'DATABASE_SILENT';

  constructor() {
    super('The database did not answer in time.');
  }
}

/** Ms in which the database must take a new connection. */
const CONNECTS = 5000;

function inTime<T>(call: Promise<T>, ms: number): Promise<T> {
  return pTimeout(call, { milliseconds: ms, message: new DatabaseSilent() });
}

/** @param ms after which a call that has no answer is given up */
function executor(c: mysql.PoolConnection, ms: number): Executor {
  const all = async <T>(sql: string, values: Parameter[] = []): Promise<T[]> =>
    (await inTime(c.execute<mysql.RowDataPacket[]>(sql, values), ms))[0] as T[];
  return {
    all,
    one: async <T>(sql: string, values: Parameter[] = []) => (await all<T>(sql, values))[0] ?? null,
    run: async (sql, values = []) => (await inTime(c.execute<mysql.ResultSetHeader>(sql, values), ms))[0],
  };
}

/** Times that a deadlock's victim is tried again; two writers rarely meet twice. By trial. */
const MOST_TRIES = 6;

/** The server rolls a deadlock's victim back whole, so that it can be tried again. */
async function untilUnlocked<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await work();
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'ER_LOCK_DEADLOCK' || tries === MOST_TRIES) throw e;
    }
  }
}

export class Database implements Executor {
  private readonly pool: mysql.Pool;
  private readonly callMs: number;

  constructor(config: Config['database']) {
    this.callMs = config.callMs;
    this.pool = mysql.createPool({
      host: config.host,
      port: config.port,
      user: config.user,
      password: config.password,
      database: config.name,
      connectionLimit: 12,
      connectTimeout: CONNECTS,
      supportBigNumbers: true,
      charset: 'utf8mb4',
      timezone: 'Z',
    });
  }

  all<T>(sql: string, values?: Parameter[]): Promise<T[]> {
    return this.connected((c) => executor(c, this.callMs).all<T>(sql, values));
  }

  one<T>(sql: string, values?: Parameter[]): Promise<T | null> {
    return this.connected((c) => executor(c, this.callMs).one<T>(sql, values));
  }

  run(sql: string, values?: Parameter[]): Promise<{ insertId: number; affectedRows: number }> {
    return untilUnlocked(() => this.connected((c) => executor(c, this.callMs).run(sql, values)));
  }

  /** Whether it answers. @param ms in which it must */
  async answers(ms: number): Promise<boolean> {
    const asked = this.one('SELECT 1 AS alive');
    return inTime(asked, ms).then(
      () => true,
      () => false,
    );
  }

  /** @param work may run more than once: a transaction that the server chose as a deadlock's victim is begun again */
  transaction<T>(work: (t: Executor) => Promise<T>): Promise<T> {
    return untilUnlocked(() => this.connected((c) => this.attempt(c, work)));
  }

  /** A connection for a piece of work; one that fell silent is not used again. */
  private async connected<T>(work: (c: mysql.PoolConnection) => Promise<T>): Promise<T> {
    const waiting = this.pool.getConnection();
    const c = await inTime(waiting, this.callMs).catch((e: unknown) => {
      void waiting.then(
        (late) => late.release(),
        () => {},
      );
      throw e;
    });
    try {
      const out = await work(c);
      c.release();
      return out;
    } catch (e) {
      if (e instanceof DatabaseSilent) c.destroy();
      else c.release();
      throw e;
    }
  }

  private async attempt<T>(c: mysql.PoolConnection, work: (t: Executor) => Promise<T>): Promise<T> {
    try {
      await inTime(c.beginTransaction(), this.callMs);
      const out = await work(executor(c, this.callMs));
      await inTime(c.commit(), this.callMs);
      return out;
    } catch (e) {
      if (!(e instanceof DatabaseSilent)) await inTime(c.rollback(), this.callMs).catch(() => {});
      throw e;
    }
  }

  /** In time, whether the database answers or not. */
  close(): Promise<void> {
    return inTime(this.pool.end(), CONNECTS).catch(() => {});
  }
}

/** The number of the last migration that a database went through; 0 for a new one. */
async function versionOf(c: mysql.Connection): Promise<number> {
  const [tables] = await c.query<mysql.RowDataPacket[]>(`SHOW TABLES LIKE 'schemaversion'`);
  if (tables.length === 0) return 0;
  const [rows] = await c.query<mysql.RowDataPacket[]>('SELECT COALESCE(MAX(version), 0) AS version FROM schemaversion');
  return Number((rows[0] as { version: number }).version);
}

/**
 * What must be so before tables are changed: this Yarlop knows them all, and what they hold is kept beside them.
 * @param newest number of the last migration that this Yarlop has
 * @returns where the backup lies; null where none was needed
 * @throws Error with a sentence, when the tables are of a newer Yarlop or the backup fails
 */
async function prepare(config: Config, version: number, newest: number): Promise<string | null> {
  if (version > newest)
    throw new Error(
      `the data is of a newer Yarlop (its tables are at ${version}, this one knows them up to ${newest}). Start the newer Yarlop; nothing was changed.`,
    );
  if (version === 0 || version === newest) return null;
  return backUp(config, `before-${String(newest).padStart(3, '0')}`);
}

/**
 * Creates the database when it is not there and brings its tables to the newest migration.
 * @returns where what was there before lies as a backup; null where nothing was changed
 * @throws Error see {@link prepare}
 */
export async function migrate(config: Config): Promise<string | null> {
  const { name, callMs: _callMs, ...server } = config.database;
  const c = await mysql.createConnection({ ...server, multipleStatements: true });
  try {
    await c.query(
      `CREATE DATABASE IF NOT EXISTS \`${name.replaceAll('`', '')}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci`,
    );
    await c.changeUser({ database: name });
    const postgrator = new Postgrator({
      migrationPattern: `${config.migrations}/*`,
      driver: 'mysql',
      database: name,
      execQuery: async (query: string) => ({ rows: (await c.query(query))[0] as unknown[] }),
    });
    const backup = await prepare(config, await versionOf(c), await postgrator.getMaxVersion());
    await postgrator.migrate();
    return backup;
  } finally {
    await c.end();
  }
}
