import { randomBytes } from 'node:crypto';
import { MessageChannel } from 'node:worker_threads';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { Database, migrate } from '../src/database';
import type { JobRow } from '../src/rows';
import * as jobs from '../src/sql/jobs';
import { LONG_KINDS } from '../src/use-cases/job-kinds';
import { claimJob, underLease } from '../src/use-cases/lease';
import { storeOutcome } from '../src/use-cases/store-outcome';
import type { Word } from '../src/worker-line';
import { listen } from '../src/worker-line';

const HASH = 'a'.repeat(64);
let db: Database;
const database = {
  host: '127.0.0.1',
  port: Number(process.env['YARLOP_DB_PORT']),
  user: process.env['YARLOP_DB_USER']!,
  password: process.env['YARLOP_DB_PASSWORD']!,
  name: `yarlop_lease_${randomBytes(6).toString('hex')}`,
  callMs: 20_000,
};

beforeAll(async () => {
  await migrate({
    host: '',
    port: 0,
    data: '',
    web: '',
    reserve: 0,
    names: [],
    studio: null,
    warnBelow: 0,
    workerMb: 0,
    migrations: 'packages/server/migrations',
    database,
  });
  db = new Database(database);
});
afterAll(async () => {
  await db.run(`DROP DATABASE \`${database.name}\``);
  await db.close();
});

/** One clip that waits to be read in, taken by a run. */
let first: JobRow;
beforeEach(async () => {
  await db.run('DELETE FROM jobs');
  await db.run('DELETE FROM media');
  await db.run(
    `INSERT INTO media (hash, name, source, probe, notes, frame_count) VALUES (?, 'q', '{}', '{}', '[]', 1)`,
    [HASH],
  );
  await db.run(jobs.insertJob, ['ingest', HASH, null, null, null, null, '{}', 24, '']);
  first = (await claimJob(db))!;
});

/** What happens when a run stands still for longer than its heartbeat allows: another takes the job. */
async function takenOver(): Promise<JobRow> {
  await db.run('UPDATE jobs SET heartbeat = NOW(3) - INTERVAL 1 MINUTE');
  return (await claimJob(db))!;
}
const media = async (): Promise<{ state: string; frames: number }> =>
  (await db.one('SELECT state, frame_count AS frames FROM media'))!;
const job = async (): Promise<{ state: string; token: number }> => (await db.one('SELECT state, token FROM jobs'))!;

describe('a claim', () => {
  it('raises the token each time it is made', async () => {
    const second = await takenOver();
    expect([second.id, second.token]).toEqual([first.id, first.token + 1]);
    expect(second.attempt).toBe(2);
  });
  it('takes no job whose run still beats', async () => {
    expect(await claimJob(db)).toBeNull();
  });
  it('lets a delivery pass a row of runs of following, where one of those is under way', async () => {
    await db.run(`UPDATE media SET state = 'ready'`);
    await db.run(`UPDATE jobs SET state = 'done'`);
    for (const kind of ['follow', 'follow', 'deliver', 'ingest', 'follow'])
      await db.run(jobs.insertJob, [kind, HASH, null, null, null, null, '{}', 1, '']);
    const running: JobRow['kind'][] = [];
    for (let n = 0; n < 4; n++)
      running.push((await claimJob(db, { busy: running.slice(-1), served: [], barred: [] }))!.kind);
    expect(running.slice(0, 2)).toEqual(['follow', 'deliver']);
    expect(running.filter((k) => k === 'follow')).toHaveLength(2);
    expect(running).toContain('ingest');
  });
  it('lets a visitor pass the row of another, but for deliveries, whose order people see', async () => {
    await db.run(`UPDATE media SET state = 'ready'`);
    await db.run(`UPDATE jobs SET state = 'done'`);
    for (const [kind, visitor] of [
      ['prove', 'ann'],
      ['prove', 'ann'],
      ['prove', 'ben'],
      ['deliver', 'ann'],
      ['deliver', 'ben'],
    ] as const)
      await db.run(jobs.insertJob, [kind, HASH, null, null, null, null, '{}', 1, visitor]);
    const turns: string[] = [];
    const served: string[] = [];
    for (let n = 0; n < 5; n++) {
      const { kind, visitor } = (await claimJob(db, { busy: [], served: served.slice(-1), barred: [] }))!;
      turns.push(`${kind} for ${visitor}`);
      served.push(visitor);
    }
    expect(turns).toEqual(['prove for ann', 'prove for ben', 'prove for ann', 'deliver for ann', 'deliver for ben']);
  });
  it('leaves out what takes long where one slot alone is free', async () => {
    await db.run(`UPDATE media SET state = 'ready'`);
    await db.run(`UPDATE jobs SET state = 'done'`);
    for (const kind of ['follow', 'deliver', 'prove', 'ingest'])
      await db.run(jobs.insertJob, [kind, HASH, null, null, null, null, '{}', 1, '']);
    const short = { busy: [], served: [], barred: LONG_KINDS };
    const taken = [await claimJob(db, short), await claimJob(db, short), await claimJob(db, short)];
    expect(taken.map((j) => j?.kind ?? null)).toEqual(['prove', 'ingest', null]);
  });
  it('of one job by several servers at once is given to one of them', async () => {
    await db.run(`UPDATE jobs SET state = 'waiting'`);
    const claims = await Promise.all(Array.from({ length: 6 }, () => claimJob(db)));
    expect(claims.filter(Boolean)).toHaveLength(1);
  });
});

