import mysql from 'mysql2/promise';
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

function executor(c: mysql.Pool | mysql.PoolConnection): Executor {
  const all = async <T>(sql: string, values: Parameter[] = []): Promise<T[]> =>
    (await c.execute<mysql.RowDataPacket[]>(sql, values))[0] as T[];
  return {
    all,
    one: async <T>(sql: string, values: Parameter[] = []) => (await all<T>(sql, values))[0] ?? null,
    run: async (sql, values = []) => (await c.execute<mysql.ResultSetHeader>(sql, values))[0],
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
  readonly all: Executor['all'];
  readonly one: Executor['one'];
  readonly run: Executor['run'];

  constructor(config: Config['database']) {
    this.pool = mysql.createPool({
      host: config.host,
      port: config.port,
      user: config.user,
      password: config.password,
      database: config.name,
      connectionLimit: 12,
      supportBigNumbers: true,
      charset: 'utf8mb4',
      timezone: 'Z',
    });
    const e = executor(this.pool);
    this.all = e.all;
    this.one = e.one;
    this.run = (sql, values) => untilUnlocked(() => e.run(sql, values));
  }

  /** @param work may run more than once: a transaction that the server chose as a deadlock's victim is begun again */
  transaction<T>(work: (t: Executor) => Promise<T>): Promise<T> {
    return untilUnlocked(() => this.attempt(work));
  }

  private async attempt<T>(work: (t: Executor) => Promise<T>): Promise<T> {
    const c = await this.pool.getConnection();
    try {
      await c.beginTransaction();
      const out = await work(executor(c));
      await c.commit();
      return out;
    } catch (e) {
      await c.rollback().catch(() => {});
      throw e;
    } finally {
      c.release();
    }
  }

  close(): Promise<void> {
    return this.pool.end();
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
  const { name, ...server } = config.database;
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
