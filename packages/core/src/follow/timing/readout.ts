/**
 * Rolling readout: a sensor's rows are read one after another, so a point is seen where it is at its row's own time. A
 * plane is followed as it stands at the middle of the readout, and places in the picture are moved by what their rows'
 * times differ: velocity times the share of a frame that the readout takes, times how far the row lies from the middle.
 * Source: P.-E. Forssen and E. Ringaby, Rectifying Rolling Shutter Video from Hand-held Devices, CVPR 2010 (the model).
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { smearOf } from './shutter';

/** How far the picture of a place lies from where the plane's motion at the frame's middle puts it, px of the frame. */
export type Offset = (site: Point, at: Point) => Point;

/** A frame's own movement: px a frame, at its px; null where it is not known or nothing moves. */
export type Movement = ((at: Point) => Point) | null;

/** How each place of a quad moves, px a frame, from the velocities of its corners. */
export function movementOf(corners: Quad, velocity: readonly Point[]): Movement {
  if (velocity.length === 0) return null;
  const { inFrame, length } = smearOf(corners, velocity, 1);
  return length > 0 ? inFrame : null;
}

/** px that a row's own time moves a place there, per unit of the readout's share. */
function moved(m: NonNullable<Movement>, at: Point, height: number): Point {
  const [vx, vy] = m(at);
  const t = at[1] / height - 0.5;
  return [t * vx, t * vy];
}

/**
 * @param h remembered frame to frame, at their middles
 * @param remembered movement of the remembered frame: its own picture is moved as well
 * @param height of the picture, px
 * @returns px per unit of the readout's share; null when nothing moves
 */
export function readoutField(h: Matrix3, remembered: Movement, frame: Movement, height: number): Offset | null {
  if (!remembered && !frame) return null;
  return (site, at) => {
    const there: Point = frame ? moved(frame, at, height) : [0, 0];
    if (!remembered) return there;
    const own = moved(remembered, site, height);
    const d = 0.01;
    const from = mapPoint(h, [site[0] - d * own[0], site[1] - d * own[1]]);
    const to = mapPoint(h, site);
    return [there[0] + (from[0] - to[0]) / d, there[1] + (from[1] - to[1]) / d];
  };
}

/** The same times a share of a frame. */
export function offsetOf(field: Offset | null, share: number): Offset | undefined {
  if (!field || share === 0) return undefined;
  return (site, at) => {
    const [x, y] = field(site, at);
    return [share * x, share * y];
  };
}
