/**
 * A camera's scene set into a world that people reckon in: the ground level at height 0, an origin, and a true length.
 * What a solver finds has neither up nor size of its own.
 */
import type { CameraFile } from './camera-file';
import { planeThrough } from './points-plane';
import { product } from '../geometry/linear-algebra';
import { matrixOf, quaternionOf } from '../geometry/quaternion';
import { dot, middleOf, unit } from '../geometry/vector3';
import { CoreError } from '../errors';

/** How a scene is set into the world; points by their numbers. */
export interface World {
  /** three and more that lie on the ground */
  readonly ground?: readonly number[] | undefined;
  /** the one that becomes the origin; the ground's middle when left out */
  readonly origin?: number | undefined;
  /** two points, and how far they are apart */
  readonly length?: { readonly from: number; readonly to: number; readonly metres: number } | undefined;
}

type Vector = readonly [number, number, number];
/** Row-major turning, scale and shift: to `scale * turn * p + shift`. */
interface Placing {
  readonly turn: readonly number[];
  readonly scale: number;
  readonly shift: Vector;
}

const UPRIGHT = [1, 0, 0, 0, 1, 0, 0, 0, 1];
const turned = (m: readonly number[], v: readonly number[]): Vector =>
  [0, 1, 2].map((r) => dot(m.slice(3 * r, 3 * r + 3), v)) as unknown as Vector;

/** The turning that brings a direction up along y and leaves as much of the rest as it can. */
function turnUp(up: readonly number[]): number[] {
  const [x, y, z] = up as [number, number, number];
  // Rodrigues about the axis across both, which lies level. Source: O. Rodrigues 1840.
  const sine = Math.hypot(x, z);
  if (sine < 1e-12) return y > 0 ? UPRIGHT : [1, 0, 0, 0, -1, 0, 0, 0, -1];
  const [ax, az] = [-z / sine, x / sine];
  const k = 1 - y;
  return [
    ...[y + ax * ax * k, -az * sine, ax * az * k],
    ...[az * sine, y, -ax * sine],
    ...[ax * az * k, ax * sine, y + az * az * k],
  ];
}

function pointOf(file: CameraFile, id: number): Vector {
  const found = file.points.find((p) => p.id === id);
  if (!found) throw new CoreError('invalid', `The camera has no point ${id} any more; choose the world's points anew.`);
  return found.position;
}

/** The ground's up as the solver's axes have it: towards the camera's side. */
function groundOf(file: CameraFile, ids: readonly number[]): { readonly up: number[]; readonly middle: Vector } {
  const points = ids.map((id) => pointOf(file, id));
  const eye = file.frames[0]!.position;
  const plane = planeThrough(points.map((p) => p.map((v, k) => v - eye[k]!)));
  if (!plane) throw new CoreError('invalid', 'The points of the ground lie on a line; choose some to its sides too.');
  const middle = middleOf(points) as unknown as Vector;
  return { up: unit(plane.n).map((v) => -v), middle };
}

function placingOf(file: CameraFile, { ground, origin, length }: World): Placing {
  const level = ground ? groundOf(file, ground) : null;
  const turn = level ? turnUp(level.up) : UPRIGHT;
  let scale = 1;
  if (length) {
    const [a, b] = [pointOf(file, length.from), pointOf(file, length.to)];
    const apart = Math.hypot(...a.map((v, k) => v - b[k]!));
    if (!(apart > 0)) throw new CoreError('invalid', 'The two points of the true length are one; choose two.');
    scale = length.metres / apart;
  }
  const zero = origin === undefined ? (level?.middle ?? null) : pointOf(file, origin);
  const at = zero ? turned(turn, zero).map((v) => -scale * v) : [0, 0, 0];
  // The ground is at height 0 wherever the origin lies on the map.
  if (level && origin !== undefined) at[1] = -scale * turned(turn, level.middle)[1];
  return { turn, scale, shift: at as unknown as Vector };
}

/**
 * The same camera in a world of the person's own.
 * @throws CoreError `invalid` for points that are gone, that lie on a line, or are one
 */
export function oriented(file: CameraFile, world: World): CameraFile {
  const { turn, scale, shift } = placingOf(file, world);
  const placed = (p: readonly number[]): Vector =>
    turned(turn, p).map((v, k) => scale * v + shift[k]!) as unknown as Vector;
  return {
    ...file,
    frames: file.frames.map((f) => ({
      ...f,
      position: placed(f.position),
      rotation: quaternionOf([...product(Float64Array.from(turn), Float64Array.from(matrixOf(f.rotation)), 3)]),
      sigma: { ...f.sigma, position: scale * f.sigma.position },
    })),
    points: file.points.map((p) => ({ ...p, position: placed(p.position) })),
    planes: file.planes.map((p) => ({ ...p, corners: p.corners.map(placed) })),
  };
}
