import { describe, expect, it } from 'vitest';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, signedArea } from '../src/geometry/quad';
import { middleOf, shiftedPin, spreadPin, turnedPin } from '../src/pin/whole-pin';

const PIN: Quad = [
  [100, 100],
  [300, 120],
  [290, 260],
  [90, 240],
];
const sides = (q: Quad): number[] => q.map((p, i) => distance(p, q[(i + 1) % 4]!));

describe('a pin as a whole', () => {
  it('is shifted with all its corners', () => {
    expect(shiftedPin(PIN, [7, -3])).toEqual(PIN.map(([x, y]) => [x + 7, y - 3]));
  });
  it('turned by a quarter keeps its sides, and its middle stays', () => {
    const m = middleOf(PIN);
    const q = turnedPin(PIN, [m[0] + 50, m[1]], [m[0], m[1] + 50]);
    for (const [i, s] of sides(q).entries()) expect(s).toBeCloseTo(sides(PIN)[i]!, 9);
    expect(distance(middleOf(q), m)).toBeLessThan(1e-9);
    // y runs down: from right to below is clockwise on the picture.
    expect(q[0][0]).toBeCloseTo(m[0] - (PIN[0][1] - m[1]), 9);
    expect(q[0][1]).toBeCloseTo(m[1] + (PIN[0][0] - m[0]), 9);
  });
  it('is as much larger as what is dragged lies farther off', () => {
    const m = middleOf(PIN);
    const q = turnedPin(PIN, [m[0] + 40, m[1] + 30], [m[0] + 60, m[1] + 45]);
    expect(signedArea(q) / signedArea(PIN)).toBeCloseTo(2.25, 9);
    for (const [i, s] of sides(q).entries()) expect(s / sides(PIN)[i]!).toBeCloseTo(1.5, 9);
  });
  it('dragged from its middle stays as it is', () => {
    expect(turnedPin(PIN, middleOf(PIN), [0, 0])).toBe(PIN);
  });
  it.each([
    ['away from the middle', 1, 0],
    ['around it', 0, 1],
    ['around it, the other way', 0, -0.1],
  ])('moves its farthest corner by just so many px %s', (_, along, around) => {
    expect(farthest(spreadPin(PIN, along, around), PIN)).toBeCloseTo(Math.hypot(along, around), 4);
  });
});
