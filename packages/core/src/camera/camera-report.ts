/** A solved camera frame by frame, as others have it: where it stands, which way it looks, and how well that is known. */
import type { Scene } from './scene';
import { missOf, mostMissOf } from './scene';
import type { SolvedCamera } from './solve-camera';
import { quaternionOf } from '../geometry/quaternion';
import { median } from '../statistics';
import { sigmaOn } from './uncertainty';
import type { View } from './view-model';
import { Projection, flipped, halfDiagonal, placeOf } from './view-model';

/** Right-handed, the camera looks along -z, y up. */
export interface CameraFrame {
  readonly frame: number;
  readonly position: readonly [number, number, number];
  /** unit quaternion x, y, z, w from the camera to the scene */
  readonly rotation: readonly [number, number, number, number];
  /** px */
  readonly focal: number;
  readonly sigma: { readonly position: number; readonly rotation: number };
  /** px, root mean square over the points it shows */
  readonly error: number;
  /** how many those are */
  readonly points: number;
}

export interface ScenePoint {
  readonly id: number;
  readonly position: readonly [number, number, number];
  /** frames that show it */
  readonly frames: number;
  /** px, root mean square */
  readonly error: number;
}

/** From the axes here (y down, looking along z) to y up, looking along -z, on both sides. */
function rotationOf(v: View): [number, number, number, number] {
  const sign = [1, -1, -1];
  const out = new Float64Array(9);
  for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) out[3 * r + c] = sign[r]! * sign[c]! * v[3 * c + r]!;
  return quaternionOf(out);
}

/** The scene moved so that a frame's camera stands at its origin, looking along -z, and scaled. */
function settledAt(scene: Scene, frame: number, scale: number): Scene {
  const o = scene.views.get(frame)!.view;
  const views = new Map(
    [...scene.views].map(([f, v]) => {
      const view = v.view.slice();
      for (let r = 0; r < 3; r++) {
        for (let c = 0; c < 3; c++)
          view[3 * r + c] = [0, 1, 2].reduce((sum, k) => sum + v.view[3 * r + k]! * o[3 * c + k]!, 0);
        view[9 + r] = v.view[9 + r]!;
      }
      // t' = t - R R0' t0, all of it scaled.
      for (let r = 0; r < 3; r++) {
        const back = view[3 * r]! * o[9]! + view[3 * r + 1]! * o[10]! + view[3 * r + 2]! * o[11]!;
        view[9 + r] = scale * (v.view[9 + r]! - back);
      }
      return [f, { ...v, view }] as const;
    }),
  );
  const points = new Map(
    [...scene.points].map(([id, p]) => {
      const at = [0, 1, 2].map(
        (r) => scale * (o[3 * r]! * p[0] + o[3 * r + 1]! * p[1] + o[3 * r + 2]! * p[2] + o[9 + r]!),
      );
      return [id, [at[0]!, at[1]!, at[2]!] as const] as const;
    }),
  );
  return { ...scene, views, points };
}

const rootMean = (squares: readonly number[]): number =>
  squares.length === 0 ? 0 : Math.sqrt(squares.reduce((s, v) => s + v, 0) / squares.length);

/** Px, root mean square over the frames; 0 for none. */
export const errorOver = (frames: readonly CameraFrame[]): number => rootMean(frames.map((f) => f.error ** 2));

export interface CameraReport {
  readonly scene: Scene;
  readonly frames: readonly CameraFrame[];
  readonly points: readonly ScenePoint[];
}

/**
 * The scene with its origin at the camera of its first frame, the median of its points at distance 1, and its numbers.
 */
export function cameraReport({ scene, sightings: s, kind, uncertainty: u }: SolvedCamera): CameraReport {
  const first = Math.min(...scene.views.keys());
  const eye = placeOf(scene.views.get(first)!.view);
  const far = [...scene.points.values()].map((p) => Math.hypot(p[0] - eye[0], p[1] - eye[1], p[2] - eye[2]));
  const scale = kind === 'tripod' ? 1 : 1 / median(far);
  const own = settledAt(scene, first, scale);
  const p = new Projection();
  const most = mostMissOf(own);
  const hd = halfDiagonal(s.size);
  const byPoint = new Map<number, number[]>();
  const frames = [...own.views].map(([frame, { view, focal }]): CameraFrame => {
    const squares: number[] = [];
    for (const point of s.of(frame)) {
      if (!own.points.has(point)) continue;
      const miss = missOf(s, own, point, frame, p);
      if (!(miss < most)) continue;
      squares.push(miss * miss);
      byPoint.set(point, [...(byPoint.get(point) ?? []), miss * miss]);
    }
    const sigma = u ? sigmaOn(u, frame) : { position: 0, rotation: 0 };
    return {
      frame,
      position: flipped(placeOf(view)),
      rotation: rotationOf(view),
      focal: focal * hd,
      sigma: { position: sigma.position * scale, rotation: sigma.rotation },
      error: rootMean(squares),
      points: squares.length,
    };
  });
  const points = [...own.points].flatMap(([id, at]): ScenePoint[] => {
    const squares = byPoint.get(id) ?? [];
    return squares.length < 2
      ? []
      : [{ id: s.ids[id]!, position: flipped(at), frames: squares.length, error: rootMean(squares) }];
  });
  return { scene: own, frames: frames.sort((a, b) => a.frame - b.frame), points };
}
