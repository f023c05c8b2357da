import { describe, expect, it } from 'vitest';
import { lightOfPiece } from '../src/follow/picture/cell-light';
import { nextSoftness, softened } from '../src/follow/picture/softness';
import { Sight } from '../src/follow/memory/sight';
import type { Template } from '../src/follow/picture/template';
import { Follower } from '../src/follow/follower';
import { mapQuad } from '../src/geometry/quad';
import { distance } from '../src/geometry/point';
import type { RawLuma } from '../src/image/image';
import { GLASS, SETUP, device } from './builders/device';
import { renderScene, srgbGrey, srgbLight, waves } from './builders/scene';

const SHOWS = { bezel: 12, glassGrey: waves(4), bezelGrey: 40, behind: 170 };

function template(): Template {
  return new Sight(SETUP, 0, renderScene(device(SHOWS), 0)).keys[0]!.template;
}

/** A picture out of focus: the mean light over a disc. */
function defocused(luma: RawLuma, radius: number): RawLuma {
  const { width, height, data } = luma;
  const light = Float64Array.from(data, srgbLight);
  const out = new Float32Array(data.length);
  const reach = Math.ceil(radius);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      let count = 0;
      for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          const inside = dx * dx + dy * dy <= radius * radius && x + dx >= 0 && x + dx < width;
          if (!inside || y + dy < 0 || y + dy >= height) continue;
          sum += light[(y + dy) * width + x + dx]!;
          count++;
        }
      out[y * width + x] = sum / count;
    }
  return { width, height, data: Uint8Array.from(out, (v) => Math.round(srgbGrey(v))) };
}

describe('a softened picture', () => {
  it('spreads a point as a box of that width does: a twelfth of its square along each axis', () => {
    const t = template();
    const point = { ...t.pyramid[0]!, width: 61, height: 61, data: new Float32Array(61 * 61) };
    point.data[30 * 61 + 30] = 255;
    // It is light that spreads.
    const soft = softened({ ...t, levels: [], pyramid: [point] }, 6);
    const data = lightOfPiece(soft, 0, { x: 0, y: 0, width: 61, height: 61 }).map((v) => v / 255);
    let total = 0;
    let square = 0;
    for (let i = 0; i < data.length; i++) {
      total += data[i]!;
      square += data[i]! * ((i % 61) - 30) ** 2;
    }
    expect(total).toBeCloseTo(1, 2);
    // Softnesses are told apart by an eighth, so that pictures are made anew now and then only.
    expect(square).toBeGreaterThan(3 / 1.15 ** 2);
    expect(square).toBeLessThan(3 * 1.2 ** 2);
  });
  it('is the same picture when next to nothing is asked', () => {
    const t = template();
    expect(softened(t, 0.5)).toBe(t);
  });
});

describe('the softness of the next frame', () => {
  const like = (best: number) => (w: number) => 1 / (1 + 0.1 * Math.abs(w - best));
  it('climbs to what agrees best, and comes back', () => {
    expect(nextSoftness(0, like(5))).toBe(5);
    expect(nextSoftness(5, like(0))).toBe(0);
  });
  it('stays where softer is hardly better: lines look more alike the softer they are', () => {
    expect(nextSoftness(0, (w) => 1 + 0.001 * w)).toBe(0);
  });
});

describe('focus that is pulled away and back', () => {
  it('is followed', () => {
    const radius = (n: number): number => 5 * Math.sin((Math.PI * n) / 12);
    const scene = device(SHOWS);
    const follower = new Follower(SETUP, 0, renderScene(scene, 0));
    const errors: number[] = [];
    for (let n = 1; n <= 12; n++) {
      const result = follower.step(n, defocused(renderScene(scene, n), radius(n)));
      const truth = mapQuad(scene.homography(n), GLASS);
      const found = mapQuad(result.homography!, GLASS);
      errors.push(Math.max(...found.map((p, i) => distance(p, truth[i]!))));
    }
    // A small screen whose focus goes within six frames; remembered as sharp as it was, it is 2.4 px off.
    expect(Math.max(...errors)).toBeLessThan(1.4);
    expect(errors.at(-1)!).toBeLessThan(0.2);
  });
});
