/** A scene as far as it is known: views of some frames, points, optics; and what can be done with it. */
import { SIGMA_PER_DEVIATION, median } from '../statistics';
import { adjust } from './adjust';
import type { Bundle, Observations } from './bundle';
import { resect } from './resection';
import type { Sightings } from './sightings';
import type { Sight } from './triangulation';
import { triangulate } from './triangulation';
import type { Optics, View } from './view-model';
import { Projection, halfDiagonal } from './view-model';

export interface KnownView {
  readonly view: View;
  /** half diagonals */
  readonly focal: number;
}

export interface Scene {
  readonly optics: Optics;
  /** by frame */
  readonly views: ReadonlyMap<number, KnownView>;
  /** by point */
  readonly points: ReadonlyMap<number, readonly [number, number, number]>;
  /** px; noise of the found places, one axis */
  readonly noise: number;
}

/** How a scene is adjusted. */
export interface Freedom {
  /** of a view's numbers, as in a bundle */
  readonly moves: readonly number[];
  /** of the shared numbers */
  readonly shares: readonly number[];
}

/** When an adjustment has gone far enough: steps at the most, and the share by which one must still help. */
export interface Patience {
  readonly rounds: number;
  readonly leastGain: number;
}

export const SCENE = {
  /** Px; noise below which the tracker itself is not to be believed. By trial. */
  leastNoise: 0.08,
  /** Standard deviations beyond which a residual counts as an outlier's. Source: P. Huber 1981 (Cauchy, 95 %). */
  cauchy: 2.385,
  /** Standard deviations at which a sight is no longer used. By trial. */
  outlier: 6,
  /** Share of a point's sights that may be outliers. By trial. */
  mostOutliers: 0.3,
  /** Radians between a point's rays at the least. By trial. */
  leastAngle: 0.008,
  /** Points that a view needs at the least. Common practice, no source. */
  leastPoints: 8,
  /** The same for a camera that only turns. Common practice, no source. */
  leastTurning: 4,
} as const;

/** Half diagonals at which the robust weight bends. */
export function scaleOf(s: Sightings, noise: number): number {
  return (SCENE.cauchy * Math.max(noise, SCENE.leastNoise)) / halfDiagonal(s.size);
}

const opticsAt = (scene: Scene, v: KnownView): Optics => ({ ...scene.optics, focal: v.focal });

/** Px; a sight that misses by more is no longer used. */
export const mostMissOf = ({ noise }: Scene): number => SCENE.outlier * Math.max(noise, SCENE.leastNoise);

/** How far a point is seen from where it was found, px; infinite behind the camera. */
export function missOf(s: Sightings, scene: Scene, point: number, frame: number, p = new Projection()): number {
  const v = scene.views.get(frame)!;
  const at = scene.points.get(point)!;
  if (!p.place(v.view, opticsAt(scene, v), at, 0, s.y(point, frame))) return Infinity;
  return halfDiagonal(s.size) * Math.hypot(p.x - s.x(point, frame), p.y - s.y(point, frame));
}

/** Where those of the known views among `frames` that show a point see it. */
export function sightsOf(s: Sightings, scene: Scene, point: number, frames: readonly number[]): Sight[] {
  return frames
    .filter((f) => s.isSeen(point, f))
    .map((f) => {
      const v = scene.views.get(f)!;
      return { view: v.view, optics: opticsAt(scene, v), x: s.x(point, f), y: s.y(point, f) };
    });
}

/** Adds every point that can be placed by the known views. */
export function withNewPoints(s: Sightings, scene: Scene, among?: Iterable<number>): Scene {
  const frames = [...scene.views.keys()].sort((a, b) => a - b);
  const points = new Map(scene.points);
  const tried = new Set<number>(among ?? frames.flatMap((f) => s.of(f)));
  const most = (3 * Math.max(scene.noise, SCENE.leastNoise)) / halfDiagonal(s.size);
  for (const point of tried) {
    if (points.has(point)) continue;
    const found = triangulate(sightsOf(s, scene, point, frames));
    if (found && found.angle > SCENE.leastAngle && found.error < most) points.set(point, found.point);
  }
  return { ...scene, points };
}

