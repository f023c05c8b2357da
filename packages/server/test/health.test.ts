/** How the server tells that it stands, and that one visitor or one worker does not take it from the others. */
import { once } from 'node:events';
import { readFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import express from 'express';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EventHub } from '../src/events';
import { knowVisitors, visitorOf } from '../src/visitor';
import { visitorNow } from '../src/visitor-now';
import type { Health } from '../src/use-cases/health';
import { plateBytes } from './builders/plate';
import { TestServer } from './builders/server';

describe('the state of a server', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.create();
  }, 60_000);
  afterAll(() => server.dispose());

  it('tells of the database, the disk, the queue, the workers and its own thread', async () => {
    const { status, body } = await server.request<Health>('GET', '/health');
    expect(status).toBe(200);
    expect(body).toMatchObject({
      ok: true,
      database: { ok: true },
      disk: { ok: true },
      queue: { waiting: 0, running: 0, oldestSeconds: 0 },
      workers: { running: 0, ended: 0 },
    });
    expect(body.disk.freeBytes).toBeGreaterThan(1e6);
    expect(body.workers.slots).toBeGreaterThanOrEqual(2);
    expect(body.thread.longest).toBeGreaterThanOrEqual(body.thread.p99);
    expect(body.thread.worked).toBeGreaterThan(0);
  });
  it('gives each request a number that its log names', async () => {
    const answer = await fetch(`${server.url}/api/shots/123456`);
    const id = answer.headers.get('x-request-id')!;
    expect(id).toMatch(/^[a-z0-9]+-\d+$/);
    const line = await server.until(async () => {
      const lines = (await readFile(join(server.data, 'logs/server.log'), 'utf8')).split('\n');
      return lines.find((l) => l.includes(`"${id}"`));
    });
    expect(JSON.parse(line)).toMatchObject({
      req: { method: 'GET', url: '/api/shots/123456' },
      res: { statusCode: 404 },
    });
  });
});

describe('a worker that needs more memory than a job may have', () => {
  it('fails its job alone, with a sentence, and the server goes on', async () => {
    const server = await TestServer.create({ YARLOP_WORKER_MB: '8' });
    try {
      const p = await server.request<{ id: number }>('POST', '/productions', { name: 'Small' });
      const { id } = await server.upload(await plateBytes(6));
      await server.request('POST', `/productions/${p.body.id}/shots`, {
        name: 'Quay',
        upload: id,
        fileName: 'quay.mp4',
      });
      const job = await server.until(async () => {
        const jobs = (await server.request<{ state: string; message: string }[]>('GET', '/jobs')).body;
        return jobs.find((q) => q.state === 'failed');
      }, 30_000);
      expect(job.message).toMatch(/took more memory than a job may have/);
      const health = await server.until(async () => {
        const { body } = await server.request<Health>('GET', '/health');
        return body.workers.running === 0 ? body : null;
      });
      expect(health).toMatchObject({ ok: true, queue: { running: 0 }, workers: { ended: 1 } });
    } finally {
      await server.dispose();
    }
  }, 60_000);
});

describe('the log', () => {
  it('ends nothing when nobody reads it on the terminal any more', async () => {
    // The test reads up to the first line and closes its end.
    const server = await TestServer.create({ YARLOP_LOG: 'info' });
    try {
      for (let n = 0; n < 5; n++) expect((await server.request('GET', '/health')).status).toBe(200);
    } finally {
      await server.dispose();
    }
  }, 30_000);
});

describe('event streams', () => {
  const hub = new EventHub();
  const app = express();
  app.use(knowVisitors('a key of this test'));
  app.get('/who', (req, res) => void res.json({ asks: visitorOf(req), isFor: visitorNow() }));
  app.get('/events', (req, res) => hub.connect(req, res));
  const http = createServer(app);
  let url = '';
  beforeAll(async () => {
    http.listen(0, '127.0.0.1');
    await once(http, 'listening');
    url = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    hub.close();
    http.close();
    http.closeAllConnections();
  });

  /** What a stream says until it holds `what`, or ends. */
  async function hear(
    path: string,
    cookie = '',
  ): Promise<{ until: (what: string) => Promise<string>; end: () => void }> {
    const ended = new AbortController();
    const answer = await fetch(`${url}${path}`, { headers: { cookie }, signal: ended.signal });
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader();
    let text = '';
    const until = async (what: string): Promise<string> => {
      while (!text.includes(what)) {
        const { value, done } = await reader.read().catch(() => ({ value: undefined, done: true }));
        if (done) return `${text}[ended]`;
        text += value;
      }
      return text;
    };
    await until('retry');
    return { until, end: () => ended.abort() };
  }
  const newVisitor = async (): Promise<string> => (await fetch(`${url}/who`)).headers.get('set-cookie')!.split(';')[0]!;
  const solved = (shotId: number): Parameters<typeof hub.emit<'frames'>>[1] => ({
    shotId,
    screenId: 1,
    solveId: 1,
    frames: [],
  });

  it('tell solved frames only to pages that show their shot, and carry no numbers', async () => {
    const [one, other, none] = await Promise.all([hear('/events?shot=1'), hear('/events?shot=2'), hear('/events')]);
    hub.emit('frames', solved(1));
    hub.emit('queue', {});
    expect(await one.until('event: queue')).toContain('event: frames');
    expect(await other.until('event: queue')).not.toContain('event: frames');
    const text = await none.until('event: queue');
    expect(text).not.toContain('event: frames');
    expect(text).not.toMatch(/^id:/m);
    for (const s of [one, other, none]) s.end();
  });
  it('of one visitor are limited: the oldest makes way, those of others stay', async () => {
    const own = await newVisitor();
    const other = await hear('/events', await newVisitor());
    const first = await hear('/events', own);
    const more = await Promise.all(Array.from({ length: 12 }, () => hear('/events', own)));
    expect(await first.until('never')).toContain('[ended]');
    hub.emit('queue', {});
    expect(await other.until('event: queue')).toContain('event: queue');
    expect(await more.at(-1)!.until('event: queue')).toContain('event: queue');
    for (const s of [other, ...more]) s.end();
  });
  it('a visitor is known by the number that it was given, not by its address', async () => {
    const given = (await fetch(`${url}/who`)).headers.get('set-cookie')!;
    expect(given).toMatch(/HttpOnly.*SameSite=Strict/);
    const cookie = given.split(';')[0]!;
    const again = await fetch(`${url}/who`, { headers: { cookie } });
    expect(again.headers.get('set-cookie')).toBeNull();
    const { asks, isFor } = (await again.json()) as { asks: string; isFor: string };
    expect(decodeURIComponent(cookie)).toContain(`=s:${asks}.`);
    expect(isFor).toBe(asks);
    // A number that nobody was given is none, and one whose signature is another's is none either.
    for (const forged of ['yarlop_visitor=me', cookie.replace(/.$/, (last) => (last === 'A' ? 'B' : 'A'))]) {
      const answer = await (await fetch(`${url}/who`, { headers: { cookie: forged } })).json();
      expect(answer).toEqual({ asks: '127.0.0.1', isFor: '127.0.0.1' });
    }
  });
});
