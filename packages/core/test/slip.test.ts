import { describe, expect, it } from 'vitest';
import { quadToQuad } from '../src/geometry/homography';
import { IDENTITY } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { grownPin } from '../src/pin/inset';
import { mapQuad } from '../src/geometry/quad';
import type { SlipFrame } from '../src/proof/ranking';
import { jitterOf, rankSlips } from '../src/proof/ranking';
import { lookAtCorner, slipOf } from '../src/proof/slip';
import type { SceneOptions } from './builders/scene';
import { moved, random, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [320, 90],
  [320, 220],
  [120, 220],
];
const scene = (more: Partial<SceneOptions> = {}): SceneOptions => ({
  width: 480,
  height: 320,
  pin: grownPin(PIN, 10),
  homography: (n) => moved(PIN, { x: 3 * n, y: n, turn: 0.02 * n, scale: 1 + 0.01 * n }),
  texture: waves(5),
  background: waves(9),
  noise: 2,
  ...more,
});
const beside = (h: readonly number[], by: readonly Point[]): number[] =>
  quadToQuad(
    PIN,
    mapQuad(h, PIN).map((p, i): Point => [p[0] + by[i]![0], p[1] + by[i]![1]]),
  );

describe('slip', () => {
  it('is what a track was moved by, in size and direction, at every corner', () => {
    const o = scene();
    const r = random(8);
    const first = renderScene(o, 0);
    for (const n of [2, 5, 8]) {
      const by = PIN.map((): Point => [3 * (r() - 0.5), 3 * (r() - 0.5)]);
      const h = beside(o.homography(n), by);
      const frame = renderScene(o, n);
      for (let c = 0; c < 4; c++) {
        const s = slipOf(lookAtCorner(first, 0, IDENTITY, PIN, c)!, frame, h, PIN);
        expect(s.reason).toBeNull();
        expect(Math.hypot(s.by![0] + by[c]![0], s.by![1] + by[c]![1]), `frame ${n}, corner ${c}`).toBeLessThan(0.3);
        expect(s.sigma).toBeLessThan(0.6);
      }
    }
  });
  it('is the same under another exposure', () => {
    const o = scene({ gain: (n) => (n === 0 ? 1 : 0.6) });
    const s = slipOf(
      lookAtCorner(renderScene(o, 0), 0, IDENTITY, PIN, 1)!,
      renderScene(o, 4),
      beside(o.homography(4), [
        [0, 0],
        [1.5, -1],
        [0, 0],
        [0, 0],
      ]),
      PIN,
    );
    expect(Math.hypot(s.by![0] + 1.5, s.by![1] - 1)).toBeLessThan(0.2);
  });
  it('is not told where the corner is covered, outside the picture, or nothing stands out there', () => {
    const o = scene({
      covers: (n) =>
        n === 3
          ? [
              [
                [290, 60],
                [380, 60],
                [380, 140],
                [290, 140],
              ],
            ]
          : [],
    });
    const look = lookAtCorner(renderScene(o, 0), 0, IDENTITY, PIN, 1)!;
    expect(slipOf(look, renderScene(o, 3), o.homography(3), PIN)).toMatchObject({
      by: null,
      reason: expect.stringContaining('TR'),
    });
    expect(slipOf(look, renderScene(o, 0), [1, 0, 400, 0, 1, 0, 0, 0, 1], PIN)).toMatchObject({
      by: null,
      reason: 'Too little of TR is inside the picture.',
    });
    expect(slipOf(look, renderScene(o, 0), IDENTITY, PIN, 30).reason).toBe('TR is blurred by 30 px here.');
    expect(slipOf(look, renderScene(o, 0), moved(PIN, { scale: 3 }), PIN)).toMatchObject({
      by: null,
      reason: expect.stringContaining('seen too differently'),
    });
    expect(
      lookAtCorner({ width: 480, height: 320, data: new Uint8Array(480 * 320).fill(80) }, 0, IDENTITY, PIN, 0),
    ).toBeNull();
  });
});

describe('a ranking of slips', () => {
  const series = (by: (n: number, c: number) => Point | null, frames = 60): SlipFrame[] =>
    Array.from({ length: frames }, (_, frame) => ({ frame, by: [0, 1, 2, 3].map((c) => by(frame, c)) }));
  it('finds a smooth drift on its worst frame and corner, and calls it so', () => {
    const r = rankSlips(
      series((n, c) => (c === 2 ? [6 * Math.sin((Math.PI * n) / 59), 0] : [0, 0])),
      1920,
    );
    expect(r.troubles[0]).toMatchObject({ kind: 'drift', corner: 2 });
    expect(Math.abs(r.troubles[0]!.frame - 29.5)).toBeLessThan(4);
    expect(r.troubles[0]!.size).toBeCloseTo(6, 0);
    expect(r.troubles.filter((t) => t.kind === 'pop')).toEqual([]);
    expect(r.told).toBe(1);
  });
  it('finds a pop on its very frame, and no drift there', () => {
    const r = rankSlips(
      series((n, c) => (n === 33 && c === 0 ? [0, 4] : [0.02 * Math.sin(7 * n), 0])),
      1920,
    );
    expect(r.troubles[0]).toMatchObject({ kind: 'pop', frame: 33, corner: 0 });
    expect(r.troubles[0]!.size).toBeCloseTo(4, 0);
    expect(Math.max(...r.drift.map((d) => d ?? 0))).toBeLessThan(0.1);
  });
  it('tells jitter by its own deviation, at the size of a picture 1920 wide', () => {
    const r = random(4);
    const normal = (): number => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
    const noisy = series(() => [0.5 * normal(), 0.5 * normal()], 240);
    expect(jitterOf(noisy)).toBeGreaterThan(0.45);
    expect(jitterOf(noisy)).toBeLessThan(0.55);
    expect(rankSlips(noisy, 960).jitter).toBeCloseTo(2 * jitterOf(noisy), 9);
    expect(jitterOf(series((n) => [0.3 * n, 1]))).toBeLessThan(1e-9);
  });
  it('says what it could not tell', () => {
    const r = rankSlips(
      series((n, c) => (c > 1 || n % 2 ? null : [0, 0])),
      1920,
    );
    expect(r.told).toBe(0.25);
    expect(r.jitter).toBeNaN();
    expect(rankSlips([], 1920)).toMatchObject({ troubles: [], told: 0 });
  });
});
