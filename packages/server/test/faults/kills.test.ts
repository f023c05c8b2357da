/**
 * The server is killed at random moments while it does what people ask for: whatever it said was done is there after the
 * next start, and what was under way goes on or can be asked for again.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { random } from '../../../core/test/builders/scene';
import { many, report } from '../builders/faults';
import { plateBytes, recipe, variantOf } from '../builders/plate';
import { TestServer } from '../builders/server';

/** Frames of the clip. */
const CLIP = 24;
/** Ms within which the kill comes. */
const WITHIN = 900;

let server: TestServer;
let folder: string;
let bytes: Buffer;
let production: number;
/** a shot that is read in, with a Screen that is followed */
let shot: number;
let followed: number;

interface Named {
  readonly id: number;
}
interface Screen extends Named {
  readonly revision: number;
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-kills-'));
  server = await TestServer.create();
  bytes = await plateBytes(CLIP);
  ({ production, shot } = await server.shot(bytes));
  followed = await newScreen();
  await server.request('POST', `/screens/${followed}/follow`, { from: 0, to: CLIP - 1 });
  await server.until(async () => (await solved(followed)) === CLIP);
}, 120_000);
afterAll(async () => {
  await server.dispose();
  await rm(folder, { recursive: true, force: true });
});

let deliveries = 0;
const otherBytes = (): Buffer => variantOf(bytes);

async function newScreen(): Promise<number> {
  return (await server.request<Named>('POST', `/shots/${shot}/screens`, recipe)).body.id;
}

async function solved(screen: number): Promise<number> {
  const [row] = await server.sql<{ n: number }>(
    'SELECT COUNT(*) AS n FROM solve_frames f JOIN solves s ON s.id = f.solve_id WHERE s.screen_id = ?',
    [screen],
  );
  return row!.n;
}

async function becomesReady(id: number): Promise<void> {
  const state = await server.until(async () => {
    const { mediaState } = (await server.request<{ mediaState: string }>('GET', `/shots/${id}`)).body;
    return mediaState === 'ready' || mediaState === 'failed' ? mediaState : null;
  });
  expect(state).toBe('ready');
}

const create = (upload: string): Promise<{ status: number; body: Named }> =>
  server.request<Named>('POST', `/productions/${production}/shots`, { name: 'Quay', upload, fileName: 'quay.mp4' });

/** Begun before the kill; what it gives back is done after the next start, and fails when anything was lost. */
type Way = () => Promise<() => Promise<void>>;
/** What is asked for when the server dies under it has no answer. */
const quietly = <T>(asked: Promise<T>): Promise<T | null> => asked.catch(() => null);

const ways: Readonly<Record<string, Way>> = {
  upload: async () => {
    const own = otherBytes();
    const { id } = await server.upload(own, 2000);
    void quietly(server.patch(id, own.subarray(2000, 60_000), 2000));
    return async () => {
      const head = await fetch(`${server.url}/api/uploads/${id}`, {
        method: 'HEAD',
        headers: { 'Tus-Resumable': '1.0.0' },
      });
      const there = Number(head.headers.get('upload-offset'));
      expect(there).toBeGreaterThanOrEqual(2000);
      expect(await server.patch(id, own.subarray(there), there)).toBe(204);
      const { status, body } = await create(id);
      expect(status).toBe(201);
      await becomesReady(body.id);
    };
  },
  'taking in': async () => {
    const { id } = await server.upload(otherBytes());
    void quietly(create(id));
    return async () => {
      const { status, body } = await create(id);
      expect(status).toBe(201);
      await becomesReady(body.id);
    };
  },
  'reading in': async () => {
    const { body } = await create((await server.upload(otherBytes())).id);
    return () => becomesReady(body.id);
  },
  follow: async () => {
    const screen = await newScreen();
    await server.request('POST', `/screens/${screen}/follow`, { from: 0, to: CLIP - 1 });
    return async () => {
      await server.until(async () => (await solved(screen)) === CLIP);
    };
  },
  save: async () => {
    const screen = await newScreen();
    const acknowledged: string[] = [];
    void quietly(
      (async () => {
        for (let revision = 1; ; revision++) {
          const name = `name ${revision}`;
          const { status } = await server.request('PUT', `/screens/${screen}`, {
            revision,
            recipe: { ...recipe, name },
          });
          if (status === 200) acknowledged.push(name);
        }
      })(),
    );
    return async () => {
      const kept = await server.sql<{ recipe: { name: string } }>(
        'SELECT recipe FROM screen_revisions WHERE screen_id = ?',
        [screen],
      );
      const names = new Set(kept.map((r) => r.recipe.name));
      expect(acknowledged.filter((name) => !names.has(name))).toEqual([]);
      const now = (await server.request<Screen>('GET', `/screens/${screen}`)).body;
      expect(now.revision).toBeGreaterThan(acknowledged.length);
    };
  },
  deliver: async () => {
    const asked = { as: 'mp4', show: 'stabilised', name: `d${++deliveries}` };
    const { body } = await server.request<Named>('POST', `/shots/${shot}/deliveries`, asked);
    return async () => {
      await server.until(async () => {
        const all = (await server.request<{ id: number; sha256: string | null }[]>('GET', `/shots/${shot}/deliveries`))
          .body;
        return all.some((d) => d.id === body.id && d.sha256);
      });
    };
  },
  delete: async () => {
    const { body } = await create((await server.upload(otherBytes())).id);
    await becomesReady(body.id);
    let isAcknowledged = false;
    void quietly(server.request('DELETE', `/shots/${body.id}`)).then((r) => {
      isAcknowledged = r?.status === 200;
    });
    return async () => {
      const { status } = await server.request('GET', `/shots/${body.id}`);
      if (isAcknowledged) expect(status).toBe(410);
      if (status === 410) await server.request('POST', `/bin/shot/${body.id}/out`);
      await becomesReady(body.id);
    };
  },
  backup: async () => {
    const run = async (): Promise<number> => {
      const child = spawn('node', ['dist/library.mjs', 'backup', folder], {
        env: { ...process.env, YARLOP_DATA: server.data, YARLOP_DB_NAME: server.database },
        stdio: 'ignore',
      });
      const [code] = (await once(child, 'close')) as [number];
      return code;
    };
    const first = run();
    return async () => {
      await first;
      expect(await run()).toBe(0);
      expect((await readdir(join(folder, 'copies'))).length).toBeGreaterThan(0);
    };
  },
};

describe('kills at random moments', () => {
  it('lose nothing', async () => {
    const names = Object.keys(ways);
    const rounds = many(names.length, 56);
    const roll = random(4711);
    for (let round = 0; round < rounds; round++) {
      const name = names[round % names.length]!;
      const after = await ways[name]!();
      await new Promise((r) => setTimeout(r, WITHIN * roll()));
      await server.kill();
      await server.start();
      await after().catch((e: unknown) => {
        throw new Error(`round ${round}, ${name}: ${(e as Error).message}`, { cause: e });
      });
    }
    expect(await solved(followed)).toBe(CLIP);
    report(`${rounds} kills over ${names.join(', ')}: lost`, '0');
  }, 900_000);
});