describe('a run that lost its lease', () => {
  it('writes nothing more', async () => {
    await takenOver();
    let ran = false;
    const held = await underLease(db, first, async () => {
      ran = true;
    });
    expect([held, ran]).toEqual([false, false]);
  });
  it('neither makes the clip ready nor failed, and does not end the job', async () => {
    await takenOver();
    expect(
      await storeOutcome(db, first, null, { kind: 'ingest', frameCount: 24, damaged: [], notes: [] }, 24),
    ).toBeNull();
    expect(await media()).toEqual({ state: 'waiting', frames: 1 });
    expect(await storeOutcome(db, first, null, { kind: 'failed', message: 'no' }, 0)).toBeNull();
    expect(await media()).toEqual({ state: 'waiting', frames: 1 });
    expect((await job()).state).toBe('running');
  });
  it('does not stand in the way of the one that has it', async () => {
    const second = await takenOver();
    await storeOutcome(db, first, null, { kind: 'failed', message: 'no' }, 0);
    expect(await storeOutcome(db, second, null, { kind: 'ingest', frameCount: 24, damaged: [], notes: [] }, 24)).toBe(
      'done',
    );
    expect(await media()).toEqual({ state: 'ready', frames: 24 });
  });
});

describe('the end of a job', () => {
  it('is stored whole or not at all', async () => {
    const broken = { kind: 'ingest', frameCount: 24, damaged: [], notes: [], done: -1 } as const;
    await expect(storeOutcome(db, first, null, broken, 0)).rejects.toThrow();
    expect(await media()).toEqual({ state: 'waiting', frames: 1 });
    expect((await job()).state).toBe('running');
  });
  it('writes of several runs at once wait for each other instead of failing', async () => {
    const beats = Array.from({ length: 40 }, (_, n) =>
      underLease(db, first, async (t) => {
        await t.run(jobs.beat, [n, first.id]);
      }),
    );
    const asked = Array.from({ length: 40 }, () => db.run(jobs.wantCancel, [first.id]));
    expect(await Promise.all(beats)).toEqual(beats.map(() => true));
    await Promise.all(asked);
  });
});

describe('the line to a worker', () => {
  it('is heard to its end, however late the words arrive', async () => {
    const { port1, port2 } = new MessageChannel();
    const heard: number[] = [];
    const ended = listen(port1, (word: Word) => heard.push(word.done));
    for (let done = 1; done <= 500; done++) port2.postMessage({ type: 'progress', done });
    port2.postMessage({ type: 'end' });
    port2.close();
    await ended;
    expect(heard).toHaveLength(500);
    port1.close();
  });
  it('ends when the worker dies without a word', async () => {
    const { port1, port2 } = new MessageChannel();
    const ended = listen(port1, () => {});
    port2.close();
    await ended;
  });
});
