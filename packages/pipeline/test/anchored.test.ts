/** A shot whose reference frame is smeared, followed once more from one that is not. */
import { describe, expect, it } from 'vitest';
import { insidePolygon } from '../../core/src/geometry/polygon';
import type { Quad } from '../../core/src/geometry/quad';
import { farthest, mapQuad } from '../../core/src/geometry/quad';
import type { RawLuma } from '../../core/src/image/image';
import { grownPin } from '../../core/src/pin/inset';
import type { FrameResult } from '../../core/src/solve/frame-result';
import { median } from '../../core/src/statistics';
import type { SceneOptions } from '../../core/test/builders/scene';
import { moved, renderOpen, waves } from '../../core/test/builders/scene';
import type { FramePort } from '../src/frame-port';
import { followDirection } from '../src/follow';
import type { ShotStep } from '../src/follow-shot';
import { followShot } from '../src/follow-shot';
import { followSetup, parseScreen } from '../src/screen-file';

const PIN: Quad = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
const SIZE = { width: 420, height: 300 };
const FRAMES = 10;
const REFERENCE = 3;
const picture = waves(5, 4, 30);
/** Stands still but around the reference frame, where it moves by 16 px a frame. */
const way = (n: number): number => 16 * Math.min(1.5, Math.max(-1.5, n - REFERENCE));
const scene: SceneOptions = {
  ...SIZE,
  pin: grownPin(PIN, 10),
  homography: (n) => moved(PIN, { x: way(n), y: 0.4 * way(n), turn: 0.001 * way(n) }),
  texture: (x, y) => (insidePolygon([x, y], PIN) ? 60 + 0.75 * picture(x, y) : 16),
  background: waves(9),
  noise: 2,
};
const rendered = new Map<number, RawLuma>();
async function read(n: number): Promise<RawLuma> {
  const known = rendered.get(n) ?? renderOpen(scene, n, 0.5, 6);
  rendered.set(n, known);
  return known;
}
const frames: FramePort = { width: SIZE.width, frameCount: FRAMES, read };
const recipe = { format: 'yarlop-screen', version: 1, name: 's', referenceFrame: REFERENCE, pin: PIN };
const setup = followSetup(parseScreen(recipe), { ...SIZE, frameCount: FRAMES });
const off = (r: FrameResult): number => farthest(mapQuad(r.homography!, PIN), mapQuad(scene.homography(r.frame), PIN));

async function follow(stopAt = Infinity) {
  const steps: ShotStep[] = [];
  const outcome = await followShot(
    {
      ...{ setup, referenceFrame: REFERENCE, ...SIZE, isWhole: true, isCancelled: () => steps.length >= stopAt },
      ways: [
        { direction: 'forwards', end: FRAMES - 1 },
        { direction: 'backwards', end: 0 },
      ],
      follow: (run) => followDirection(run, frames),
    },
    (step) => steps.push(step),
  );
  return { ...outcome, steps };
}
const standing = (results: ReadonlyMap<number, FrameResult>): FrameResult[] =>
  [...results.values()].filter((r) => r.frame < 2 || r.frame > 4);

describe('a shot whose reference frame is smeared', () => {
  it('is followed once more from a frame that stands, and lies nearer to the truth', async () => {
    const { steps, results } = await follow();
    const plain = new Map(steps.filter((s) => s.runs === 1).map((s) => [s.result.frame, s.result]));
    const before = median(standing(plain).map(off));
    const after = median(standing(results).map(off));
    expect(after).toBeLessThan(0.6 * before);
    expect(after).toBeLessThan(0.3);
    // Told frame by frame, without memories of another reference to go on from.
    const again = steps.filter((s) => s.runs === 2);
    expect(again.length).toBeGreaterThan(6);
    for (const s of again) expect(s.result).toBe(results.get(s.result.frame));
    expect(again.every((s) => s.state === null)).toBe(true);
    expect(results.get(REFERENCE)!.homography).toEqual(plain.get(REFERENCE)!.homography);
  });
  it('stays as it was when it is stopped on the way', async () => {
    const whole = await follow(FRAMES);
    expect(whole.isStopped).toBe(true);
    expect(whole.steps.every((s) => s.state !== null)).toBe(true);
  });
});
