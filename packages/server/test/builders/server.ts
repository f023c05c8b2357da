/** A whole server as a process of its own, with a database and a data folder of its own. */
import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { request } from 'node:http';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { checkAnswer } from '../../../contracts/src/check-answer';
import type { RouteName } from '../../../contracts/src/routes';
import { routeOf } from '../../../contracts/src/routes';

export async function freePort(): Promise<number> {
  const s = createServer();
  s.listen(0, '127.0.0.1');
  await once(s, 'listening');
  const { port } = s.address() as { port: number };
  s.close();
  return port;
}

/** Ms after which a raw request counts as unanswered. */
const RAW_MS = 20_000;

/** Routes that an installation without accounts refuses. */
export const WITH_ACCOUNTS = /\/(me\/|sign-|invitations|people)/;

export class TestServer {
  private child: ChildProcess | null = null;
  /** what it has written since it was started last, until it stood */
  said = '';
  /** routes that were answered well */
  readonly answered = new Set<RouteName>();
  private constructor(
    readonly data: string,
    readonly port: number,
    readonly database: string,
    private readonly env: Record<string, string>,
  ) {}

  /** @param data its folder; a new one when left out */
  static async create(env: Record<string, string> = {}, data?: string): Promise<TestServer> {
    if (!process.env['YARLOP_DB_PORT']) throw new Error('No test database; run npm test, which starts one.');
    const s = new TestServer(
      data ?? (await mkdtemp(join(tmpdir(), 'yarlop-server-'))),
      await freePort(),
      `yarlop_test_${randomBytes(6).toString('hex')}`,
      env,
    );
    await s.start();
    return s;
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async start(env: Record<string, string> = {}): Promise<void> {
    this.child = spawn('node', ['dist/server.mjs'], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: {
        ...process.env,
        YARLOP_DATA: this.data,
        YARLOP_PORT: String(this.port),
        YARLOP_DB_NAME: this.database,
        YARLOP_DEMO: '',
        YARLOP_LOG: 'fatal',
        ...this.env,
        ...env,
      },
    });
    this.said = '';
    for await (const text of this.child.stdout!) {
      this.said += String(text);
      if (this.said.includes('Yarlop is at')) return;
    }
    throw new Error('The server did not start.');
  }

  async kill(signal: 'SIGKILL' | 'SIGTERM' = 'SIGKILL'): Promise<void> {
    const gone = once(this.child!, 'exit');
    this.child!.kill(signal);
    await gone;
  }

  async sql<T>(query: string, values: (string | number)[] = []): Promise<T[]> {
    const c = await mysql.createConnection({
      host: '127.0.0.1',
      port: Number(process.env['YARLOP_DB_PORT']),
      user: process.env['YARLOP_DB_USER']!,
      password: process.env['YARLOP_DB_PASSWORD']!,
      database: this.database,
    });
    try {
      return (await c.execute(query, values))[0] as T[];
    } finally {
      await c.end();
    }
  }

  /** What is answered well is held against the contract of its route. */
  async request<T = Record<string, unknown>>(
    method: string,
    path: string,
    body?: unknown,
    cookie?: string,
  ): Promise<{ status: number; body: T }> {
    const r = await fetch(`${this.url}/api${path}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...(cookie === undefined ? {} : { cookie }),
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const answer = (await r.json().catch(() => null)) as T;
    const route = routeOf(method, path.split('?')[0]!);
    if (route && r.ok) {
      checkAnswer(route, answer);
      this.answered.add(route);
    }
    return { status: r.status, body: answer };
  }

  /** The token of the link for the first administrator, as it was told last; null where none was. */
  get firstLink(): string | null {
    return /\/join#([\w-]{43})\n/.exec(this.said)?.[1] ?? null;
  }

  /** The cookie of a browser whose person has just shown who they are, by an answer of the server. */
  async signedIn(path: string, body: unknown): Promise<string> {
    const answer = await fetch(`${this.url}/api${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    });
    const given = answer.headers.getSetCookie().find((c) => c.startsWith('yarlop_signed_in='));
    if (!given) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    const route = routeOf('POST', path)!;
    checkAnswer(route, await answer.json());
    this.answered.add(route);
    return given.split(';')[0]!;
  }

