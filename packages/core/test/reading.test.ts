/** What the pictures are read from, and how brightness may change between them. */
import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import type { Mix } from '../src/follow/picture/reading';
import { clearestMix } from '../src/follow/picture/reading';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import type { FrameResult } from '../src/solve/frame-result';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { RawLuma, Raster } from '../src/image/image';
import type { SceneOptions } from './builders/scene';
import { moved, random, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [320, 90],
  [320, 220],
  [120, 220],
];
const WIDTH = 440;
const HEIGHT = 310;

/** @param grey of each channel, beside which noise of its own size is drawn */
function colours(channel: (k: number, x: number, y: number) => number, noise: Mix): Raster {
  const r = random(5);
  const data = new Uint8Array(WIDTH * HEIGHT * 3);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      for (let k = 0; k < 3; k++, o++)
        data[o] = Math.max(0, Math.min(255, Math.round(channel(k, x, y) + noise[k]! * normal())));
  return { width: WIDTH, height: HEIGHT, channels: 3, data };
}

describe('the mix of channels that is read', () => {
  const picture = waves(3, 8, 40);
  it('leans on the channels with little noise', () => {
    const mix = clearestMix(
      colours((_, x, y) => picture(x, y), [1, 6, 8]),
      PIN,
      [],
    )!;
    expect(mix[0]).toBeGreaterThanOrEqual(0.7);
    expect(mix[0] + mix[1] + mix[2]).toBeCloseTo(1, 9);
  });
  it('is luma where that is as good', () => {
    const r = random(9);
    const common = Float64Array.from({ length: WIDTH * HEIGHT }, () => 5 * (r() - 0.5));
    expect(
      clearestMix(
        colours((_, x, y) => picture(x, y) + common[y * WIDTH + x]!, [0, 0, 0]),
        PIN,
        [],
      ),
    ).toBeNull();
  });
  it('finds markers that luma does not show, inside the outlines alone', () => {
    // Red and blue change against each other so that luma stays nearly the same.
    const hidden = (k: number, x: number, y: number): number => 120 + [0.33, 0, -0.97][k]! * (picture(x, y) - 128);
    const shown = colours(hidden, [1.5, 1.5, 1.5]);
    const mix = clearestMix(shown, PIN, [])!;
    expect(Math.max(mix[0], mix[2])).toBeGreaterThan(0.8);
    const inside = (x: number, y: number): boolean => x > 112 && x < 328 && y > 82 && y < 228;
    const grey = colours((k, x, y) => (inside(x, y) ? picture(x, y) : hidden(k, x, y)), [0, 0, 0]);
    expect(
      clearestMix(grey, PIN, [
        {
          kind: 'follow',
          points: [
            [130, 100],
            [310, 100],
            [310, 210],
            [130, 210],
          ],
        },
      ]),
    ).toBeNull();
  });
});

describe('brightness that may change', () => {
  const scene: SceneOptions = {
    width: 480,
    height: 320,
    pin: PIN,
    homography: (n) => moved(PIN, { x: 2 * n, y: n }),
    texture: waves(5),
    background: waves(9),
    noise: 1.5,
  };
  const setup = (levels: FollowSetup['levels']): FollowSetup => ({
    pin: PIN,
    patches: [],
    motion: 'perspective',
    density: 'usual',
    evidence: ['texture'],
    ...(levels ? { levels } : {}),
  });
  /** The left half of the screen darker, the way a shadow makes it. */
  const shaded = (l: RawLuma, edge: number): RawLuma => ({
    ...l,
    data: l.data.map((v, i) => (i % l.width < edge ? Math.round(0.45 * v) : v)) as Uint8Array,
  });
  const dimmed = (l: RawLuma): RawLuma => ({ ...l, data: l.data.map((v) => Math.round(0.55 * v + 10)) as Uint8Array });
  function follow(
    levels: FollowSetup['levels'],
    change: (l: RawLuma) => RawLuma,
  ): { result: FrameResult; left: number; right: number } {
    const f = new Follower(setup(levels), 0, renderScene(scene, 0));
    const result = f.step(1, change(renderScene(scene, 1)));
    const side = (want: (x: number) => boolean): number => {
      const own = Array.from({ length: (result.cells?.length ?? 0) / 4 }, (_, i) =>
        result.cells!.slice(4 * i, 4 * i + 4),
      ).filter((c) => want(c[0]!));
      return own.filter((c) => c[3]! > 50).length / own.length;
    };
    return { result, left: side((x) => x > 130 && x < 205), right: side((x) => x > 235 && x < 310) };
  }
  it('in each cell: a shadow over half of the screen takes nothing away', () => {
    const { result, left, right } = follow(undefined, (l) => shaded(l, 222));
    expect(left).toBeGreaterThan(0.7);
    expect(right).toBeGreaterThan(0.7);
    mapQuad(result.homography!, PIN).forEach((p, i) =>
      expect(Math.hypot(p[0] - PIN[i]![0] - 2, p[1] - PIN[i]![1] - 1)).toBeLessThan(0.1),
    );
  });
  it('on the whole screen: the half that changed otherwise is left out, a lamp that dims it all is not', () => {
    const shadow = follow('screen', (l) => shaded(l, 190));
    const lamp = follow('screen', dimmed);
    expect(shadow.left).toBeLessThan(0.3);
    expect(shadow.right).toBeGreaterThan(0.7);
    expect(Math.min(lamp.left, lamp.right)).toBeGreaterThan(0.7);
  });
  it('not at all: what is dimmed no longer counts', () => {
    expect(follow('fixed', (l) => l).right).toBeGreaterThan(0.7);
    const { result } = follow('fixed', dimmed);
    expect(result.homography).toBeNull();
    expect(result.reason).toMatch(/cells/);
  });
});
