import type { Point } from '../../src/geometry/point';
import type { RawLuma } from '../../src/image/image';

/** The saddle point near a place: where a quadratic through the light around it is level. */
export function saddle(image: RawLuma, at: Point, reach: number): Point | null {
  let [x, y] = at;
  for (let round = 0; round < 12; round++) {
    const a = new Float64Array(36);
    const b = new Float64Array(6);
    for (let j = -reach; j <= reach; j++)
      for (let i = -reach; i <= reach; i++) {
        const px = Math.round(x - 0.5) + i;
        const py = Math.round(y - 0.5) + j;
        if (px < 0 || py < 0 || px >= image.width || py >= image.height) return null;
        const u = px + 0.5 - x;
        const v = py + 0.5 - y;
        const w = Math.exp(-(u * u + v * v) / (reach * reach));
        const row = [1, u, v, u * u, u * v, v * v];
        for (let r = 0; r < 6; r++) {
          b[r]! += w * row[r]! * image.data[py * image.width + px]!;
          for (let c = 0; c < 6; c++) a[r * 6 + c]! += w * row[r]! * row[c]!;
        }
      }
    for (let c = 0; c < 6; c++)
      for (let r = 0; r < 6; r++)
        if (r !== c) {
          const f = a[r * 6 + c]! / a[c * 7]!;
          for (let k = 0; k < 6; k++) a[r * 6 + k]! -= f * a[c * 6 + k]!;
          b[r]! -= f * b[c]!;
        }
    const q = Array.from(b, (v, i) => v / a[i * 7]!);
    const det = 4 * q[3]! * q[5]! - q[4]! ** 2;
    if (!(det < 0)) return null;
    const dx = (q[4]! * q[2]! - 2 * q[5]! * q[1]!) / det;
    const dy = (q[4]! * q[1]! - 2 * q[3]! * q[2]!) / det;
    x += Math.max(-1.5, Math.min(1.5, dx));
    y += Math.max(-1.5, Math.min(1.5, dy));
    if (Math.hypot(x - at[0], y - at[1]) > 2 * reach) return null;
    if (Math.hypot(dx, dy) < 1e-4) return [x, y];
  }
  return [x, y];
}
