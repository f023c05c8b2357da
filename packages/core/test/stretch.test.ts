import { describe, expect, it } from 'vitest';
import type { Quad } from '../src/geometry/quad';
import type { Seen, Stretch } from '../src/follow/memory/stretch';
import {
  NO_STRETCH,
  after,
  amended,
  inwards,
  isAstray,
  isClosed,
  placeBetween,
  withCorners,
  withFrame,
} from '../src/follow/memory/stretch';

const WIDTH = 1920;
/** A square of 100 px whose first corner lies at (x, y). */
const square = (x: number, y = 0): Quad => [
  [x, y],
  [x + 100, y],
  [x + 100, y + 100],
  [x, y + 100],
];
const sure = (frame: number): Seen => ({ frame, corners: square(frame), trust: 1, surprise: 0 });
const unsure = (frame: number): Seen => ({ ...sure(frame), trust: 0.5 });
const lost = (frame: number): Seen => ({ frame, corners: null, trust: 0, surprise: 0 });
const told = (frames: readonly Seen[], from: Stretch = NO_STRETCH): Stretch => frames.reduce(withFrame, from);
const numbers = (list: readonly { frame: number }[]): number[] => list.map((f) => f.frame);

describe('a Screen that was taken for want of anything better', () => {
  const hardly = (frame: number): Seen => ({ ...sure(frame), trust: 0.02 });
  it('is taken to be elsewhere after three such frames', () => {
    expect(isAstray(told([sure(0), hardly(1), hardly(2)]))).toBe(false);
    expect(isAstray(told([sure(0), hardly(1), hardly(2), hardly(3)]))).toBe(true);
  });
  it.each([
    ['a frame among them was likelier', [hardly(1), hardly(2), unsure(3)]],
    ['one was lost: it is looked for everywhere already', [hardly(1), lost(2), hardly(3)]],
    ['a sure one follows', [hardly(1), hardly(2), hardly(3), sure(4)]],
  ])('is not where %s', (_, frames) => {
    expect(isAstray(told([sure(0), ...frames]))).toBe(false);
  });
});

describe('a stretch of doubtful frames', () => {
  it('is none while every frame is sure, of which the last three are kept', () => {
    const s = told([0, 1, 2, 3, 4].map(sure));
    expect(s.doubtful).toHaveLength(0);
    expect(numbers(s.before)).toEqual([2, 3, 4]);
    expect(isClosed(s, true)).toBe(false);
  });
  it.each([
    ['unsure', unsure(3)],
    ['lost', lost(3)],
    ['sure but far from where it was expected', { ...sure(3), surprise: 30 }],
  ])('begins with a frame that is %s and ends with three in a row that are not', (_, frame) => {
    const s = told([sure(1), sure(2), frame, sure(4), sure(5)]);
    expect(isClosed(s, false)).toBe(false);
    const closed = told([sure(6)], s);
    expect(isClosed(closed, false)).toBe(true);
    expect(numbers(closed.doubtful)).toEqual([3]);
    expect(numbers(closed.before)).toEqual([1, 2]);
    expect(numbers(closed.beyond)).toEqual([4, 5, 6]);
  });
  it('takes in sure frames between doubtful ones', () => {
    const s = told([sure(1), unsure(2), sure(3), sure(4), unsure(5), sure(6), sure(7), sure(8)]);
    expect(numbers(s.doubtful)).toEqual([2, 3, 4, 5]);
    expect(numbers(s.beyond)).toEqual([6, 7, 8]);
  });
  it('ends with what there is where the run ends, and not at all without a sure frame', () => {
    expect(isClosed(told([sure(1), unsure(2), sure(3)]), true)).toBe(true);
    expect(isClosed(told([sure(1), unsure(2)]), true)).toBe(false);
  });
  it('is given up when it grows too long', () => {
    const s = told([sure(0), ...Array.from({ length: 120 }, (_, i) => unsure(i + 1))]);
    expect(s.doubtful.length).toBeLessThan(97);
    expect(s.before).toHaveLength(0);
  });
  it('leaves its far end as the beginning of the next', () => {
    const s = after(told([sure(1), unsure(2), sure(3), sure(4), sure(5)]));
    expect(numbers(s.before)).toEqual([3, 4, 5]);
    expect(s.doubtful).toHaveLength(0);
  });
  it('takes up a frame that was followed again', () => {
    const s = amended(told([sure(1), lost(2)]), 2, square(7), 0.8);
    expect(s.doubtful[0]).toEqual({ frame: 2, corners: square(7), trust: 0.8 });
  });
  it('moves all its places, and those alone', () => {
    const s = withCorners(told([sure(1), lost(2), unsure(3), sure(4)]), (q) => q.map(([x, y]) => [x, y + 5]) as never);
    expect(s.before[0]!.corners).toEqual(square(1, 5));
    expect(s.beyond[0]!.corners).toEqual(square(4, 5));
    expect(s.doubtful.map((d) => d.corners)).toEqual([null, square(3, 5)]);
  });
});

describe('the frames of a stretch are looked at', () => {
  const doubtful = [4, 5, 6, 7, 8].map((frame) => ({ frame, corners: null, trust: 0 }));
  const end = [{ frame: 0, corners: square(0) }];
  it.each([
    ['from both ends', { before: end, beyond: end, doubtful }, [4, 8, 5, 7, 6]],
    ['from before it', { before: end, beyond: [], doubtful }, [4, 5, 6, 7, 8]],
    ['from beyond it', { before: [], beyond: end, doubtful }, [8, 7, 6, 5, 4]],
  ])('%s', (_, stretch, order) => {
    expect(inwards(stretch)).toEqual(order);
  });
});

describe('a place between known ones', () => {
  const at = (frame: number, x: number): { frame: number; corners: Quad } => ({ frame, corners: square(x) });
  it('lies on the cubic through two on each side', () => {
    const cubic = (t: number): number => 3 + 2 * t - 0.5 * t * t + 0.1 * t ** 3;
    const p = placeBetween(
      [0, 1, 5, 6].map((t) => at(t, cubic(t))),
      3,
      WIDTH,
    )!;
    expect(p.corners[0][0]).toBeCloseTo(cubic(3), 9);
    expect(p.near.map((k) => k.frame)).toEqual([1, 0]);
  });
  it('goes on along one side where the other is not known, and is known worse the faster it moves', () => {
    const slow = placeBetween([at(0, 0), at(1, 2)], 2, WIDTH)!;
    const fast = placeBetween([at(0, 0), at(1, 40)], 2, WIDTH)!;
    expect(slow.corners[0][0]).toBeCloseTo(4, 9);
    expect(fast.speed).toBeCloseTo(40, 9);
    expect(fast.sigma).toBeGreaterThan(5 * slow.sigma);
  });
  it('is known to about a pixel where the Screen stands, and badly where both sides disagree', () => {
    const stands = placeBetween([at(0, 9), at(1, 9), at(9, 9), at(10, 9)], 5, WIDTH)!;
    const leaps = placeBetween([at(0, 9), at(1, 9), at(3, 109), at(4, 109)], 2, WIDTH)!;
    for (const [i, p] of stands.corners.entries()) expect(Math.abs(p[0] - square(9)[i]![0])).toBeLessThan(1e-9);
    expect(stands.sigma).toBeLessThan(1.5);
    expect(leaps.corners[0][0]).toBeCloseTo(59, 6);
    expect(leaps.sigma).toBeGreaterThan(20);
  });
  it('is nowhere where nothing is known', () => {
    expect(placeBetween([], 3, WIDTH)).toBeNull();
  });
});
