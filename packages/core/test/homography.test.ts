import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import {
  homographyFromPairs,
  mapPoint,
  normaliseHomography,
  quadToQuad,
  scaleAt,
  unitSquareToQuad,
} from '../src/geometry/homography';
import { determinant, inverse, multiply } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { assertPin, isConvex, mapQuad, perspectiveCentre } from '../src/geometry/quad';
import type { OpenCv } from './builders/opencv';
import { flat, openCv } from './builders/opencv';

const near = (v: number) => fc.double({ min: v - 60, max: v + 60, noNaN: true });
const quad = fc
  .tuple(near(100), near(100), near(500), near(90), near(520), near(400), near(90), near(420))
  .map((c): Quad => [
    [c[0], c[1]],
    [c[2], c[3]],
    [c[4], c[5]],
    [c[6], c[7]],
  ]);

describe('a homography', () => {
  let cv: OpenCv;
  beforeAll(async () => {
    cv = await openCv();
  });

  it('from four pairs gives the published worked example of the npm package perspective-transform 1.1.3 (its README; that package rounds its coefficients to ten decimals)', () => {
    const h = quadToQuad(
      [
        [158, 64],
        [494, 69],
        [495, 404],
        [158, 404],
      ],
      [
        [100, 500],
        [152, 564],
        [148, 604],
        [100, 560],
      ],
    );
    const [x, y] = mapPoint(h, [250, 120]);
    expect(x).toBeCloseTo(117.27521125839255, 4);
    expect(y).toBeCloseTo(530.9202410878403, 4);
  });

  it('from four pairs agrees with the OpenCV build', () => {
    fc.assert(
      fc.property(quad, quad, (a, b) => {
        const theirs = cv.getPerspectiveTransform(
          cv.matFromArray(4, 1, cv.CV_32FC2, flat(a)),
          cv.matFromArray(4, 1, cv.CV_32FC2, flat(b)),
        );
        const p: Point = [300, 250];
        const q = mapPoint(
          quadToQuad(a.map((c) => c.map(Math.fround)) as never, b.map((c) => c.map(Math.fround)) as never),
          p,
        );
        const r = mapPoint([...theirs.data64F], p);
        expect(Math.hypot(q[0] - r[0], q[1] - r[1])).toBeLessThan(1e-3);
        theirs.delete();
      }),
      { numRuns: 50 },
    );
  });

  it('in the least-squares sense agrees with the OpenCV build on noisy pairs', () => {
    const h = quadToQuad(
      [
        [0, 0],
        [400, 0],
        [400, 300],
        [0, 300],
      ],
      [
        [40, 30],
        [410, 60],
        [390, 350],
        [20, 300],
      ],
    );
    const from: Point[] = [];
    const to: Point[] = [];
    for (let i = 0; i < 60; i++) {
      const p: Point = [(i * 67) % 400, (i * 41) % 300];
      const q = mapPoint(h, p);
      from.push(p);
      to.push([q[0] + 0.3 * Math.sin(i * 12.9), q[1] + 0.3 * Math.cos(i * 7.3)]);
    }
    const theirs = cv.findHomography(
      cv.matFromArray(60, 1, cv.CV_32FC2, flat(from)),
      cv.matFromArray(60, 1, cv.CV_32FC2, flat(to)),
    );
    const ours = homographyFromPairs(from, to);
    for (const p of [
      [0, 0],
      [400, 0],
      [400, 300],
      [0, 300],
    ] as Point[]) {
      const a = mapPoint(ours, p);
      const b = mapPoint([...theirs.data64F], p);
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(0.05);
    }
  });

  it('maps its four corners exactly and inverts itself', () => {
    fc.assert(
      fc.property(quad, quad, (a, b) => {
        const h = quadToQuad(a, b);
        const back = multiply(inverse(h), h);
        mapQuad(h, a).forEach((p, i) => expect(Math.hypot(p[0] - b[i]![0], p[1] - b[i]![1])).toBeLessThan(1e-7));
        expect(back[0]! / back[8]!).toBeCloseTo(1, 7);
      }),
    );
  });

  it('does not depend on which corner is named first', () => {
    fc.assert(
      fc.property(quad, quad, (a, b) => {
        const turn = (q: Quad): Quad => [q[1], q[2], q[3], q[0]];
        const p = mapPoint(quadToQuad(a, b), [300, 260]);
        const q = mapPoint(quadToQuad(turn(a), turn(b)), [300, 260]);
        expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-6);
      }),
    );
  });

  it('is stored with unit Frobenius norm and positive third component at the pin', () => {
    fc.assert(
      fc.property(quad, quad, fc.constantFrom(-7, -1, 0.01, 300), (a, b, k) => {
        const at = perspectiveCentre(a);
        const h = normaliseHomography(
          quadToQuad(a, b).map((v) => v * k),
          at,
        );
        expect(h.reduce((s, v) => s + v * v, 0)).toBeCloseTo(1, 12);
        expect(h[6]! * at[0] + h[7]! * at[1] + h[8]!).toBeGreaterThan(0);
      }),
    );
  });

  it('keeps straight lines straight and the crossing of the diagonals in place', () => {
    fc.assert(
      fc.property(quad, (q) => {
        const centre = mapPoint(unitSquareToQuad(q), [0.5, 0.5]);
        const crossing = perspectiveCentre(q);
        expect(Math.hypot(centre[0] - crossing[0], centre[1] - crossing[1])).toBeLessThan(1e-6);
      }),
    );
  });

  it('scales areas by its local scale squared', () => {
    const h = quadToQuad(
      [
        [0, 0],
        [100, 0],
        [100, 100],
        [0, 100],
      ],
      [
        [10, 5],
        [210, 20],
        [190, 240],
        [0, 180],
      ],
    );
    const e = 1e-3;
    const p: Point = [40, 60];
    const [a, b, c] = [mapPoint(h, p), mapPoint(h, [p[0] + e, p[1]]), mapPoint(h, [p[0], p[1] + e])];
    const area = ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / (e * e);
    expect(scaleAt(h, p) ** 2).toBeCloseTo(area, 3);
  });

  it('refuses three corners on a line', () => {
    expect(() =>
      quadToQuad(
        [
          [0, 0],
          [1, 0],
          [2, 0],
          [0, 2],
        ],
        [
          [0, 0],
          [1, 0],
          [1, 1],
          [0, 1],
        ],
      ),
    ).toThrow(/one line/);
    expect(() =>
      homographyFromPairs(
        [
          [0, 0],
          [1, 1],
          [2, 2],
          [3, 3],
        ],
        [
          [0, 0],
          [1, 1],
          [2, 2],
          [3, 3],
        ],
      ),
    ).toThrow(/line/);
  });

  it('has a determinant that multiplies', () => {
    fc.assert(
      fc.property(quad, quad, (a, b) => {
        const m = unitSquareToQuad(a);
        const n = unitSquareToQuad(b);
        expect(determinant(multiply(m, n)) / (determinant(m) * determinant(n))).toBeCloseTo(1, 8);
      }),
    );
  });
});

