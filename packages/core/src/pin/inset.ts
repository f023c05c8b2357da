/** A pin made a little smaller or larger, in the plane: common practice is a pixel or two beyond the lit edge, to hide the old screen. No source. */
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { assertPin } from '../geometry/quad';

/** @param share of the screen's width and height, each: 1.01 is a per cent larger */
export function scaledPin(pin: Quad, share: number): Quad {
  const h = unitSquareToQuad(pin), lo = 0.5 - share / 2, hi = 0.5 + share / 2, out = ([[lo, lo], [hi, lo], [hi, hi], [lo, hi]] as const).map((p) => mapPoint(h, p)) as unknown as Quad;
  assertPin(out);
  return out;
}

/** Each side moved by the same number of pixels of the picture, outwards when positive. @throws CoreError `degenerate` when nothing is left */
export function grownPin(pin: Quad, px: number): Quad {
  const turn = (pin[1][0] - pin[0][0]) * (pin[3][1] - pin[0][1]) - (pin[1][1] - pin[0][1]) * (pin[3][0] - pin[0][0]) > 0 ? 1 : -1;
  const shifted = pin.map((p, i): readonly [Point, Point] => {
    const q = pin[(i + 1) % 4]!, l = distance(p, q), nx = (turn * (q[1] - p[1]) * px) / l, ny = (-turn * (q[0] - p[0]) * px) / l;
    return [[p[0] + nx, p[1] + ny], [q[0] + nx, q[1] + ny]];
  });
  const out = pin.map((p, i): Point => {
    const [a, b] = shifted[(i + 3) % 4]!, [c, d] = shifted[i]!, ux = b[0] - a[0], uy = b[1] - a[1], vx = d[0] - c[0], vy = d[1] - c[1], det = ux * vy - uy * vx;
    const t = ((c[0] - a[0]) * vy - (c[1] - a[1]) * vx) / det;
    return Number.isFinite(t) ? [a[0] + t * ux, a[1] + t * uy] : p;
  }) as unknown as Quad;
  assertPin(out);
  return out;
}
