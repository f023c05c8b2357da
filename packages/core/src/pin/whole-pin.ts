/** A pin that is moved, turned and made larger as a whole, in px of the frame on which it is seen. */
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';

/** A pin with all corners moved alike. */
export function shiftedPin(pin: Quad, [dx, dy]: Point): Quad {
  return pin.map(([x, y]): Point => [x + dx, y + dy]) as unknown as Quad;
}

/** Mean of the corners, about which a pin is turned and scaled. */
export function middleOf(pin: Quad): Point {
  return [(pin[0][0] + pin[1][0] + pin[2][0] + pin[3][0]) / 4, (pin[0][1] + pin[1][1] + pin[2][1] + pin[3][1]) / 4];
}

/**
 * A pin turned and scaled about its middle so that one place goes to another.
 * @param from px; in the middle it leaves the pin as it is
 * @param to px
 */
export function turnedPin(pin: Quad, from: Point, to: Point): Quad {
  const m = middleOf(pin);
  const [ax, ay] = [from[0] - m[0], from[1] - m[1]];
  const [bx, by] = [to[0] - m[0], to[1] - m[1]];
  const length = ax * ax + ay * ay;
  if (length === 0) return pin;
  // The complex number that takes the one to the other.
  const c = (ax * bx + ay * by) / length;
  const s = (ax * by - ay * bx) / length;
  return pin.map(([x, y]): Point => [
    m[0] + c * (x - m[0]) - s * (y - m[1]),
    m[1] + s * (x - m[0]) + c * (y - m[1]),
  ]) as unknown as Quad;
}

/**
 * A pin of which the corner that lies farthest from the middle moves by so many px, the others in proportion.
 * @param along px away from the middle
 * @param around px clockwise on the picture
 */
export function spreadPin(pin: Quad, along: number, around: number): Quad {
  const m = middleOf(pin);
  const far = Math.max(...pin.map((p) => distance(p, m)));
  const [angle, size] = [around / far, 1 + along / far];
  return turnedPin(pin, [m[0] + far, m[1]], [m[0] + far * size * Math.cos(angle), m[1] + far * size * Math.sin(angle)]);
}
