/** MariaDB's own programs, with the database's access. */
import type { ChildProcessByStdio } from 'node:child_process';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import type { Readable, Writable } from 'node:stream';
import type { Config } from './config';

/** Characters of a program's complaint that are passed on. */
const MOST_WORDS = 300;

export interface Client {
  readonly child: ChildProcessByStdio<Writable, Readable, Readable>;
  /** rejects with the program's own words */
  readonly done: Promise<void>;
}

export function databaseClient(
  program: 'mariadb' | 'mariadb-dump',
  { host, port, user, password }: Config['database'],
  args: readonly string[],
): Client {
  const child = spawn(program, ['--host', host, '--port', String(port), '--user', user, ...args], {
    env: { ...process.env, MYSQL_PWD: password },
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  let words = '';
  child.stderr.setEncoding('utf8').on('data', (t: string) => {
    words = (words + t).slice(0, MOST_WORDS);
  });
  const done = (once(child, 'close') as Promise<[number | null]>).then(([code]) => {
    if (code !== 0) throw new Error(words.trim() || `${program} ended with ${String(code)}`);
  });
  return { child, done };
}