describe('a pin', () => {
  const good: Quad = [
    [10, 10],
    [100, 12],
    [98, 80],
    [8, 84],
  ];
  it('may lie outside the picture and be mirrored', () => {
    expect(() =>
      assertPin([
        [-500, -400],
        [3000, -380],
        [2900, 2000],
        [-450, 1900],
      ]),
    ).not.toThrow();
    expect(() => assertPin([good[1], good[0], good[3], good[2]])).not.toThrow();
  });
  it.each([
    [
      'a bow-tie',
      [
        [0, 0],
        [100, 100],
        [100, 0],
        [0, 100],
      ],
      /cross each other/,
    ],
    [
      'a corner that is no number',
      [
        [NaN, 0],
        [100, 0],
        [100, 100],
        [0, 100],
      ],
      /TL.*not a usable position/,
    ],
    [
      'a corner at 1e12',
      [
        [0, 0],
        [1e12, 0],
        [100, 100],
        [0, 100],
      ],
      /TR.*not a usable position/,
    ],
    [
      'a corner inside the others',
      [
        [0, 0],
        [100, 0],
        [40, 30],
        [0, 100],
      ],
      /BR.*inside/,
    ],
    [
      'two corners on each other',
      [
        [0, 0],
        [0.5, 0],
        [100, 100],
        [0, 100],
      ],
      /on each other/,
    ],
  ] as const)('with %s is refused, and the sentence names it', (_, corners, message) => {
    expect(() => assertPin(corners as unknown as Quad)).toThrow(message);
  });
  it('is convex when no rectangle is folded', () => expect(isConvex(good)).toBe(true));
});
