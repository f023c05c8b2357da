import { describe, expect, it } from 'vitest';
import { handledOutline } from '@yarlop/core/geometry/curve';
import type { Point } from '@yarlop/core/geometry/point';
import { movedInList } from '../src/edits/moved-in-list';
import { closedCurve } from '../src/viewer/freehand';

/** A hand's way around an ellipse, with a tremble of a px. */
const stroke = (rx: number, ry: number, n = 60): Point[] =>
  Array.from({ length: n }, (_, i): Point => {
    const t = (2 * Math.PI * i) / n;
    return [200 + rx * Math.cos(t) + ((i * 7) % 3) - 1, 150 + ry * Math.sin(t) + ((i * 5) % 3) - 1];
  });

describe('an outline drawn in one stroke', () => {
  it.each([
    [90, 60],
    [20, 20],
    [150, 15],
  ])('around an ellipse of %i by %i px has few points and keeps to the hand within 5 px', (rx, ry) => {
    const way = stroke(rx, ry);
    const { points, handles } = closedCurve(way)!;
    expect(points.length).toBeGreaterThanOrEqual(4);
    expect(points.length).toBeLessThan(20);
    expect(handles).toHaveLength(points.length);
    const polygon = handledOutline(points, handles);
    for (const p of way) {
      const near = Math.min(...polygon.map((q) => Math.hypot(p[0] - q[0], p[1] - q[1])));
      // Vertices of the polygon lie up to a twentieth of its length apart.
      expect(near).toBeLessThan(5 + rx / 10);
    }
  });

  it('goes around nothing when it is a dot or a twitch', () => {
    expect(closedCurve([])).toBeNull();
    expect(closedCurve([[5, 5]])).toBeNull();
    expect(closedCurve(Array.from({ length: 30 }, (): Point => [5, 5]))).toBeNull();
    expect(closedCurve(stroke(40, 40, 5))).toBeNull();
  });
});

describe('a thing of a list', () => {
  it('goes a place earlier or later, and nowhere beyond its ends', () => {
    const list = ['a', 'b', 'c'];
    expect(movedInList(list, 0, 1)).toEqual(['b', 'a', 'c']);
    expect(movedInList(list, 2, -1)).toEqual(['a', 'c', 'b']);
    expect(movedInList(list, 0, -1)).toBe(list);
    expect(movedInList(list, 2, 1)).toBe(list);
  });
});
