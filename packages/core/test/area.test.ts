import { describe, expect, it } from 'vitest';
import { mapPoint, quadToQuad } from '../src/geometry/homography';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { followedArea, knownOfPin } from '../src/pin/area';
import { random } from './builders/scene';

const AREA: Quad = [
  [100, 100],
  [500, 110],
  [490, 400],
  [95, 390],
];
const ON_FRAME: Quad = [
  [180, 130],
  [610, 90],
  [640, 420],
  [170, 350],
];
const WIDTH = 1920;
const grown = (by: number): Quad =>
  [
    [100 - by, 100 - by],
    [500 + by, 110 - by],
    [490 + by, 400 + by],
    [95 - by, 390 + by],
  ] as const;

describe('what is followed, apart from the pin', () => {
  it('is four corners as they are', () => {
    expect(followedArea(AREA)).toEqual({ quad: AREA, patches: [] });
  });
  it.each<[string, readonly Point[]]>([
    [
      'three points',
      [
        [10, 20],
        [110, 30],
        [60, 200],
      ],
    ],
    [
      'four that turn inwards',
      [
        [10, 20],
        [110, 30],
        [40, 50],
        [60, 200],
      ],
    ],
  ])('is an outline of %s within the rectangle about it', (_, points) => {
    expect(followedArea(points)).toEqual({
      quad: [
        [10, 20],
        [110, 20],
        [110, 200],
        [10, 200],
      ],
      patches: [{ kind: 'follow', points }],
    });
  });
  it('is at least three points', () => {
    expect(() => followedArea(AREA.slice(0, 2))).toThrow('The area has 2 points; an outline needs at least three.');
  });
});

describe('what is known of a pin', () => {
  const frame = { homography: quadToQuad(AREA, ON_FRAME), sigma: [0.2, 0.3, 0.5, 0.4], trust: 0.8 };

  it('that is what was followed stays as it was, to the last bit', () => {
    expect(knownOfPin(AREA, AREA, WIDTH)(frame)).toBe(frame);
  });

  it('that lies elsewhere agrees with corners thrown about many times', () => {
    const pin = grown(120);
    const dice = random(5);
    // Box and Muller 1958.
    const normal = (): number => Math.sqrt(-2 * Math.log(1 - dice())) * Math.cos(2 * Math.PI * dice());
    const throws = 20_000;
    const squares = [0, 0, 0, 0];
    for (let n = 0; n < throws; n++) {
      const off = ON_FRAME.map(([x, y], i): Point => [
        x + 0.02 * frame.sigma[i]! * normal(),
        y + 0.02 * frame.sigma[i]! * normal(),
      ]) as unknown as Quad;
      const h = quadToQuad(AREA, off);
      for (const [k, p] of pin.entries()) {
        const [a, b] = [mapPoint(h, p), mapPoint(frame.homography, p)];
        squares[k]! += ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) / (2 * throws * 0.02 ** 2);
      }
    }
    const told = knownOfPin(AREA, pin, WIDTH)(frame);
    for (const [k, s] of told.sigma.entries()) expect(s / Math.sqrt(squares[k]!)).toBeCloseTo(1, 1);
  });

  it('is less the farther it lies from what was followed, and never trusted more', () => {
    const at = (by: number): typeof frame => knownOfPin(AREA, grown(by), WIDTH)(frame);
    const sigmas = [1, 40, 160].map((by) => Math.max(...at(by).sigma));
    expect(sigmas).toEqual([...sigmas].sort((a, b) => a - b));
    expect(sigmas[0]).toBeCloseTo(0.5, 1);
    expect(at(160).trust).toBeLessThan(0.8);
    expect(at(-60).trust).toBeLessThanOrEqual(0.8);
  });
});
