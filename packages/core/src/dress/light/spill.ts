/**
 * The old screen's light on what stands about it: its hue is taken out of the plate inside a soft band about the pin
 * (or everywhere), and what is taken may come back in the fill's mean colour. The channel in which the screen's colour
 * is strongest is held down to the mean of the other two: common practice, no source.
 */
import { unitSquareToQuad } from '../../geometry/homography';
import { inverse } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import type { Animated } from '../base/keys';
import type { Matrix3 } from '../../geometry/matrix3';
import { luminance } from '../../image/luminance';
import type { Rgb } from '../colour/levels';
import { rotateHue } from '../colour/levels';
import type { Region } from '../base/region';

export interface Spill {
  /** 0 leaves it, 1 takes all */
  readonly amount?: Animated;
  /** how much of what was taken comes back in the fill's mean colour */
  readonly recolour?: Animated;
  /** degrees by which what has its hue is turned to another, and how much of its colour goes, 0 to 1 */
  readonly shift?: Animated;
  readonly desaturate?: Animated;
  /** colour of the old screen, code values 0 to 1 */
  readonly colour: readonly number[];
  /** px of the reference frame to which it reaches beyond the pin, fading; everywhere when left out */
  readonly reach?: number;
}

/** Turns a colour's hue and takes colour out of it, by a share, in place. */
function bend(plate: Float32Array, k: number, turn: Matrix3, desaturate: number, share: number): void {
  const [r, g, b] = [plate[k]!, plate[k + 1]!, plate[k + 2]!];
  const y = luminance(r, g, b);
  for (let c = 0; c < 3; c++) {
    const own = plate[k + c]!;
    const turned = own + share * (turn[3 * c]! * r + turn[3 * c + 1]! * g + turn[3 * c + 2]! * b - own);
    plate[k + c] = turned + share * desaturate * (y - turned);
  }
}

/** Distance from the pin, px, negative inside; by the nearest side's slot gradient. */
function beyondPin(s: number, t: number, gs: number, gt: number): number {
  return Math.max(-s * gs, (s - 1) * gs, -t * gt, (t - 1) * gt);
}

/**
 * Changes the plate's light in place. @returns whether anything was changed
 * @param plate scene-linear RGB of the region; `reach` px of the frame, Infinity for everywhere
 * @param mean of the fill, scene-linear
 */
export function takeSpill(
  plate: Float32Array,
  region: Region,
  corners: Quad,
  colour: readonly number[],
  amount: number,
  recolour: number,
  reach: number,
  mean: Rgb,
  { shift, desaturate }: { readonly shift: number; readonly desaturate: number } = { shift: 0, desaturate: 0 },
): boolean {
  const turn = rotateHue(shift);
  const bends = shift !== 0 || desaturate > 0;
  const strongest = colour.indexOf(Math.max(...colour));
  const others = [0, 1, 2].filter((c) => c !== strongest) as [number, number];
  const m = inverse(unitSquareToQuad(corners));
  let any = false;
  for (let y = 0, k = 0; y < region.height; y++)
    for (let x = 0; x < region.width; x++, k += 3) {
      const over = plate[k + strongest]! - 0.5 * (plate[k + others[0]]! + plate[k + others[1]]!);
      if (over <= 0) continue;
      let share = 1;
      if (reach < Infinity) {
        const px = region.x + x + 0.5;
        const py = region.y + y + 0.5;
        const w = 1 / (m[6]! * px + m[7]! * py + m[8]!);
        const s = (m[0]! * px + m[1]! * py + m[2]!) * w;
        const t = (m[3]! * px + m[4]! * py + m[5]!) * w;
        const gs = 1 / Math.hypot((m[0]! - s * m[6]!) * w, (m[1]! - s * m[7]!) * w);
        const gt = 1 / Math.hypot((m[3]! - t * m[6]!) * w, (m[4]! - t * m[7]!) * w);
        const d = beyondPin(s, t, gs, gt);
        if (d >= reach) continue;
        share *= d <= 0 ? 1 : (1 - d / reach) ** 2 * (1 + (2 * d) / reach);
      }
      const taken = amount * share * over;
      if (taken <= 0 && !bends) continue;
      any = true;
      // The more a place has of the hue, the more it is turned.
      if (bends) bend(plate, k, turn, desaturate, share * Math.min(1, over / Math.max(1e-6, plate[k + strongest]!)));
      plate[k + strongest]! -= taken;
      for (let c = 0; c < 3; c++) plate[k + c]! += recolour * taken * mean[c]!;
    }
  return any;
}
