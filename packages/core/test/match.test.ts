import { describe, expect, it } from 'vitest';
import { levelsAt } from '../src/dress/colour/levels';
import { DressMeasure } from '../src/dress/match';
import type { DressRecipe } from '../src/dress/layer/recipe';
import { CURVES, linearToSrgb } from '../src/dress/colour/transfer';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { painted } from './builders/picture';
import { random, waves } from './builders/scene';

const PIN: Quad = [
  [40, 30],
  [120, 30],
  [120, 90],
  [40, 90],
];

describe('match all', () => {
  it("tells black, white, softness, noise and the screen's colour of a made-up plate", () => {
    const r = random(5);
    const normal = (): number => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
    const measure = new DressMeasure(255, 'srgb', 80 / 60, 0);
    for (let n = 0; n < 6; n++) {
      const soft = (d: number): number => 1 / (1 + Math.exp((-1.7 * d) / 1.5));
      const picture = painted(160, 120, (x, y, c) => {
        const inside = soft(Math.min(x + 0.5 - 40, 120 - x - 0.5)) * soft(Math.min(y + 0.5 - 30, 90 - y - 0.5));
        const bg = x < 30 ? 30 : 200;
        return (
          255 *
            linearToSrgb(
              inside * CURVES.srgb.decode([40, 180, 70][c]! / 255) + (1 - inside) * CURVES.srgb.decode(bg / 255),
            ) +
          3 * normal()
        );
      });
      measure.glance({ frame: n, picture, corners: PIN });
      measure.look({ frame: n, picture, corners: PIN });
    }
    const found = new Map(measure.proposals(0.5).map((p) => [p.part, p.recipe]));
    const levels = found.get('levels')!.levels!;
    expect(CURVES.srgb.encode(levels.black![0] as number) * 255).toBeGreaterThan(18);
    expect(CURVES.srgb.encode(levels.black![0] as number) * 255).toBeLessThan(40);
    expect(CURVES.srgb.encode(levels.white![0] as number) * 255).toBeGreaterThan(190);
    expect(found.get('motionBlur')!.motionBlur!.shutter).toBe(180);
    expect(255 * found.get('grain')!.grain!.measured!.sigma[1]!.at(-1)!).toBeCloseTo(3, 0);
    expect(found.get('holdouts')!.holdouts![0]).toMatchObject({ kind: 'key' });
    expect(Math.abs(found.get('softness')!.softness!.measured!.values[0]! - 1.5)).toBeLessThan(0.5);
    expect(found.has('glare')).toBe(false);
  });
  it('fills the marks of a screen for keying, and tells flicker from things that move', () => {
    const moving = waves(3, 8, 40);
    const marked = (n: number, light: number): Raster =>
      painted(160, 120, (x, y, c) => {
        const inside = x >= 40 && x < 120 && y >= 30 && y < 90;
        const cross = (Math.abs(x - 60) < 2 && Math.abs(y - 50) < 6) || (Math.abs(y - 50) < 2 && Math.abs(x - 60) < 6);
        if (inside) return cross ? 20 : [40, 180, 70][c]!;
        return 255 * linearToSrgb(light * CURVES.srgb.decode(Math.min(1, Math.max(0, moving(x + 5 * n, y) / 255))));
      });
    const measured = (light: (n: number) => number): Map<string, Partial<DressRecipe>> => {
      const m = new DressMeasure(255, 'srgb', 80 / 60, 0);
      for (let n = 0; n < 24; n++) {
        const s = { frame: n, picture: marked(n, light(n)), corners: PIN };
        m.glance(s);
        if (n % 8 === 0) m.look(s);
      }
      return new Map(m.proposals(null).map((p) => [p.part, p.recipe]));
    };
    const steady = measured(() => 1);
    const flickers = measured((n) => (n % 3 === 0 ? 0.8 : 1));
    const key = steady.get('holdouts')!.holdouts![0]!;
    expect(key.kind === 'key' && key.crosses).toBeGreaterThan(4);
    expect(key.kind === 'key' && key.crosses).toBeLessThan(20);
    expect(steady.get('levels')!.levels!.measured).toBeUndefined();
    expect(flickers.get('levels')!.levels!.measured!.values[12]).toBeCloseTo(0.8, 1);
    expect(flickers.get('levels')!.levels!.measured!.values[13]).toBeCloseTo(1, 1);
  });
  it('follows an exposure that is opened or closed during the shot, and measures as on the reference frame', () => {
    const look = waves(3, 8, 40);
    const measured = (stops: (n: number) => number): { levels: NonNullable<DressRecipe['levels']>; told: string } => {
      const m = new DressMeasure(255, 'srgb', 80 / 60, 0);
      for (let n = 0; n < 24; n++) {
        const s = {
          frame: n,
          picture: painted(160, 120, (x, y) =>
            x >= 40 && x < 120 && y >= 30 && y < 90
              ? 20
              : 255 *
                linearToSrgb(2 ** stops(n) * 0.5 * CURVES.srgb.decode(Math.min(1, Math.max(0, look(x, y) / 255)))),
          ),
          corners: PIN,
        };
        m.glance(s);
        if (n % 8 === 0) m.look(s);
      }
      const p = m.proposals(null).find((l) => l.part === 'levels')!;
      return { levels: p.recipe.levels!, told: p.told };
    };
    const steady = measured(() => 0);
    const closes = measured((n) => -1.5 * Math.min(1, n / 16));
    expect(steady.levels.measured).toBeUndefined();
    expect(closes.told).toMatch(/exposure changes by 1\.[45] stops/);
    expect(Math.log2(closes.levels.measured!.values[8]!)).toBeCloseTo(-0.75, 1);
    expect(Math.log2(closes.levels.measured!.values[20]!)).toBeCloseTo(-1.5, 1);
    // White and black are those of the reference frame.
    expect(closes.levels.white![0] as number).toBeCloseTo(steady.levels.white![0] as number, 1);
    const start = levelsAt(closes.levels, 0, 24);
    const end = levelsAt(closes.levels, 20, 24);
    expect((end.matrix[0]! + end.offset[0]!) / (start.matrix[0]! + start.offset[0]!)).toBeCloseTo(
      closes.levels.measured!.values[20]!,
      3,
    );
  });
  it('takes dark glass for what it is, and a picture that plays on the screen for none of both', () => {
    const measured = (screen: (x: number, y: number) => number): Map<string, Partial<DressRecipe>> => {
      const m = new DressMeasure(255, 'srgb', 80 / 60, 0);
      for (let n = 0; n < 6; n++)
        m.look({
          frame: n,
          picture: painted(160, 120, (x, y) =>
            x >= 40 && x < 120 && y >= 30 && y < 90 ? screen(x, y) : 140 + (x % 20),
          ),
          corners: PIN,
        });
      return new Map(m.proposals(null).map((p) => [p.part, p.recipe]));
    };
    const dark = measured(() => 25);
    const picture = measured((x) => (x < 80 ? 40 : 200));
    expect(dark.get('glare')!.glare!.measured!.values[0]).toBeCloseTo(CURVES.srgb.decode(25 / 255), 3);
    expect(dark.get('levels')!.levels!.black![0]).toBeCloseTo(CURVES.srgb.decode(25 / 255), 3);
    expect(picture.has('glare')).toBe(false);
    expect(picture.has('holdouts')).toBe(false);
  });
});
