/**
 * How a point of the scene is seen: a rigid view, one focal length, two radial terms of the lens. The camera's own axes
 * here are x right, y down, z ahead; lengths in the picture are in half diagonals from its middle.
 * Source: D. C. Brown, Close-Range Camera Calibration, 1971 (the radial terms).
 */
import { product } from '../geometry/linear-algebra';
import { rotationBy } from '../geometry/pose';

/**
 * Rotation (row-major, 9 numbers) and translation (3) from the scene to the camera as it stands at the middle row, and
 * the rows' turning: a rolling shutter reads them one after another. A row that lies y half diagonals lower is turned by
 * y times the first three numbers and y squared times the last three, radians. Then what those six are expected to be,
 * and how far they are expected to be off it.
 */
export type View = Float64Array;

export interface Optics {
  /** half diagonals of the picture */
  readonly focal: number;
  /** radial terms by the half diagonal, of the ideal radius */
  readonly k1: number;
  readonly k2: number;
}

/**
 * Numbers of a view that can be moved: three of turning, three of shifting, one of the focal length's logarithm, six of
 * the rows' turning.
 */
export const VIEW_NUMBERS = 13;
/** Place of the first of the rows' numbers. */
export const ROWS_FIRST = 7;
/** Place of the rows' turning in a view. */
export const ROWS_AT = 12;
/** How many they are. */
export const ROWS = VIEW_NUMBERS - ROWS_FIRST;
/** Place of what is expected of the rows' turning in a view. */
export const ROWS_EXPECTED_AT = ROWS_AT + ROWS;
/** Place of how far it may be off that, radians. */
export const ROWS_SIGMA_AT = ROWS_EXPECTED_AT + ROWS;
/** Radians a half diagonal that rows are turned by, where nothing more is known. By trial. */
const USUAL_ROWS = 0.02;
/** From y down, looking along z, as it is reckoned with here, to y up, looking along -z, as others have it; and back. */
export const flipped = ([x, y, z]: readonly [number, number, number]): [number, number, number] => [x, -y, -z];

/** Numbers that all views share: the focal length's logarithm and the two radial terms. */
export const SHARED_NUMBERS = 3;

export interface PictureSize {
  readonly width: number;
  readonly height: number;
}

/** Px. */
export const halfDiagonal = ({ width, height }: PictureSize): number => Math.hypot(width, height) / 2;

/** A camera at the scene's origin, looking along z. */
export function viewOfNothing(): View {
  const v = new Float64Array(ROWS_SIGMA_AT + 1);
  v[0] = v[4] = v[8] = 1;
  v[ROWS_SIGMA_AT] = USUAL_ROWS;
  return v;
}

/**
 * A view turned and shifted in the camera's own axes.
 * @param step radians (3), units of the scene (3); the rows' turning in its place, when there is any
 */
export function movedView(v: View, step: ArrayLike<number>): View {
  const turn = Float64Array.from(rotationBy([step[0]!, step[1]!, step[2]!]));
  const out = v.slice();
  out.set(product(turn, v.subarray(0, 9), 3));
  for (let r = 0; r < 3; r++)
    out[9 + r] = turn[3 * r]! * v[9]! + turn[3 * r + 1]! * v[10]! + turn[3 * r + 2]! * v[11]! + step[3 + r]!;
  for (let r = 0; r < ROWS; r++) out[ROWS_AT + r]! += step[ROWS_FIRST + r] ?? 0;
  return out;
}

/** Radians by which a row is turned about one of the camera's axes. @param y half diagonals below the middle */
const rowTurned = (v: View, axis: number, y: number): number => y * (v[ROWS_AT + axis]! + y * v[ROWS_AT + 3 + axis]!);

/** Whether its rows are turned at all. */
export const isRolling = (v: View): boolean => v.subarray(ROWS_AT, ROWS_EXPECTED_AT).some((turn) => turn !== 0);

/** The view as it stands when a row is read. @param y half diagonals below the middle */
export function atRow(v: View, y: number): View {
  return movedView(v, [rowTurned(v, 0, y), rowTurned(v, 1, y), rowTurned(v, 2, y), 0, 0, 0]);
}

/** Where the camera stands in the scene. */
export function placeOf(v: View): [number, number, number] {
  return [0, 1, 2].map((i) => -(v[i]! * v[9]! + v[3 + i]! * v[10]! + v[6 + i]! * v[11]!)) as [number, number, number];
}

/** What is left of projecting a point: position, depth, and how each moves it. Reused from call to call. */
export class Projection {
  /** half diagonals from the picture's middle */
  x = 0;
  y = 0;
  /** ahead of the camera, units of the scene */
  depth = 0;
  /** rows x and y, by the view's numbers */
  readonly byView = new Float64Array(2 * VIEW_NUMBERS);
  /** rows x and y, by the shared numbers */
  readonly byShared = new Float64Array(2 * SHARED_NUMBERS);
  /** rows x and y, by the point's three coordinates */
  readonly byPoint = new Float64Array(6);

  /** the point in the camera's axes, as its row sees it */
  private readonly own = new Float64Array(3);

