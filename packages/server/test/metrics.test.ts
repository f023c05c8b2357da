/** Numbers of the server for a program that gathers them: the text format of Prometheus, and what they count. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes } from './builders/plate';
import { TestServer } from './builders/server';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.create();
}, 60_000);
afterAll(() => server.dispose());

/**
 * Samples by name and labels, as the exposition format 0.0.4 has them (Prometheus documentation, Exposition formats): a
 * line each, comments begin with #, labels are quoted.
 */
async function scraped(): Promise<{ readonly type: string; readonly samples: Map<string, number> }> {
  const answer = await fetch(`${server.url}/metrics`);
  const samples = new Map<string, number>();
  for (const line of (await answer.text()).split('\n')) {
    if (line === '' || /^# (HELP|TYPE) \w+ /.test(line)) continue;
    const [, name, labels = '', value] = /^([a-zA-Z_:]\w*)(\{[^{}]*\})? (\S+)$/.exec(line) ?? [];
    if (!name) throw new Error(`No sample: ${line}`);
    samples.set(name + labels, Number(value));
  }
  return { type: answer.headers.get('content-type')!, samples };
}
const counted = (samples: Map<string, number>, route: string, status: number): number =>
  samples.get(`yarlop_request_seconds_count{route="${route}",status="${status}"}`) ?? 0;

describe('the numbers', () => {
  it('are told in the format that is gathered, with those of the process', async () => {
    const { type, samples } = await scraped();
    expect(type).toMatch(/^text\/plain; version=0\.0\.4/);
    expect(samples.get('yarlop_database_up')).toBe(1);
    expect(samples.get('yarlop_disk_free_bytes')).toBeGreaterThan(0);
    expect(samples.get('yarlop_worker_slots')).toBeGreaterThan(0);
    expect(samples.get('process_resident_memory_bytes')).toBeGreaterThan(20e6);
    expect([...samples.keys()].some((k) => k.startsWith('nodejs_eventloop_lag'))).toBe(true);
  });
  it('count requests by their route, whatever is asked for, and never by a name that somebody sends', async () => {
    const before = (await scraped()).samples;
    await server.request('GET', '/productions');
    await server.request('GET', '/productions/77');
    await server.request('GET', '/productions/78');
    for (let i = 0; i < 5; i++) await fetch(`${server.url}/api/nothing-${i}`);
    await fetch(`${server.url}/some/page-${Math.random()}`);
    const { samples } = await scraped();
    const more = (route: string, status: number): number =>
      counted(samples, route, status) - counted(before, route, status);
    expect(more('GET /productions', 200)).toBe(1);
    expect(more('GET /productions/:id', 404)).toBe(2);
    expect(more('other', 404)).toBe(5);
    expect(more('pages', 200)).toBeGreaterThanOrEqual(1);
    expect([...samples.keys()].join()).not.toMatch(/nothing-|page-0/);
  });
  it('sum up in each histogram: steps rise, the last holds all', async () => {
    const { samples } = await scraped();
    const steps = [...samples].filter(([k]) => /^yarlop_request_seconds_bucket.*"GET \/productions",/.test(k));
    const values = steps.map(([, v]) => v);
    expect(values.length).toBe(10);
    expect(values).toEqual([...values].sort((a, b) => a - b));
    expect(values.at(-1)).toBe(counted(samples, 'GET /productions', 200));
  });
  it('count jobs by kind and state', async () => {
    await server.shot(await plateBytes(12));
    const { samples } = await scraped();
    expect(samples.get('yarlop_jobs{kind="ingest",state="done"}')).toBe(1);
    expect(samples.get('yarlop_jobs{kind="ingest",state="running"}') ?? 0).toBe(0);
  });
  it('are the same as JSON, by their names and labels', async () => {
    const { body } = await server.request<{ name: string; labels: Record<string, string>; value: number }[]>(
      'GET',
      '/metrics',
    );
    const jobs = body.filter((m) => m.name === 'yarlop_jobs');
    expect(jobs).toEqual([{ name: 'yarlop_jobs', labels: { kind: 'ingest', state: 'done' }, value: 1 }]);
    const count = body.find(
      (m) => m.name === 'yarlop_request_seconds_count' && m.labels['route'] === 'GET /productions',
    );
    expect(count!.value).toBe(counted((await scraped()).samples, 'GET /productions', 200));
  });
  it('are kept from pages of other hosts', async () => {
    const { status } = await server.raw('GET', '/metrics', { host: 'elsewhere.example' });
    expect(status).toBe(421);
  });
});
