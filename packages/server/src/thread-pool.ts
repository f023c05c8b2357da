/** The server's pools of threads: programs of its own, beside it; a thread that ends is replaced and never ends the server. */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Logger } from 'pino';
import { Piscina } from 'piscina';

interface Threads {
  /** its bundle lies beside the server's own */
  readonly program: 'worker' | 'reader';
  readonly most: number;
  /** niceness: see `give-way.ts` */
  readonly givesWay: number;
  /** ms after which a thread without work is let go */
  readonly idle: number;
  /** MB that the objects of a thread may take up; as Node has it when left out */
  readonly mb?: number;
}

/** @param ended told of a thread that ended without work; the log has it already */
export function threadPool<T, R>(
  { program, most, givesWay, idle, mb }: Threads,
  log: Logger,
  ended: (e: unknown) => void = () => {},
): Piscina<T, R> {
  const pool = new Piscina<T, R>({
    filename: join(fileURLToPath(new URL('.', import.meta.url)), `${program}.mjs`),
    maxThreads: most,
    minThreads: 0,
    idleTimeout: idle,
    workerData: givesWay,
    ...(mb === undefined ? {} : { resourceLimits: { maxOldGenerationSizeMb: mb } }),
  });
  // Unheard, it would end the whole server.
  pool.on('error', (e: unknown) => {
    log.error(e, `a thread of ${program} ended`);
    ended(e);
  });
  return pool;
}
