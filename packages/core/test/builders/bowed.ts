/** A screen behind a barrel lens, with exact truth. */
import { mapPoint } from '../../src/geometry/homography';
import type { Lens } from '../../src/geometry/lens';
import { distort, undistort } from '../../src/geometry/lens';
import { inverse } from '../../src/geometry/matrix3';
import type { Point } from '../../src/geometry/point';
import { distance } from '../../src/geometry/point';
import type { Quad } from '../../src/geometry/quad';
import { mapQuad } from '../../src/geometry/quad';
import type { RawLuma } from '../../src/image/image';
import { moved, random, waves } from './scene';

/** What bows {@link bowedShot}. */
export const BARREL: Lens = { radial: -0.1, width: 720, height: 440 };

/** A screen behind a barrel, brought nearer from frame to frame: its pictures and where its corners are. */
export function bowedShot(): { pin: Quad; frame: (n: number) => RawLuma; truthAt: (n: number) => Quad } {
  const pin: Quad = [
    [290, 170],
    [430, 175],
    [425, 270],
    [285, 262],
  ];
  const texture = waves(5, 8, 60);
  const background = waves(9, 20, 80);
  const ideal = pin.map((p) => undistort(BARREL, p)) as unknown as Quad;
  const at = (n: number): number[] => moved(ideal, { scale: 1 + 0.055 * n, x: n, turn: 0.004 * n });
  const rays = Array.from({ length: 440 * 720 }, (_, i): Point =>
    undistort(BARREL, [(i % 720) + 0.5, Math.floor(i / 720) + 0.5]),
  );
  const behind = rays.map((q) => 0.4 * background(q[0], q[1]));
  const insideOf = ideal.map((a, k) => side(a, ideal[(k + 1) % 4]!));
  const frame = (n: number): RawLuma => {
    const data = new Uint8Array(720 * 440);
    const back = inverse(at(n));
    const r = random(n + 5);
    for (const [i, q] of rays.entries()) {
      const p = mapPoint(back, q);
      const inside = Math.min(insideOf[0]!(p), insideOf[1]!(p), insideOf[2]!(p), insideOf[3]!(p));
      // A bright rim of 3 px around the glass, softened over a pixel.
      const glass = Math.min(1, Math.max(0, inside + 0.5));
      const rim = Math.min(1, Math.max(0, inside + 3.5));
      data[i] = Math.min(
        255,
        Math.max(
          0,
          (glass > 0 ? glass * texture(p[0], p[1]) : 0) +
            (rim - glass) * 235 +
            (1 - rim) * behind[i]! +
            3 * (r() - 0.5),
        ),
      );
    }
    return { width: 720, height: 440, data };
  };
  const truthAt = (n: number): Quad => mapQuad(at(n), ideal).map((p) => distort(BARREL, p)) as unknown as Quad;
  return { pin, frame, truthAt };
}

/** Distance of a point inside the side from `a` to `b` of a quad that runs clockwise on the screen. */
function side(a: Point, b: Point): (p: Point) => number {
  const length = distance(a, b);
  return (p) => ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])) / length;
}
