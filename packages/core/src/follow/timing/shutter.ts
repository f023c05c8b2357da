/**
 * How far things move while the shutter is open. Corners tell how fast the plane moves; which share of a frame's time
 * the shutter is open is estimated by seeing which amount of smear makes the remembered picture agree best with frames
 * that move fast. Half a frame (a shutter of 180 degrees) is the guess until then: common practice, no source.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply } from '../../geometry/matrix3';
import { mapPoint, quadToQuad } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { isConvex } from '../../geometry/quad';

/** Share of a frame's time; 180 degrees. Common practice, no source. */
export const COMMON_SHUTTER = 0.5;
/** Shares of a frame's time that are tried: no smear, and quarters up to a shutter that never closes. By trial. */
export const SHUTTERS = [0, 0.25, 0.5, 0.75, 1] as const;

/** What fast frames told of it. */
export interface ShutterMemory {
  /** summed mean correlation per share of {@link SHUTTERS} */
  readonly agreement: readonly number[];
  /** fast frames that told */
  readonly frames: number;
  /** fast frames that were looked at */
  readonly tries: number;
  /** told by frames on which the Screen's shape was known from both sides: no other frame tells more */
  readonly isBetween?: boolean;
}

export const NO_SHUTTER_MEMORY: ShutterMemory = { agreement: SHUTTERS.map(() => 0), frames: 0, tries: 0 };

/** Share of a movement that its own change may make up. By trial. */
const MOST_CHANGE = 0.3;

/**
 * Corners' movement per frame at the time of `now`, from the frames before (newest first): the last step and half of
 * the change that the step before it showed. `now` itself enters once only, so that its errors are not multiplied.
 */
export function velocityAt(now: Quad, before: readonly Quad[]): Point[] {
  const [a, b, c] = before;
  if (!a) return now.map((): Point => [0, 0]);
  return now.map(([x, y], i): Point => {
    const dx = x - a[i]![0];
    const dy = y - a[i]![1];
    if (!b || !c) return [dx, dy];
    const ax = 0.5 * (a[i]![0] - 2 * b[i]![0] + c[i]![0]);
    const ay = 0.5 * (a[i]![1] - 2 * b[i]![1] + c[i]![1]);
    const f = Math.min(1, (MOST_CHANGE * Math.hypot(dx, dy)) / Math.max(1e-9, Math.hypot(ax, ay)));
    return [dx + f * ax, dy + f * ay];
  });
}

/** Of places that move so, px a frame; 0 where nothing is known. */
export function fastest(velocity: readonly Point[]): number {
  return Math.max(0, ...velocity.map(([x, y]) => Math.hypot(x, y)));
}

export interface Smear {
  /** path of a point of the frame while the shutter is open, px of the frame */
  readonly inFrame: (at: Point) => Point;
  /** the same for a point of a remembered frame, in px of that frame; `h` maps it to the frame */
  readonly inTemplate: (h: Matrix3) => (at: Point) => Point;
  /** of the fastest corner, px */
  readonly length: number;
}

const still = (): Point => [0, 0];
export const NO_SMEAR: Smear = { inFrame: still, inTemplate: () => still, length: 0 };

/** @param shutter share of a frame's time */
export function smearOf(corners: Quad, velocity: readonly Point[], shutter: number): Smear {
  const length = shutter * fastest(velocity);
  const at = (k: number): Quad =>
    corners.map(([x, y], i): Point => [
      x + k * shutter * velocity[i]![0],
      y + k * shutter * velocity[i]![1],
    ]) as unknown as Quad;
  const open = at(-0.5);
  const close = at(0.5);
  if (!(length > 0.2) || !isConvex(open) || !isConvex(close)) return NO_SMEAR;
  const first = quadToQuad(corners, open);
  const last = quadToQuad(corners, close);
  const inFrame = (p: Point): Point => {
    const a = mapPoint(first, p);
    const b = mapPoint(last, p);
    return [b[0] - a[0], b[1] - a[1]];
  };
  const inTemplate = (h: Matrix3): ((p: Point) => Point) => {
    const back = inverse(h);
    const a = multiply(back, multiply(first, h));
    const b = multiply(back, multiply(last, h));
    return (p) => {
      const q = mapPoint(a, p);
      const r = mapPoint(b, p);
      return [r[0] - q[0], r[1] - q[1]];
    };
  };
  return { inFrame, inTemplate, length };
}

