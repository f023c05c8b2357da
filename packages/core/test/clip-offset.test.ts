import { describe, expect, it } from 'vitest';
import type { SmallFrames } from '../src/image/clip-offset';
import { clipOffset } from '../src/image/clip-offset';
import { random, waves } from './builders/scene';

const W = 32;
const H = 18;
/** A clip in which a blob wanders over a picture, frames `from` on; graded by `grade`. */
function clip(from: number, count: number, grade: (v: number) => number = (v) => v, seed = 3): SmallFrames {
  const still = waves(seed, 8, 60);
  const r = random(seed + from);
  const data = new Float32Array(count * W * H);
  for (let n = 0; n < count; n++)
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const t = from + n;
        const far = Math.hypot(x - 16 - 11 * Math.sin(t / 9), y - 9 - 6 * Math.cos(t / 5));
        data[(n * H + y) * W + x] = grade(
          Math.min(255, Math.max(0, 0.6 * still(6 * x, 6 * y) + (far < 4 ? 90 : 0) + 3 * (r() - 0.5))),
        );
      }
  return { size: W * H, count, data };
}

describe('which frame of a new version is which of the old one', () => {
  it.each<[string, number, number, ((v: number) => number) | undefined, number]>([
    ['the same', 0, 80, undefined, 0],
    ['begun 12 frames earlier', -12, 92, undefined, 12],
    ['cut 7 frames later', 7, 60, undefined, -7],
    ['longer at both ends', -20, 140, undefined, 20],
    ['regraded, darker and with less contrast', -5, 90, (v) => 20 + 110 * (v / 255) ** 1.7, 5],
    ['inverted order of nothing, but brighter', 3, 70, (v) => Math.min(255, 40 + 1.1 * v), -3],
  ])('%s', (_, from, count, grade, offset) => {
    const found = clipOffset(clip(0, 80), clip(from, count, grade), W)!;
    expect(found.offset).toBe(offset);
    expect(found.likeness).toBeGreaterThan(0.9);
    expect(found.margin).toBeGreaterThan(0.02);
  });
  it('says that another clip is not alike, and that a clip in which nothing moves does not tell', () => {
    expect(clipOffset(clip(0, 60), clip(0, 60, undefined, 11), W)!.likeness).toBeLessThan(0.75);
    const still = (count: number): SmallFrames => ({
      size: W * H,
      count,
      data: Float32Array.from({ length: W * H * count }, (_, i) => (i % (W * H)) % 37),
    });
    const found = clipOffset(still(30), still(40), W)!;
    expect(found).toMatchObject({ offset: 0, margin: 0 });
    expect(clipOffset(still(0), still(4), W)).toBeNull();
  });
});
