import { describe, expect, it } from 'vitest';
import { readoutField } from '../../core/src/follow/timing/readout';
import type { FollowerState, FollowSetup } from '../../core/src/follow/memory/follower-state';
import type { FrameResult } from '../../core/src/solve/frame-result';
import { distance } from '../../core/src/geometry/point';
import type { Quad } from '../../core/src/geometry/quad';
import { mapQuad } from '../../core/src/geometry/quad';
import type { SceneOptions } from '../../core/test/builders/scene';
import { moved, renderScene, seenAt, waves } from '../../core/test/builders/scene';
import type { FramePort } from '../src/frame-port';
import { followDirection, setupToRepeatWith } from '../src/follow';

const PIN: Quad = [
  [130, 80],
  [350, 80],
  [350, 230],
  [130, 230],
];
const FRAMES = 30;
const REFERENCE = 0;
const shaken = (n: number): Parameters<typeof moved>[1] => ({
  x: 26 * Math.sin(n / 2.1),
  y: 12 * Math.sin(n / 2.7 + 1) - 12 * Math.sin(1),
  turn: 0.16 * Math.sin(n / 2.4),
  scale: 1 + 0.06 * Math.sin(n / 3.3),
  tilt: 0.1 * Math.sin(n / 4),
});
const scene = (readout: number): SceneOptions => ({
  width: 480,
  height: 310,
  pin: PIN,
  homography: (n) => moved(PIN, shaken(n)),
  texture: waves(5, 7, 60),
  background: waves(9),
  noise: 1.5,
  readout,
});
const SETUP: FollowSetup = {
  pin: PIN,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
};

async function run(
  o: SceneOptions,
  setup: FollowSetup,
): Promise<{ results: FrameResult[]; state: FollowerState; errors: number[] }> {
  const port: FramePort = { width: o.width, frameCount: FRAMES, read: async (n) => renderScene(o, n) };
  const own = { ...setup, pin: PIN.map((p) => seenAt(o, REFERENCE, p)) as unknown as Quad };
  const results: FrameResult[] = [];
  let state: FollowerState | null = null;
  for await (const s of followDirection({ setup: own, referenceFrame: REFERENCE, end: FRAMES - 1 }, port)) {
    results.push(s.result);
    state = s.state();
  }
  const errors = results
    .filter((r) => r.homography && r.frame !== REFERENCE)
    .map((r) =>
      mapQuad(r.homography!, own.pin).reduce((s, p, i) => s + distance(p, seenAt(o, r.frame, PIN[i]!)) / 4, 0),
    )
    .sort((a, b) => a - b);
  return { results, state: state!, errors };
}
const middle = (v: number[]): number => v[v.length >> 1]!;

describe('a rolling readout', () => {
  it('is learnt from a shaken screen, and following again with it is truer', async () => {
    const o = scene(0.6);
    const first = await run(o, SETUP);
    const again = setupToRepeatWith([first.state], SETUP, first.results, 1)!;
    expect(again).not.toBeNull();
    expect(again.readout).toBeGreaterThan(0.3);
    expect(again.readout).toBeLessThan(0.95);
    expect(again.way!.length).toBe(FRAMES);
    const second = await run(o, again);
    expect(second.errors).toHaveLength(FRAMES - 1);
    expect(middle(second.errors)).toBeLessThan(0.7 * middle(first.errors));
  });
  it('is not seen where rows are read at once, and the shot is not followed twice', async () => {
    const first = await run(scene(0), SETUP);
    expect(setupToRepeatWith([first.state], SETUP, first.results, 1)).toBeNull();
    expect(setupToRepeatWith([first.state], SETUP, first.results, 3)).toBeNull();
  });
  it("moves a place by its row's time: a plane that goes sideways leans, and one that is remembered as leaning does not", () => {
    // 10 px a frame to the right, rows read over a whole frame: half a frame early at the top edge, half late at the
    // bottom.
    const right = (): [number, number] => [10, 0];
    const field = readoutField([1, 0, 0, 0, 1, 0, 0, 0, 1], null, right, 100)!;
    expect(field([5, 0], [5, 0])[0]).toBeCloseTo(-5, 9);
    expect(field([5, 50], [5, 50])[0]).toBeCloseTo(0, 9);
    expect(field([5, 100], [5, 100])[0]).toBeCloseTo(5, 9);
    const both = readoutField([1, 0, 0, 0, 1, 0, 0, 0, 1], right, right, 100)!;
    expect(both([5, 100], [5, 100])[0]).toBeCloseTo(0, 6);
    expect(readoutField([1, 0, 0, 0, 1, 0, 0, 0, 1], null, null, 100)).toBeNull();
  });
});