/** Where a frame stands by the points that are known; null when they are too few. */
export function viewOfFrame(
  s: Sightings,
  scene: Scene,
  frame: number,
  near: KnownView,
  { moves }: Freedom,
): KnownView | null {
  const known = s.of(frame).filter((p) => scene.points.has(p));
  const least = moves.includes(3) ? SCENE.leastPoints : SCENE.leastTurning;
  if (known.length < least) return null;
  const found = resect(
    {
      points: Float64Array.from(known.flatMap((p) => [...scene.points.get(p)!])),
      xy: Float64Array.from(known.flatMap((p) => [s.x(p, frame), s.y(p, frame)])),
    },
    near,
    scene.optics,
    { moves, scale: scaleOf(s, scene.noise), anneal: [40, 10, 3, 1] },
  );
  const isHeld = found.inliers >= Math.max(least, 0.4 * known.length);
  return isHeld ? { view: found.view, focal: found.focal } : null;
}

interface Laid {
  readonly frames: readonly number[];
  readonly points: readonly number[];
  readonly bundle: Bundle;
  readonly observations: Observations;
}

/** A scene as a bundle of its views and points. */
export function asBundle(s: Sightings, scene: Scene): Laid {
  const frames = [...scene.views.keys()].sort((a, b) => a - b);
  const points = [...scene.points.keys()];
  const known = frames.map((f) => scene.views.get(f)!);
  return {
    frames,
    points,
    bundle: {
      views: known.map((v) => v.view),
      points: Float64Array.from(points.flatMap((p) => [...scene.points.get(p)!])),
      optics: scene.optics,
      focals: Float64Array.from(known, (v) => v.focal),
    },
    observations: s.observations(frames, points),
  };
}

/** Noise of the places, px of one axis, by the median of what is left. */
export function noiseOf(s: Sightings, scene: Scene): number {
  const p = new Projection();
  const misses: number[] = [];
  const all = scene.views;
  for (const [frame, v] of all)
    for (const point of s.of(frame)) {
      const at = scene.points.get(point);
      if (!at || !p.place(v.view, opticsAt(scene, v), at, 0, s.y(point, frame))) continue;
      misses.push(Math.abs(p.x - s.x(point, frame)), Math.abs(p.y - s.y(point, frame)));
    }
  return misses.length === 0 ? Infinity : SIGMA_PER_DEVIATION * median(misses) * halfDiagonal(s.size);
}

/** Leaves out points that mostly disagree, and says which single sights are not to be used. */
export function culled(s: Sightings, scene: Scene): Scene {
  const p = new Projection();
  const most = mostMissOf(scene);
  const points = new Map(scene.points);
  for (const point of scene.points.keys()) {
    const seen = [...scene.views.keys()].filter((f) => s.isSeen(point, f));
    const bad = seen.filter((f) => missOf(s, scene, point, f, p) > most).length;
    if (seen.length - bad < 2 || bad > SCENE.mostOutliers * seen.length) points.delete(point);
  }
  return { ...scene, points };
}

/**
 * Adjusts views and points of a scene together.
 * @param still frames whose views stay where they are; none when left out
 */
export function adjusted(
  s: Sightings,
  scene: Scene,
  freedom: Freedom,
  patience: Patience,
  still: ReadonlySet<number> = new Set(),
): Scene {
  const { frames, points, bundle, observations } = asBundle(s, scene);
  const isZoom = freedom.moves.includes(6);
  const start = isZoom ? bundle : { ...bundle, focals: null };
  const { bundle: b } = adjust(start, observations, {
    ...freedom,
    still: new Set(frames.flatMap((f, i) => (still.has(f) ? [i] : []))),
    scale: scaleOf(s, scene.noise),
    ...patience,
  });
  const views = new Map(frames.map((f, i) => [f, { view: b.views[i]!, focal: b.focals?.[i] ?? b.optics.focal }]));
  const next = {
    ...scene,
    optics: b.optics,
    views,
    points: new Map(points.map((p, i) => [p, [b.points[3 * i]!, b.points[3 * i + 1]!, b.points[3 * i + 2]!] as const])),
  };
  return { ...next, noise: noiseOf(s, next) };
}

/** Adjusts the views of some frames and the points that they show; the other views hold still, as the optics do. */
export function adjustedPart(
  s: Sightings,
  scene: Scene,
  { moves }: Freedom,
  patience: Patience,
  part: readonly number[],
): Scene {
  const shown = new Set(part.flatMap((f) => s.of(f)));
  const points = new Map([...scene.points].filter(([p]) => shown.has(p)));
  const isNear = (frame: number): boolean => s.of(frame).some((p) => points.has(p));
  const views = new Map([...scene.views].filter(([f]) => isNear(f)));
  const still = new Set([...views.keys()].filter((f) => !part.includes(f)));
  const next = adjusted(s, { ...scene, views, points }, { moves, shares: [] }, patience, still);
  return {
    ...scene,
    views: new Map([...scene.views, ...next.views]),
    points: new Map([...scene.points, ...next.points]),
  };
}