  /** The point in the camera's axes. @param row half diagonals below the middle where it is seen */
  private turnIn(v: View, points: ArrayLike<number>, at: number, row: number): boolean {
    const [X, Y, Z] = [points[at]!, points[at + 1]!, points[at + 2]!];
    let x = v[0]! * X + v[1]! * Y + v[2]! * Z + v[9]!;
    let y = v[3]! * X + v[4]! * Y + v[5]! * Z + v[10]!;
    let z = v[6]! * X + v[7]! * Y + v[8]! * Z + v[11]!;
    const a = rowTurned(v, 0, row);
    const b = rowTurned(v, 1, row);
    const c = rowTurned(v, 2, row);
    if (a !== 0 || b !== 0 || c !== 0) {
      // The turning to its second order; it is a hundredth of a radian at the most.
      const [dx, dy, dz] = [b * z - c * y, c * x - a * z, a * y - b * x];
      x += dx + 0.5 * (b * dz - c * dy);
      y += dy + 0.5 * (c * dx - a * dz);
      z += dz + 0.5 * (a * dy - b * dx);
    }
    this.own[0] = x;
    this.own[1] = y;
    this.own[2] = z;
    this.depth = z;
    return z > 1e-9;
  }

  /** Position alone. @param row as it was found @returns false for a point behind the camera */
  place(v: View, o: Optics, points: ArrayLike<number>, at: number, row: number): boolean {
    if (!this.turnIn(v, points, at, row)) return false;
    const mx = (o.focal * this.own[0]!) / this.depth;
    const my = (o.focal * this.own[1]!) / this.depth;
    const r2 = mx * mx + my * my;
    const bow = 1 + r2 * (o.k1 + o.k2 * r2);
    this.x = mx * bow;
    this.y = my * bow;
    return true;
  }

  /** Position and derivatives. @param row as it was found @returns false for a point behind the camera */
  of(v: View, o: Optics, points: ArrayLike<number>, at: number, row: number): boolean {
    if (!this.turnIn(v, points, at, row)) return false;
    const z = this.depth;
    const x = this.own[0]! / z;
    const y = this.own[1]! / z;
    const mx = o.focal * x;
    const my = o.focal * y;
    const r2 = mx * mx + my * my;
    const bow = 1 + r2 * (o.k1 + o.k2 * r2);
    this.x = mx * bow;
    this.y = my * bow;
    const q = 2 * (o.k1 + 2 * o.k2 * r2);
    const xx = bow + q * mx * mx;
    const xy = q * mx * my;
    const yy = bow + q * my * my;
    this.derive(v, [xx, xy, yy], [x, y, z], o.focal);
    const s = this.byShared;
    s[0] = xx * mx + xy * my;
    s[1] = mx * r2;
    s[2] = mx * r2 * r2;
    s[3] = xy * mx + yy * my;
    s[4] = my * r2;
    s[5] = my * r2 * r2;
    this.byView[6] = s[0];
    this.byView[VIEW_NUMBERS + 6] = s[3];
    for (let k = 0; k < ROWS; k++) {
      const share = k < 3 ? row : row * row;
      this.byView[ROWS_FIRST + k] = share * this.byView[k % 3]!;
      this.byView[VIEW_NUMBERS + ROWS_FIRST + k] = share * this.byView[VIEW_NUMBERS + (k % 3)]!;
    }
    return true;
  }

  private derive(
    v: View,
    [xx, xy, yy]: readonly [number, number, number],
    [x, y, z]: readonly [number, number, number],
    focal: number,
  ): void {
    const g = focal / z;
    for (let row = 0; row < 2; row++) {
      const [p, q] = row === 0 ? [xx, xy] : [xy, yy];
      // By the point in the camera's axes.
      const cx = g * p;
      const cy = g * q;
      const cz = -g * (p * x + q * y);
      const o = row * VIEW_NUMBERS;
      this.byView[o] = z * (cz * y - cy);
      this.byView[o + 1] = z * (cx - cz * x);
      this.byView[o + 2] = z * (cy * x - cx * y);
      this.byView[o + 3] = cx;
      this.byView[o + 4] = cy;
      this.byView[o + 5] = cz;
      for (let c = 0; c < 3; c++) this.byPoint[3 * row + c] = cx * v[c]! + cy * v[3 + c]! + cz * v[6 + c]!;
    }
  }
}

/** A position in the real picture to the ideal one, both in half diagonals; Newton on the radius. */
export function unbow({ k1, k2 }: Optics, x: number, y: number): [number, number] {
  const r = Math.hypot(x, y);
  if (r === 0 || (k1 === 0 && k2 === 0)) return [x, y];
  let u = r;
  for (let i = 0; i < 20; i++) {
    const u2 = u * u;
    const slope = 1 + u2 * (3 * k1 + 5 * k2 * u2);
    const step = (u * (1 + u2 * (k1 + k2 * u2)) - r) / Math.max(0.05, slope);
    u -= step;
    if (Math.abs(step) < 1e-12) break;
  }
  return [(x * u) / r, (y * u) / r];
}
