import { flatAreaFor } from '@yarlop/core/proof/flat-view';
import type { Quad } from '@yarlop/core/geometry/quad';
import { describe, expect, it } from 'vitest';
import { windowOf } from '../src/prove/flat-window';

const PLATE = [1920, 1080] as const;
/** An upright Screen of 400 by 300 px: its surroundings are 14 % of that to each side, 56 and 42 px. */
const PIN: Quad = [
  [400, 300],
  [800, 300],
  [800, 600],
  [400, 600],
];
const moved = (dx: number): Quad => PIN.map(([x, y]) => [x + dx, y]) as unknown as Quad;

describe('what of the plate a Screen laid flat is made from', () => {
  const area = flatAreaFor(PIN, 1e6);
  it('is the Screen with its surroundings, and a little more', () => {
    const w = windowOf(area, PIN, PLATE)!;
    for (const [got, wanted] of [
      [w.x, 342],
      [w.y, 256],
      [w.width, 516],
      [w.height, 388],
    ] as const)
      expect(Math.abs(got - wanted)).toBeLessThanOrEqual(2);
  });
  it('ends where the plate ends', () => {
    expect(windowOf(area, moved(-450), PLATE)).toMatchObject({ x: 0 });
    const right = windowOf(area, moved(1100), PLATE)!;
    expect(right.x + right.width).toBe(1920);
  });
  it('is nothing where the Screen is elsewhere', () => {
    expect(windowOf(area, moved(2000), PLATE)).toBeNull();
  });
  it('is the whole plate where a part of it would lie behind the lens', () => {
    const steep: Quad = [
      [900, 300],
      [1000, 300],
      [4000, 1500],
      [-2000, 1500],
    ];
    expect(windowOf(area, steep, PLATE)).toEqual({ x: 0, y: 0, width: 1920, height: 1080 });
  });
});
