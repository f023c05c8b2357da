import { describe, expect, it } from 'vitest';
import { distance } from '../src/geometry/point';
import { insidePolygon } from '../src/geometry/polygon';
import { distort } from '../src/geometry/lens';
import type { Quad } from '../src/geometry/quad';
import { farthest, perspectiveCentre } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { grownPin, scaledPin } from '../src/pin/inset';
import { snapToGlass } from '../src/pin/snap-to-glass';
import { random } from './builders/scene';

const GLASS: Quad = [
  [141.3, 92.6],
  [352.8, 108.1],
  [344.2, 236.7],
  [128.4, 247.9],
];
const RIM = grownPin(GLASS, 15);
const SUB = 5;

/**
 * Glass in a bezel on a bright table, each px the mean of finer samples; levels are 8-bit values, averaged as they
 * stand.
 */
function device(
  glass: number,
  bezel: number,
  table: number,
  noise: number,
  cover: Quad | null = null,
  seed = 3,
  warp: (p: readonly [number, number]) => [number, number] = (p) => [...p],
): RawLuma {
  const width = 480;
  const height = 340;
  const data = new Uint8Array(width * height);
  const r = random(seed);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let j = 0; j < SUB; j++)
        for (let i = 0; i < SUB; i++) {
          const at = [x + (i + 0.5) / SUB, y + (j + 0.5) / SUB] as [number, number];
          const p = warp(at);
          if (cover && insidePolygon(at, cover)) sum += 150;
          else if (insidePolygon(p, GLASS)) sum += glass;
          else if (insidePolygon(p, RIM)) sum += bezel;
          else sum += table;
        }
      data[y * width + x] = Math.round(Math.min(255, Math.max(0, sum / (SUB * SUB) + noise * (r() + r() + r() - 1.5))));
    }
  return { width, height, data };
}
const off = (q: Quad, by: number, seed: number): Quad => {
  const r = random(seed);
  return q.map(([x, y]) => [x + by * (2 * r() - 1), y + by * (2 * r() - 1)]) as unknown as Quad;
};

describe('the pin is laid onto the glass', () => {
  it('from rough corners to a tenth of a pixel, on lit and on nearly dark glass, past the stronger rim', () => {
    for (const [i, [glass, bezel]] of (
      [
        [205, 25],
        [18, 42],
        [120, 200],
      ] as const
    ).entries()) {
      const s = snapToGlass(device(glass, bezel, 170, 2), off(GLASS, 3.5, 10 + i));
      expect(farthest(s.corners, GLASS), `glass ${glass} in a bezel of ${bezel}`).toBeLessThan(0.35);
      expect(s.sides.every((q) => q.found && q.residual < 0.5 && q.sites > 14)).toBe(true);
    }
  });
  it('where a corner is covered: the sides meet behind the cover', () => {
    const s = snapToGlass(
      device(205, 25, 170, 2, [
        [320, 90],
        [380, 90],
        [380, 140],
        [320, 140],
      ]),
      off(GLASS, 3, 4),
    );
    expect(farthest(s.corners, GLASS)).toBeLessThan(0.35);
  });
  it('and leaves a side alone that is left out', () => {
    const rough = off(GLASS, 3, 5);
    const s = snapToGlass(device(205, 25, 170, 2), rough, { exclude: [true, false, false, false] });
    expect(s.sides[0]).toMatchObject({ found: false, reason: 'Left out.' });
    // TL still lies on the line of the rough top side.
    const [a, b] = [rough[0], rough[1]];
    const away =
      Math.abs((b[0] - a[0]) * (s.corners[0][1] - a[1]) - (b[1] - a[1]) * (s.corners[0][0] - a[0])) / distance(a, b);
    expect(away).toBeLessThan(1e-6);
    expect(distance(s.corners[2], GLASS[2])).toBeLessThan(0.35);
  });
  it('through a lens that bows the sides', () => {
    // The picture shows ideal positions distorted; the device is drawn where the ideal picture has it.
    const lens = { radial: -0.08, width: 480, height: 340 };
    const picture = device(205, 25, 170, 1, null, 3, (p) => {
      let [x, y] = p;
      for (let i = 0; i < 12; i++) {
        const [dx, dy] = distort(lens, [x, y]);
        x += p[0] - dx;
        y += p[1] - dy;
      }
      return [x, y];
    });
    const real = GLASS.map((p) => distort(lens, p)) as unknown as Quad;
    expect(farthest(snapToGlass(picture, off(real, 3, 6), { lens }).corners, real)).toBeLessThan(0.4);
  });
  it('or says that no edge stands out, and refuses corners that make no screen', () => {
    const plain: RawLuma = { width: 480, height: 340, data: new Uint8Array(480 * 340).fill(90) };
    expect(() => snapToGlass(plain, GLASS)).toThrow(/No edge stands out along any side/);
    expect(() => snapToGlass(plain, [GLASS[0], GLASS[2], GLASS[1], GLASS[3]])).toThrow(/sides of the pin cross/);
    const nan = snapToGlass(device(205, 25, 170, 40), GLASS);
    expect(nan.corners.flat().every(Number.isFinite)).toBe(true);
  });
});

describe('a pin made larger', () => {
  it('by pixels has every side that far out, and back again', () => {
    const out = grownPin(GLASS, 2);
    for (let i = 0; i < 4; i++) {
      const a = GLASS[i]!;
      const b = GLASS[(i + 1) % 4]!;
      const p = out[i]!;
      expect(Math.abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])) / distance(a, b)).toBeCloseTo(
        2,
        9,
      );
      expect(insidePolygon(p, GLASS)).toBe(false);
    }
    expect(farthest(grownPin(out, -2), GLASS)).toBeLessThan(1e-9);
    const mirrored = [GLASS[1], GLASS[0], GLASS[3], GLASS[2]] as unknown as Quad;
    expect(insidePolygon(grownPin(mirrored, 2)[0], GLASS)).toBe(false);
  });
  it('by a share keeps its centre in perspective, 101 % and back', () => {
    const out = scaledPin(GLASS, 1.01);
    const [cx, cy] = perspectiveCentre(GLASS);
    const [dx, dy] = perspectiveCentre(out);
    expect(Math.hypot(cx - dx, cy - dy)).toBeLessThan(1e-6);
    expect(farthest(scaledPin(out, 1 / 1.01), GLASS)).toBeLessThan(1e-6);
  });
});
