/** Lenses that bow the edges, long runs, and clips from which nothing can be followed. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CoreError } from '../src/errors';
import { Follower } from '../src/follow/follower';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import type { Lens } from '../src/geometry/lens';
import { distort, idealBounds, undistort } from '../src/geometry/lens';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { buildPyramid } from '../src/image/pyramid';
import { bowedShot } from './builders/bowed';
import { moved, random, renderScene, waves } from './builders/scene';

const setup = (pin: Quad, more: Partial<FollowSetup> = {}): FollowSetup => ({
  pin,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
  ...more,
});

describe('a lens', () => {
  it('takes a point there and back, for barrels and pincushions', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.09, max: 0.2, noNaN: true }),
        fc.double({ min: 0, max: 1280, noNaN: true }),
        fc.double({ min: 0, max: 720, noNaN: true }),
        (radial, x, y) => {
          const lens: Lens = { radial, width: 1280, height: 720 };
          const p = undistort(lens, [x, y]);
          expect(distance(distort(lens, p), [x, y])).toBeLessThan(1e-6);
        },
      ),
    );
  });
  it('has a fold beyond which a barrel shows nothing, and never gives NaN there', () => {
    const lens: Lens = { radial: -0.35, width: 1000, height: 1000 };
    for (const p of [
      [0, 0],
      [1000, 1000],
      [-4000, 20],
    ] as Point[])
      expect(undistort(lens, p).every(Number.isFinite)).toBe(true);
  });
  it('straightens the picture: a ramp bent by it is a ramp again', () => {
    const lens: Lens = { radial: -0.08, width: 320, height: 200 };
    const data = new Float32Array(320 * 200);
    for (let y = 0; y < 200; y++)
      for (let x = 0; x < 320; x++) data[y * 320 + x] = undistort(lens, [x + 0.5, y + 0.5])[0] / 2;
    const [top] = buildPyramid({ width: 320, height: 200, data }, 2, idealBounds(lens), lens);
    for (const [x, y] of [
      [20, 30],
      [160, 100],
      [300, 170],
    ] as const) {
      const i = x - top!.x0;
      const j = y - top!.y0;
      expect(top!.data[j * top!.width + i]).toBeCloseTo((x + 0.5) / 2, 1);
    }
  });
  it('is found from a screen that is brought nearer, and what is followed behind it stays true', () => {
    const { pin, frame, truthAt } = bowedShot();
    const f = new Follower(setup(pin), 0, frame(0));
    const errors: number[] = [];
    for (let n = 1; n <= 34; n++) {
      const r = f.step(n, frame(n));
      const want = truthAt(n);
      if (r.homography) errors.push(Math.max(...mapQuad(r.homography, pin).map((p, i) => distance(p, want[i]!))));
    }
    expect(errors).toHaveLength(34);
    expect(f.state.lens.radial).toBeGreaterThan(-0.13);
    expect(f.state.lens.radial).toBeLessThan(-0.06);
    expect(errors.at(-1)!).toBeLessThan(2.5);
  });
});

describe('a thousand frames', () => {
  it('end as true as they began: the last hundred at most 0.1 px above the first', () => {
    const pin: Quad = [
      [35, 28],
      [125, 28],
      [125, 92],
      [35, 92],
    ];
    const homography = (n: number): number[] =>
      moved(pin, {
        x: 8 * Math.sin(n / 31),
        y: 6 * Math.sin(n / 47),
        turn: 0.1 * Math.sin(n / 71),
        scale: 1 + 0.1 * Math.sin(n / 97),
        tilt: 0.2 * Math.sin(n / 53),
      });
    const o = {
      width: 160,
      height: 120,
      pin,
      homography,
      texture: waves(5, 8, 40, 5),
      background: waves(9, 8, 40, 4),
      noise: 2,
    };
    const f = new Follower(setup(pin, { evidence: ['texture'], density: 'few' }), 0, renderScene(o, 0));
    const errors: number[] = [];
    for (let n = 1; n <= 1000; n++)
      errors.push(
        mapQuad(f.step(n, renderScene(o, n)).homography!, pin).reduce(
          (s, p, i) => s + distance(p, mapQuad(homography(n), pin)[i]!) / 4,
          0,
        ),
      );
    const p95 = (l: number[]): number => [...l].sort((a, b) => a - b)[94]!;
    expect(p95(errors.slice(-100))).toBeLessThan(p95(errors.slice(0, 100)) + 0.1);
  });
});

describe('what cannot be followed', () => {
  const pin: Quad = [
    [60, 50],
    [180, 50],
    [180, 130],
    [60, 130],
  ];
  const flat = (v: number): RawLuma => ({ width: 240, height: 180, data: new Uint8Array(240 * 180).fill(v) });
  const noise = (seed: number): RawLuma => {
    const r = random(seed);
    const l = flat(0);
    return { ...l, data: Uint8Array.from(l.data, () => 255 * r()) };
  };
  it.each([
    ['black', 0],
    ['white', 255],
  ])('an all-%s clip is refused with a sentence', (_, v) => {
    expect(() => new Follower(setup(pin), 0, flat(v))).toThrow(
      /edges were found on only 0 of the pin's sides; draw a follow patch/,
    );
  });
  it('a screen that turns black, white or to noise is lost with a reason, and no number ever is NaN', () => {
    const o = {
      width: 240,
      height: 180,
      pin,
      homography: (n: number) => moved(pin, { x: n }),
      texture: waves(5),
      background: waves(9),
      noise: 1,
    };
    for (const after of [() => flat(0), () => flat(255), noise]) {
      const f = new Follower(setup(pin), 0, renderScene(o, 0));
      for (let n = 1; n < 6; n++) {
        const r = n < 3 ? f.step(n, renderScene(o, n)) : f.step(n, after(n));
        if (n >= 3) expect(r).toMatchObject({ homography: null, trust: 0, reason: expect.stringMatching(/\w+.*\.$/) });
        expect(JSON.stringify([r.homography ?? [], r.sigma, r.trust, r.information, r.blur])).not.toMatch(/null|NaN/);
      }
      expect(JSON.stringify(f.state)).not.toMatch(/NaN/);
    }
  });
  it('noise from the first frame on is either refused or lost, never believed', () => {
    try {
      const r = new Follower(setup(pin), 0, noise(1)).step(1, noise(2));
      expect(r.homography).toBeNull();
    } catch (e) {
      expect(e).toBeInstanceOf(CoreError);
    }
  });
  it.each([
    [
      'smaller than 8 by 8',
      [
        {
          kind: 'follow' as const,
          points: [
            [80, 80],
            [86, 80],
            [86, 86],
            [80, 86],
          ] as Point[],
        },
      ],
      /smaller than 8x8 px/,
    ],
    [
      'outside the picture',
      [
        {
          kind: 'follow' as const,
          points: [
            [300, 300],
            [340, 300],
            [340, 340],
          ] as Point[],
        },
      ],
      /wholly outside the picture/,
    ],
    [
      'with other points on a key',
      [
        {
          kind: 'ignore' as const,
          points: [
            [80, 80],
            [96, 80],
            [96, 96],
          ] as Point[],
          keys: [
            {
              frame: 3,
              points: [
                [1, 1],
                [2, 1],
                [2, 2],
                [1, 2],
              ] as Point[],
            },
          ],
        },
      ],
      /has 3 points, but 4 on frame 3/,
    ],
  ])('a patch %s is refused', (_, patches, sentence) => {
    expect(() => new Follower(setup(pin, { patches }), 0, noise(3))).toThrow(sentence);
  });
});
