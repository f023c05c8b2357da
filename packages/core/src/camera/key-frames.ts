/** Frames that stand for the shot: as far apart as their points still overlap and their movement is small enough. */
import { median } from '../statistics';
import type { Sightings } from './sightings';

const APART = {
  /** Share of a key frame's points that the next one still shows. By trial. */
  leastCommon: 0.6,
  /** Half diagonals that points move between two. By trial. */
  mostMoved: 0.05,
  /** Frames between two. By trial. */
  mostFrames: 12,
} as const;

/** Median movement of the points that both frames show, half diagonals; 0 when there are none. */
export function movementBetween(s: Sightings, a: number, b: number): number {
  const common = s.common(a, b);
  if (common.length === 0) return 0;
  return median(common.map((p) => Math.hypot(s.x(p, b) - s.x(p, a), s.y(p, b) - s.y(p, a))));
}

/** Half diagonals a frame by which the points of a shot that shakes move otherwise than on the frame before. By trial. */
const SHAKES_FROM = 0.008;

/** Whether the picture shakes from frame to frame: on most frames most points turn about. */
export function isShaken(s: Sightings): boolean {
  const turns: number[] = [];
  for (let f = 1; f + 1 < s.frames; f++) {
    const off = s.of(f).flatMap((p) => {
      if (!s.isSeen(p, f - 1) || !s.isSeen(p, f + 1)) return [];
      const x = s.x(p, f + 1) - 2 * s.x(p, f) + s.x(p, f - 1);
      const y = s.y(p, f + 1) - 2 * s.y(p, f) + s.y(p, f - 1);
      return [Math.hypot(x, y)];
    });
    if (off.length > 0) turns.push(median(off));
  }
  return turns.length > 0 && median(turns) > SHAKES_FROM;
}

/**
 * @param mostFrames between two
 * @returns rising frames, the first and the last of the shot among them
 */
export function keyFrames(s: Sightings, mostFrames: number = APART.mostFrames): number[] {
  const keys = [0];
  for (let f = 1; f < s.frames; f++) {
    const last = keys.at(-1)!;
    const share = s.common(last, f).length / Math.max(1, s.of(last).length);
    const isFar =
      share < APART.leastCommon ||
      f - last >= Math.min(mostFrames, APART.mostFrames) ||
      movementBetween(s, last, f) > APART.mostMoved;
    // The frame before is still near enough; a single frame's jump is taken as it is.
    if (isFar) keys.push(Math.max(last + 1, f - 1));
  }
  if (keys.at(-1) !== s.frames - 1) keys.push(s.frames - 1);
  return keys;
}
