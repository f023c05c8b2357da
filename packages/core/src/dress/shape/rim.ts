/**
 * The rim of the old screen: where the plate is soft or moves, the old picture's light lies over the glass edge, and a
 * soft edge of the fill would show it. There the plate is continued from farther outside, so that the fill's edge meets
 * the bezel that it would have met.
 */
import { clamp } from '../../clamp';
import { outwardsOf } from '../../geometry/line';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { Region } from '../base/region';

export interface Rim {
  readonly on?: boolean;
  /** px of the reference frame beyond what softness and movement reach by themselves */
  readonly more?: number;
}

/** Px by which blur of a sigma, and half a path while the shutter is open, carry light over an edge. */
export function rimReach(sigma: number, path: readonly Quad[], more: number): number {
  const open = path[0]!;
  const close = path.at(-1)!;
  return 1 + 2 * sigma + 0.5 * Math.max(...open.map((p, i) => distance(p, close[i]!))) + more;
}

/** Outward normals and offsets of the sides: a x + b y + c is the distance outside. */
function outsides(q: Quad): Float64Array {
  const turn = signedArea(q) > 0 ? 1 : -1;
  return Float64Array.from(
    q.flatMap((p, i) => {
      const [nx, ny] = outwardsOf(p, q[(i + 1) % 4]!, turn);
      return [nx, ny, -(nx * p[0] + ny * p[1])];
    }),
  );
}

/**
 * Continues the plate inwards, in place. @returns whether anything was changed
 * @param plate scene-linear RGB of the region
 * @param shows how much of the fill shows (holdouts), by which the plate is replaced; null for all of it
 */
export function continueInwards(
  plate: Float32Array,
  region: Region,
  corners: Quad,
  reach: number,
  shows: Float32Array | null,
): boolean {
  const side = outsides(corners);
  const { width, height } = region;
  const src = plate.slice();
  let any = false;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const px = region.x + x + 0.5;
      const py = region.y + y + 0.5;
      let nearest = 0;
      let far = -Infinity;
      for (let i = 0; i < 4; i++) {
        const d = side[i * 3]! * px + side[i * 3 + 1]! * py + side[i * 3 + 2]!;
        if (d > far) [far, nearest] = [d, i];
      }
      if (far >= reach || far < -2 * reach - 2) continue;
      const i = y * width + x;
      const share = shows ? shows[i]! : 1;
      if (share <= 0) continue;
      any = true;
      const push = reach - far;
      const sx = clamp(Math.round(x + side[nearest * 3]! * push), 0, width - 1);
      const sy = clamp(Math.round(y + side[nearest * 3 + 1]! * push), 0, height - 1);
      const k = (sy * width + sx) * 3;
      for (let c = 0; c < 3; c++) plate[i * 3 + c]! += share * (src[k + c]! - plate[i * 3 + c]!);
    }
  return any;
}