/** px; shorter smears are as good as none, and by no more two are told apart. By trial. */
const LEAST_SMEAR = 1.5;
/** Share by which two smears must differ to be told apart. By trial. */
const SMEAR_CHANGE = 0.2;

/** Whether a better guess of the smear is not worth looking once more. */
export function isSameSmear(a: Smear, b: Smear): boolean {
  return (
    Math.max(a.length, b.length) < LEAST_SMEAR ||
    Math.abs(a.length - b.length) < Math.max(LEAST_SMEAR, SMEAR_CHANGE * b.length)
  );
}

/** What of a path is left to smear a picture that is smeared by `own` already: their squares are what adds up. */
export function smearBeyond(path: (at: Point) => Point, own: (at: Point) => Point): (at: Point) => Point {
  return (at) => {
    const [x, y] = path(at);
    const [ox, oy] = own(at);
    const squared = x * x + y * y;
    const along = (x * ox + y * oy) / Math.max(1e-9, squared);
    const k = Math.sqrt(Math.max(0, 1 - along * along));
    return [k * x, k * y];
  };
}

/** Fast frames that must have told of the shutter before it is taken for another than the common one. By trial. */
const ENOUGH = 2;
/** Share of a frame's time by which a shutter is another than the one that the first fast frames were followed with. By trial. */
const OTHER = 0.12;

/** The share of a frame's time that fast frames tell; null where too few did. */
export function shutterOf({ agreement, frames }: ShutterMemory): number | null {
  return frames >= ENOUGH ? bestShutter(agreement) : null;
}

/** Whether the agreement falls to both sides of its best: frames that were misjudged agree now with one smear, now with another. */
function hasOnePeak(agreement: readonly number[]): boolean {
  const peak = agreement.indexOf(Math.max(...agreement));
  return agreement.every((v, i) => i === 0 || (i <= peak ? v >= agreement[i - 1]! : v <= agreement[i - 1]!));
}

/** Whether frames between others have told of the shutter, and do not contradict each other. */
export function tellsShutter(told: ShutterMemory): boolean {
  return shutterOf(told) !== null && hasOnePeak(told.agreement);
}

/**
 * What both directions of a run know of the shutter from frames between others, where it is another than the common one, with
 * which a run begins; null where a shot need not be followed again for it.
 */
export function shutterToRepeatWith(memories: readonly ShutterMemory[]): ShutterMemory | null {
  const told = memories.filter((m) => m.isBetween);
  if (!told.some((m) => Math.abs((shutterOf(m) ?? COMMON_SHUTTER) - COMMON_SHUTTER) > OTHER)) return null;
  return told.reduce((s, m) => ({
    agreement: s.agreement.map((v, i) => v + m.agreement[i]!),
    tries: s.tries + m.tries,
    frames: s.frames + m.frames,
    isBetween: true,
  }));
}

/** The best share by agreement, refined by a parabola through its neighbours. */
export function bestShutter(agreement: readonly number[]): number {
  let i = 0;
  agreement.forEach((v, k) => v > agreement[i]! && (i = k));
  const l = agreement[i - 1];
  const m = agreement[i]!;
  const r = agreement[i + 1];
  const sub = l !== undefined && r !== undefined && l - 2 * m + r < 0 ? (0.5 * (l - r)) / (l - 2 * m + r) : 0;
  return SHUTTERS[i]! + 0.25 * sub;
}
