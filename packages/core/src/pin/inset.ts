/**
 * A pin made a little smaller or larger, in the plane: common practice is a pixel or two beyond the lit edge, to hide
 * the old screen. No source.
 */
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import type { Line } from '../geometry/line';
import { meet, outwardsOf } from '../geometry/line';
import type { Quad } from '../geometry/quad';
import { assertPin, signedArea } from '../geometry/quad';

/** @param share of the screen's width and height, each: 1.01 is a per cent larger */
export function scaledPin(pin: Quad, share: number): Quad {
  const h = unitSquareToQuad(pin);
  const lo = 0.5 - share / 2;
  const hi = 0.5 + share / 2;
  const out = (
    [
      [lo, lo],
      [hi, lo],
      [hi, hi],
      [lo, hi],
    ] as const
  ).map((p) => mapPoint(h, p)) as unknown as Quad;
  assertPin(out);
  return out;
}

/**
 * Each side moved by the same number of pixels of the picture, outwards when positive. @throws CoreError `degenerate`
 * when nothing is left
 */
export function grownPin(pin: Quad, px: number): Quad {
  const turn = signedArea(pin) > 0 ? 1 : -1;
  const sides = pin.map((p, i): Line => {
    const q = pin[(i + 1) % 4]!;
    const [nx, ny] = outwardsOf(p, q, turn);
    return { a: [p[0] + px * nx, p[1] + px * ny], b: [q[0] + px * nx, q[1] + px * ny] };
  });
  const out = pin.map((p, i) => meet(sides[(i + 3) % 4]!, sides[i]!) ?? p) as unknown as Quad;
  assertPin(out);
  return out;
}