  /** The cookie of a browser that was never here before. */
  async newVisitor(): Promise<string> {
    const answer = await fetch(`${this.url}/api/health`);
    return answer.headers.get('set-cookie')!.split(';')[0]!;
  }

  /** A request whose method, path and headers are sent just as they are. */
  raw(
    method: string,
    path: string,
    headers: Record<string, string> = {},
    body = '',
  ): Promise<{ readonly status: number; readonly text: string }> {
    return new Promise((resolve, reject) => {
      const r = request({ host: '127.0.0.1', port: this.port, method, path, headers }, (res) => {
        let text = '';
        res.setEncoding('utf8').on('data', (t: string) => (text += t));
        res.on('end', () => resolve({ status: res.statusCode!, text }));
        res.on('error', reject);
      });
      r.on('error', reject);
      r.setTimeout(RAW_MS, () => r.destroy(new Error('no answer in time')));
      r.end(body);
    });
  }

  /** Sends bytes by the tus protocol; `keep` sends only the first so many. */
  async upload(bytes: Uint8Array, keep = bytes.length): Promise<{ id: string; status: number; text: string }> {
    const made = await fetch(`${this.url}/api/uploads`, {
      method: 'POST',
      headers: { 'Tus-Resumable': '1.0.0', 'Upload-Length': String(bytes.length) },
    });
    if (made.status !== 201) return { id: '', status: made.status, text: await made.text() };
    const path = new URL(made.headers.get('location')!, this.url).pathname;
    await this.patch(path.split('/').at(-1)!, bytes.subarray(0, keep), 0);
    return { id: path.split('/').at(-1)!, status: 201, text: '' };
  }

  async patch(id: string, bytes: Uint8Array, offset: number): Promise<number> {
    const r = await fetch(`${this.url}/api/uploads/${id}`, {
      method: 'PATCH',
      body: bytes as BodyInit,
      headers: {
        'Tus-Resumable': '1.0.0',
        'Upload-Offset': String(offset),
        'Content-Type': 'application/offset+octet-stream',
      },
    });
    return r.status;
  }

  async until<T>(ask: () => Promise<T | null | false | undefined>, ms = 110_000): Promise<T> {
    for (const end = Date.now() + ms; Date.now() < end; await new Promise((r) => setTimeout(r, 60))) {
      const v = await ask().catch(() => null);
      if (v) return v;
    }
    throw new Error('It did not happen in time.');
  }

  /** The first job of that kind that has ended like that. */
  ended(kind: string, state: string): Promise<{ id: number; message: string }> {
    return this.until(async () => {
      const { body } = await this.request<{ id: number; kind: string; state: string; message: string }[]>(
        'GET',
        '/jobs',
      );
      return body.find((j) => j.kind === kind && j.state === state);
    }, 60_000);
  }

  /** A production with one shot made from these bytes, read in. */
  async shot(bytes: Uint8Array, fileName = 'quay.mp4'): Promise<{ production: number; shot: number; hash: string }> {
    const p = await this.request<{ id: number }>('POST', '/productions', { name: 'Test' });
    const { id } = await this.upload(bytes);
    const s = await this.request<{ id: number; mediaHash: string; message?: string }>(
      'POST',
      `/productions/${p.body.id}/shots`,
      { name: 'Quay', upload: id, fileName },
    );
    if (s.status !== 201) throw new Error(s.body.message);
    await this.until(
      async () =>
        (await this.request<{ mediaState: string }>('GET', `/shots/${s.body.id}`)).body.mediaState === 'ready',
    );
    return { production: p.body.id, shot: s.body.id, hash: s.body.mediaHash };
  }

  async dispose(): Promise<void> {
    if (this.child && this.child.exitCode === null && this.child.signalCode === null) await this.kill('SIGTERM');
    await this.sql(`DROP DATABASE \`${this.database}\``).catch(() => {});
    await rm(this.data, { recursive: true, force: true });
  }
}
