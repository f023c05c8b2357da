/**
 * Light that is added over the fill: soft shapes of a window or a lamp, riding on the Screen's plane or standing still
 * in the room while the Screen moves beneath them. They only show where the fill does.
 */
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import { inverse } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import type { Region } from '../base/region';

export interface AddedLight {
  /** a soft ellipse, or a soft band across the glass */
  readonly shape: 'pool' | 'band';
  /** `plane`: moves with the Screen; `room`: stays where it lay on the reference frame */
  readonly rides: 'plane' | 'room';
  /** its middle on the slot (of the reference frame), shares of its width and height */
  readonly x?: Animated;
  readonly y?: Animated;
  /** how far it reaches, shares of the slot's height; a band reaches without end along its turn */
  readonly size?: Animated;
  /** of the pool's width by its height */
  readonly stretch?: Animated;
  /** degrees, clockwise */
  readonly turn?: Animated;
  readonly amount?: Animated;
  /** scene-linear */
  readonly colour: Rgb;
}

/** 1 in the middle, 0 from a distance of 1 on, with no edge at either end. */
function fall(d2: number): number {
  if (d2 >= 1) return 0;
  const k = 1 - d2;
  return k * k;
}

/**
 * Adds lights to an element's region in place, by its alpha.
 * @param element RGBA of the region, premultiplied; `pin` the Screen on the reference frame and `corners` on this one,
 * px of the picture
 */
export function addLights(
  element: Float32Array,
  region: Region,
  lights: readonly AddedLight[],
  frame: number,
  corners: Quad,
  pin: Quad,
  aspect: number,
): void {
  const toSlot = inverse(unitSquareToQuad(corners));
  const still = unitSquareToQuad(pin);
  const tall = (distance(pin[0], pin[3]) + distance(pin[1], pin[2])) / 2;
  for (const l of lights) {
    const amount = valueAt(l.amount, frame, 0.15);
    const size = Math.max(0.01, valueAt(l.size, frame, 0.4));
    const long = l.shape === 'band' ? 0 : 1 / (size * Math.max(0.05, valueAt(l.stretch, frame, 1)));
    const short = 1 / size;
    if (amount === 0) continue;
    const a = (valueAt(l.turn, frame, 0) * Math.PI) / 180;
    const c = Math.cos(a);
    const s = Math.sin(a);
    const x = valueAt(l.x, frame, 0.5);
    const y = valueAt(l.y, frame, 0.5);
    const room = l.rides === 'room';
    const at: Point = room ? mapPoint(still, [x, y]) : [x * aspect, y];
    for (let j = 0, k = 0; j < region.height; j++)
      for (let i = 0; i < region.width; i++, k += 4) {
        const alpha = element[k + 3]!;
        if (alpha === 0) continue;
        const px = region.x + i + 0.5;
        const py = region.y + j + 0.5;
        let dx: number;
        let dy: number;
        if (room) {
          dx = (px - at[0]) / tall;
          dy = (py - at[1]) / tall;
        } else {
          const w = 1 / (toSlot[6]! * px + toSlot[7]! * py + toSlot[8]!);
          dx = (toSlot[0]! * px + toSlot[1]! * py + toSlot[2]!) * w * aspect - at[0];
          dy = (toSlot[3]! * px + toSlot[4]! * py + toSlot[5]!) * w - at[1];
        }
        const u = (c * dx + s * dy) * long;
        const v = (c * dy - s * dx) * short;
        const light = amount * alpha * fall(u * u + v * v);
        if (light === 0) continue;
        for (let n = 0; n < 3; n++) element[k + n]! += light * l.colour[n]!;
      }
  }
}
