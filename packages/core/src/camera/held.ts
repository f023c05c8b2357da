/** Which frames hold enough points to be believed, and what to say of the others. */
import type { Stop } from '../track';
import type { CameraFrame } from './camera-report';
import { errorOver } from './camera-report';
import type { SolvedCamera } from './solve-camera';
import type { Sightings } from './sightings';

/** Points that a frame of a moving camera must show, and of one that turns. Common practice, no source. */
export const LEAST_POINTS = { moving: 8, tripod: 4 } as const;
/** Half diagonals; the spread of a frame's points across their narrower direction. By trial. */
const LEAST_SPREAD = 0.04;

/** Standard deviation across the narrower direction of the places, half diagonals. */
export function spreadOf(s: Sightings, frame: number, isUsed: (point: number) => boolean): number {
  const used = s.of(frame).filter(isUsed);
  const n = used.length;
  if (n === 0) return 0;
  const mx = used.reduce((sum, p) => sum + s.x(p, frame), 0) / n;
  const my = used.reduce((sum, p) => sum + s.y(p, frame), 0) / n;
  let [xx, xy, yy] = [0, 0, 0];
  for (const p of used) {
    const [dx, dy] = [s.x(p, frame) - mx, s.y(p, frame) - my];
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
  }
  const least = (xx + yy) / 2 - Math.hypot((xx - yy) / 2, xy);
  return Math.sqrt(Math.max(0, least / n));
}

/** The frames that have enough points, well spread. */
export function heldFrames({ kind, sightings, scene }: SolvedCamera, frames: readonly CameraFrame[]): CameraFrame[] {
  return frames.filter(
    (f) => f.points >= LEAST_POINTS[kind] && spreadOf(sightings, f.frame, (p) => scene.points.has(p)) >= LEAST_SPREAD,
  );
}

const range = (a: number, b: number): string => (a === b ? `frame ${a}` : `frames ${a} to ${b}`);

const fault = (seen: number, needed: number): string =>
  seen < needed
    ? `${seen} points of the scene are seen at the least, and ${needed} well spread ones are needed`
    : `the points of the scene that are seen (${seen} at the least) lie too close together or do not agree`;

/** A sentence for each run of frames that is not held. @param first the shot's frame that is counted as 0 here */
export function gapsOf(solved: SolvedCamera, held: readonly CameraFrame[], first: number): Stop[] {
  const known = new Set(held.map((f) => f.frame));
  const { sightings, scene, kind } = solved;
  const before = held[0]?.frame ?? 0;
  const out: Stop[] = [];
  for (let f = 0; f < sightings.frames; f++) {
    if (known.has(f)) continue;
    let last = f;
    let least = Infinity;
    for (; last < sightings.frames && !known.has(last); last++)
      least = Math.min(least, sightings.of(last).filter((p) => scene.points.has(p)).length);
    out.push({
      frame: f + first,
      direction: f < before ? 'backwards' : 'forwards',
      reason: `${range(f + first, last - 1 + first)}: ${fault(least, LEAST_POINTS[kind])}; shorten the range, or leave out less`,
    });
    f = last;
  }
  return out;
}

/** Px at 1920 wide, root mean square; points that agree no better than that stand on things that move by themselves. By trial. */
const MOST_ERROR = 1.5;

/** Why a solution is no camera of this scene; null where its points agree. @param width px of the picture */
export function disagreement(frames: readonly CameraFrame[], width: number): string | null {
  const rms = errorOver(frames);
  if (rms <= (MOST_ERROR * width) / 1920) return null;
  return `the points agree with one camera only to ${rms.toFixed(1)} px: outline what moves by itself, and give the focal length if it is known`;
}

/** Why nothing could be solved at all. */
export function whyNot(s: Sightings, first: number): Stop {
  const counts = Array.from({ length: s.frames }, (_, f) => s.of(f).length);
  const poor = counts.flatMap((n, f) => (n < LEAST_POINTS.moving ? [f] : []));
  const reason =
    poor.length > 0
      ? `${range(poor[0]! + first, poor.at(-1)! + first)}: ${Math.min(...counts)} points can be followed at the least, and ${LEAST_POINTS.moving} well spread ones are needed throughout; what else stands still in the picture is too smooth, too dark or too blurred`
      : 'the points that can be followed fit no one camera: outline what moves by itself, and give the focal length if it is known';
  return { frame: (poor[0] ?? 0) + first, direction: 'forwards', reason };
}
