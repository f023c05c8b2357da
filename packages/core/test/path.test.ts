import { describe, expect, it } from 'vitest';
import { Path } from '../src/follow/memory/path';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';

const PIN: Quad = [
  [100, 100],
  [300, 100],
  [300, 200],
  [100, 200],
];
const shifted = (x: number, y = 0): Quad => PIN.map((p): Point => [p[0] + x, p[1] + y]) as unknown as Quad;

/** A Screen that went `x` px a frame from frame 0 to `last`. */
function walked(x: number, last: number): Path {
  const path = new Path(0, PIN);
  for (let n = 1; n <= last; n++) path.takeUp(n, shifted(x * n));
  return path;
}

describe('where the Screen should be next', () => {
  it('is one movement on', () => {
    expect(walked(7, 4).expectation(5).corners).toEqual(shifted(35));
  });
  it('after lost frames is as many movements on, three at the most', () => {
    const path = walked(7, 4);
    path.lost = 1;
    expect(path.expectation(6).corners).toEqual(shifted(42));
    path.lost = 9;
    expect(path.expectation(14).corners).toEqual(shifted(28 + 21));
  });
  it('is known the less the longer it was lost', () => {
    const path = walked(7, 4);
    const sure = path.expectation(5).sigma;
    path.lost = 1;
    expect(path.expectation(6).sigma).toBeCloseTo(2 * sure, 9);
    path.lost = 4;
    expect(path.expectation(9).sigma).toBeCloseTo(5 * sure, 9);
  });
  it('before any movement was seen is known the less the farther the frame', () => {
    const path = new Path(0, PIN);
    const near = path.expectation(1);
    expect(near.corners).toEqual(PIN);
    expect(path.expectation(4).sigma).toBeGreaterThan(near.sigma);
  });
});

describe('how fast the frame moved that a run began at', () => {
  it('is the first step, and where movement begins what the first two say of before it', () => {
    const path = new Path(0, PIN);
    expect(path.velocityOfFirst(0, 1, shifted(6), 2)![0]).toEqual([6, 0]);
    path.takeUp(1, shifted(6));
    // Steps of 6 and 10 px: 4 px at the first frame, were it to go on so.
    expect(path.velocityOfFirst(0, 2, shifted(16), 2)).toEqual(PIN.map(() => [4, 0]));
    expect(path.velocityOfFirst(0, 2, shifted(16), 5)).toBeNull();
    expect(path.velocityOfFirst(0, 2, shifted(9), 2)).toBeNull();
    path.takeUp(2, shifted(16));
    expect(path.velocityOfFirst(0, 3, shifted(40), 2)).toBeNull();
    expect(new Path(0, PIN).velocityOfFirst(0, 2, shifted(6), 2)).toBeNull();
  });
});

describe('how fast a frame moves on a way that is known', () => {
  const way = (places: Record<number, number>): Path =>
    new Path(0, PIN, new Map(Object.entries(places).map(([n, x]) => [Number(n), shifted(x)])));
  const speed = (path: Path, n: number): number => path.velocityOf(n, PIN)[0]![0];
  it('is told by the frames on both sides, where one between them was lost as well', () => {
    expect(speed(way({ 0: 0, 1: 6, 2: 16 }), 1)).toBeCloseTo(8, 9);
    expect(speed(way({ 0: 0, 2: 16 }), 1)).toBeCloseTo(8, 9);
  });
  it('is not slowed by a frame that is shown again', () => {
    const repeated = way({ 0: 0, 1: 10, 2: 20, 3: 20, 4: 30, 5: 40 });
    for (const n of [1, 2, 3, 4]) expect(speed(repeated, n)).toBeCloseTo(10, 9);
  });
});

describe('a Screen that is lost but likely to be where it was expected', () => {
  const path = walked(7, 4);
  const before = path.expectation(5);
  for (const n of [5, 6]) {
    path.holdOn(n, shifted(7 * n));
    path.lost++;
  }
  it('goes on from there, and is known the less the longer', () => {
    const after = path.expectation(7);
    expect(after.corners).toEqual(shifted(49));
    expect(after.sigma).toBeCloseTo(3 * before.sigma, 9);
  });
  it('leaves a stretch to be looked at again once it is found', () => {
    for (let n = 7; n < 10; n++) path.takeUp(n, shifted(7 * n));
    const gap = path.takeGap(false)!;
    expect(gap.lost).toEqual([6, 5]);
    expect(gap.beyond.map((f) => f.frame)).toEqual([7, 8, 9]);
  });
});

describe('a stretch of lost frames', () => {
  /** Lost after frame `last`, found again on `first` and the two frames after it, in the run's own direction. */
  function refound(last: number, first: number): Path {
    const step = Math.sign(first - last);
    const path = new Path(last, PIN);
    for (let n = 0; n < 3; n++) path.takeUp(first + step * n, shifted(n));
    return path;
  }
  it('is looked at from its far end, beginning with what was found nearest to it', () => {
    const gap = refound(6, 11).takeGap(false)!;
    expect(gap.lost).toEqual([10, 9, 8, 7]);
    expect(gap.beyond.map((f) => f.frame)).toEqual([11, 12, 13]);
  });
  it('of a run backwards likewise', () => {
    const gap = refound(11, 6).takeGap(false)!;
    expect(gap.lost).toEqual([7, 8, 9, 10]);
    expect(gap.beyond.map((f) => f.frame)).toEqual([6, 5, 4]);
  });
  it('waits for three found frames, and is told once', () => {
    const path = new Path(6, PIN);
    path.takeUp(11, PIN);
    path.takeUp(12, PIN);
    expect(path.takeGap(false)).toBeNull();
    path.takeUp(13, PIN);
    expect(path.takeGap(false)).not.toBeNull();
    expect(path.takeGap(false)).toBeNull();
  });
});
