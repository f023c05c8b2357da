/** How the device of a thrown shot moves, apart from the hand's own unrest. */
import { ease, there } from './shots';

/** A number from 0 to 1 for an axis of a shot; the same each time it is asked for. */
export type Dice = (axis: number) => number;

/** A number from `a` to `b`. */
export const range = (die: Dice, axis: number, a: number, b: number): number => a + (b - a) * die(axis);

/** One of a list, each as likely. */
export const pickOf = <T>(die: Dice, axis: number, list: readonly T[]): T => list[Math.floor(list.length * die(axis))]!;

export const WAYS = ['drifts', 'drifts', 'turns', 'tips', 'jumps', 'swings', 'leaves', 'nears'] as const;

export interface Moves {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly yaw: number;
  readonly pitch: number;
  readonly roll: number;
}

/** How the device moves apart from the hand's own unrest, in its own sizes and radians. */
export function way(name: string, die: Dice, frames: number): (t: number) => Partial<Moves> {
  const sign = die(50) < 0.5 ? -1 : 1;
  const m = frames * (0.35 + 0.35 * die(51));
  const much = 0.4 + 0.6 * die(52);
  switch (name) {
    case 'turns':
      return (t) => ({ roll: sign * 1.57 * much * ease(t, m - 6, m + 6) });
    case 'tips':
      return (t) => ({ pitch: sign * 1.36 * much * there(t, m - 7, m, m + 3, m + 10) });
    case 'jumps':
      return (t) => ({ x: sign * 0.35 * much * ease(t, m, m + 1.5), z: 0.2 * much * ease(t, m + 12, m + 13) });
    case 'swings':
      return (t) => ({ x: sign * 0.7 * much * there(t, m - 8, m, m + 5, m + 13) });
    case 'leaves':
      return (t) => ({ x: sign * 1.1 * much * there(t, m - 10, m, m + 8, m + 18) });
    case 'nears':
      return (t) => ({
        y: (0.6 * much - 0.3) * ease(t, 6, frames - 10),
        yaw: 0.6 * sign * much * there(t, 8, m, m + 6, frames),
      });
    default:
      return (t) => ({ yaw: 0.35 * sign * much * Math.sin(t / 14), roll: 0.2 * much * Math.sin(t / 19) });
  }
}
