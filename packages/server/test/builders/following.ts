/** Screens of the small plate as a page makes, saves and follows them. */
import { expect } from 'vitest';
import type { Quad } from '../../../core/src/geometry/quad';
import { farthest, mapQuad } from '../../../core/src/geometry/quad';
import type { TrackFrame } from '../../../core/src/track';
import { recipe, truthAt } from './plate';
import type { TestServer } from './server';

export type TestRecipe = Readonly<Record<string, unknown>>;

export interface TestScreen {
  readonly id: number;
  readonly revision: number;
}

export interface TestTrack {
  readonly outdated: boolean;
  readonly stale: readonly { readonly from: number; readonly to: number }[];
  readonly solveId: number;
  readonly area: Quad;
  readonly halted: readonly { readonly frame: number }[];
  readonly frames: readonly TrackFrame[];
}

/** @param shot of `plateBytes` */
export class Following {
  constructor(
    private readonly server: TestServer,
    readonly shot: number,
  ) {}

  async screen(own: Partial<TestRecipe>): Promise<TestScreen> {
    const made = await this.server.request<TestScreen>('POST', `/shots/${this.shot}/screens`, { ...recipe, ...own });
    expect(made.status).toBe(201);
    return made.body;
  }

  async save(id: number, own: Partial<TestRecipe>): Promise<void> {
    const { revision } = (await this.server.request<TestScreen>('GET', `/screens/${id}`)).body;
    const put = await this.server.request('PUT', `/screens/${id}`, { revision, recipe: { ...recipe, ...own } });
    expect(put.body).toMatchObject({ revision: revision + 1 });
  }

  /** Until it is done. */
  async run(id: number, order: object = { from: 0, to: 23 }): Promise<void> {
    const started = await this.server.request<{ id: number }>('POST', `/screens/${id}/follow`, order);
    expect(started.status).toBe(202);
    const ended = await this.server.until(async () => {
      const jobs = (await this.server.request<{ id: number; state: string; message: string }[]>('GET', '/jobs')).body;
      return jobs.find((j) => j.id === started.body.id && !['waiting', 'running'].includes(j.state));
    });
    expect(ended).toMatchObject({ state: 'done' });
  }

  async track(id: number): Promise<TestTrack> {
    return (await this.server.request<TestTrack>('GET', `/screens/${id}/track`)).body;
  }
}

/** A track of all frames, whose corners lie within some px of a pin on the plane. */
export function expectNear(t: TestTrack, pin: Quad, px: number): void {
  expect(t.frames.map((f) => f.frame)).toEqual([...Array(24).keys()]);
  for (const f of t.frames) expect(farthest(f.corners, mapQuad(truthAt(f.frame), pin))).toBeLessThan(px);
}
