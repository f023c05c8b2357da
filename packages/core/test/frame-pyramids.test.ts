import { describe, expect, it } from 'vitest';
import { framePyramid } from '../src/image/frame-pyramids';
import type { Lens } from '../src/geometry/lens';
import type { RawLuma } from '../src/image/image';
import { kernels } from '../src/image/kernels';
import type { Pyramid } from '../src/image/pyramid';
import { buildPyramid } from '../src/image/pyramid';
import { random } from './builders/scene';

const [W, H] = [320, 200];
const LENS: Lens = { radial: 0, width: W, height: H };
const r = random(5);
const noise = (): RawLuma => ({ width: W, height: H, data: Uint8Array.from({ length: W * H }, () => 256 * r()) });
const WINDOW = { x0: 40, y0: 30, x1: 240, y1: 150 };
const INSIDE = { x0: 80, y0: 60, x1: 180, y1: 120 };

/** The value of a px of the frame on a level. */
function valueAt(pyramid: Pyramid, level: number, x: number, y: number): number {
  const { data, width, x0, y0 } = pyramid[level]!;
  return data[(y / 2 ** level - y0) * width + x / 2 ** level - x0]!;
}

describe('the pyramid of a frame', () => {
  it('is made once for windows that lie in one another', () => {
    const frame = noise();
    const whole = framePyramid(frame, 3, WINDOW, LENS);
    const part = framePyramid(frame, 2, INSIDE, LENS);
    expect(part).toHaveLength(2);
    expect(part[0]!.data).toBe(whole[0]!.data);
    const own = buildPyramid(frame, 2, INSIDE, LENS);
    for (const level of [0, 1]) expect(valueAt(part, level, 120, 100)).toBeCloseTo(valueAt(own, level, 120, 100), 3);
  });
  it.each([
    ['another frame', () => framePyramid(noise(), 2, INSIDE, LENS)],
    ['a lens', (f: RawLuma) => framePyramid(f, 2, INSIDE, { ...LENS, radial: -0.1 })],
    ['more levels', (f: RawLuma) => framePyramid(f, 4, INSIDE, LENS)],
    ['a window that reaches farther', (f: RawLuma) => framePyramid(f, 2, { ...INSIDE, x1: 300 }, LENS)],
    ['the whole frame', (f: RawLuma) => framePyramid(f, 2, null, LENS)],
  ])('is made anew for %s', (_, next) => {
    const frame = noise();
    const first = framePyramid(frame, 3, WINDOW, LENS);
    const [{ width, height }] = [first[0]!];
    const other = next(frame);
    expect([other.length, other[0]!.width, other[0]!.height]).not.toEqual([3, width, height]);
    const own = buildPyramid(frame, 3, WINDOW, LENS);
    const again = framePyramid(frame, 3, WINDOW, LENS);
    expect(valueAt(again, 0, 120, 100)).toBeCloseTo(valueAt(own, 0, 120, 100), 3);
  });
  it('is made anew where other pictures took its place', () => {
    const frame = noise();
    framePyramid(frame, 2, WINDOW, LENS);
    const own = buildPyramid(frame, 2, WINDOW, LENS);
    kernels()!
      .room(0, [W * H])
      .pictures[0]!.fill(7);
    expect(valueAt(framePyramid(frame, 2, WINDOW, LENS), 0, 120, 100)).toBeCloseTo(valueAt(own, 0, 120, 100), 3);
  });
});
