import { describe, expect, it } from 'vitest';
import { CoreError } from '../src/errors';
import { Follower } from '../src/follow/follower';
import type { RawLuma } from '../src/image/image';
import type { FrameResult } from '../src/solve/frame-result';
import { SETUP, around, device } from './builders/device';
import { random, renderScene, waves } from './builders/scene';

const [width, height] = [420, 300];
const of = (grey: (i: number) => number): RawLuma => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height }, (_, i) => Math.min(255, Math.max(0, Math.round(grey(i))))),
});
function noise(seed: number, level: (i: number) => number, amount: number): RawLuma {
  const r = random(seed);
  return of((i) => level(i) + amount * (r() + r() + r() - 1.5));
}

/** Every number of a result that a person or a file would be given. */
function numbersOf(result: FrameResult): number[] {
  return [...(result.homography ?? []), ...result.sigma, result.trust, result.blur, ...Object.values(result.evidence)];
}

/** What came of each frame; a sentence where the clip is refused as a whole. */
function follow(frame: (n: number) => RawLuma, frames: number): FrameResult[] | string {
  try {
    const follower = new Follower(SETUP, 0, frame(0));
    return Array.from({ length: frames }, (_, i) => follower.step(i + 1, frame(i + 1)));
  } catch (error) {
    if (error instanceof CoreError) return error.message;
    throw error;
  }
}

describe('a clip in which nothing can be followed', () => {
  const sky = (i: number): number => 120 + 0.15 * Math.floor(i / width);
  it.each<[string, (n: number) => RawLuma]>([
    ['all black', () => of(() => 0)],
    ['all white', () => of(() => 255)],
    ['plain sky', (n) => noise(n, sky, 1.5)],
  ])('is refused with a sentence that says what to do: %s', (_, frame) => {
    const told = follow(frame, 3);
    expect(told).toMatch(/edges were found on only \d of the pin's sides; draw a follow patch/);
  });
  it('is never vouched for where each frame is noise of its own', () => {
    const told = follow((n) => noise(n, () => 128, 90), 6);
    if (typeof told === 'string') return;
    for (const result of told) {
      expect(numbersOf(result).every(Number.isFinite)).toBe(true);
      expect(result.trust).toBeLessThan(0.5);
      expect(result.reason).toMatch(/\w+ \w+/);
    }
  });
  it('gives numbers and reasons where the picture goes black and white', () => {
    const scene = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 });
    const bare = new Map([
      [2, of(() => 0)],
      [3, of(() => 255)],
    ]);
    const told = follow((n) => bare.get(n) ?? renderScene(scene, n), 5);
    if (typeof told === 'string') throw new Error(told);
    expect(told.flatMap(numbersOf).every(Number.isFinite)).toBe(true);
    expect(told[1]!.reason).toMatch(/\w+ \w+/);
    expect(told[2]!.reason).toMatch(/\w+ \w+/);
    expect(told[4]!.reason).toBeNull();
    expect(told[4]!.trust).toBeGreaterThan(0.8);
  });
});

describe('a mirror image in glass without an edge of its own', () => {
  it('comes to numbers, whatever it is taken for', () => {
    const mirrored = waves(11);
    const scene = device(
      { bezel: 0, glassGrey: 20, bezelGrey: 20, behind: 20 },
      { pin: around(200), texture: () => 20, background: (x, y) => 20 + 0.4 * mirrored(x, y) },
    );
    const slides = (n: number): RawLuma =>
      renderScene({ ...scene, background: (x, y) => 0.5 * mirrored(x + 2 * n, y) }, 0);
    const told = follow((n) => ({ ...slides(n) }), 4);
    if (typeof told === 'string') expect(told).toMatch(/draw a follow patch/);
    else expect(told.flatMap(numbersOf).every(Number.isFinite)).toBe(true);
  });
});

describe('a clip of next to no frames', () => {
  const scene = device({ bezel: 9, glassGrey: waves(7), bezelGrey: 60, behind: 160 });
  it('of one frame has nothing to be followed, and is taken', () => {
    const follower = new Follower(SETUP, 0, renderScene(scene, 0));
    follower.closeStretch(true);
    expect(follower.takeStretch()).toBeNull();
    expect(Number.isFinite(follower.shutterEstimate.share)).toBe(true);
  });
  it('of two frames is followed', () => {
    const told = follow((n) => renderScene(scene, n), 1);
    expect(told).toMatchObject([{ frame: 1, reason: null }]);
  });
});
