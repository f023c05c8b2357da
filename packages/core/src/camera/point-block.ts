/** What the observations of one point tell, ready to be taken out of the system of all other numbers. */
import type { Projection } from './view-model';
import { SHARED_NUMBERS } from './view-model';

/** Added to a point's diagonal, so that one at infinity can be solved. By trial. */
const AT_INFINITY = 1e-12;

/** Inverse of a symmetric 3x3 in `v` (xx xy xz yy yz zz), in place. @returns false when singular */
export function invert3(v: Float64Array): boolean {
  const [a, b, c, d, e, f] = [v[0]!, v[1]!, v[2]!, v[3]!, v[4]!, v[5]!];
  const A = d * f - e * e;
  const B = c * e - b * f;
  const C = b * e - c * d;
  const det = a * A + b * B + c * C;
  if (!(det > 0)) return false;
  v[0] = A / det;
  v[1] = B / det;
  v[2] = C / det;
  v[3] = (a * f - c * c) / det;
  v[4] = (b * c - a * e) / det;
  v[5] = (a * d - b * b) / det;
  return true;
}

/** What one point tells: its own 3x3 block and right side, and its ties to the other numbers. */
export class PointBlock {
  readonly own = new Float64Array(6);
  readonly right = new Float64Array(3);
  /** how many numbers it is tied to */
  count = 0;
  /** place of each tied number in the system, rising */
  readonly at: Int32Array;
  /** three numbers for each tied number */
  readonly ties: Float64Array;
  /** the same, times the inverse of its own block */
  readonly solved: Float64Array;
  private readonly shared: Float64Array;

  constructor(
    private readonly first: number,
    private readonly shares: readonly number[],
  ) {
    this.shared = new Float64Array(3 * shares.length);
    const most = first + shares.length;
    this.at = new Int32Array(most);
    this.ties = new Float64Array(3 * most);
    this.solved = new Float64Array(3 * most);
  }

  clear(): void {
    this.own.fill(0);
    this.right.fill(0);
    this.shared.fill(0);
    this.count = 0;
  }

  add(p: Projection, weight: number, ex: number, ey: number): void {
    const j = p.byPoint;
    for (let r = 0, k = 0; r < 3; r++) {
      this.right[r]! -= weight * (j[r]! * ex + j[3 + r]! * ey);
      for (let c = r; c < 3; c++, k++) this.own[k]! += weight * (j[r]! * j[c]! + j[3 + r]! * j[3 + c]!);
    }
  }

  /** Ties to the shared numbers, of the observation that was added. */
  addShared(p: Projection, weight: number): void {
    const j = p.byPoint;
    for (let s = 0; s < this.shares.length; s++) {
      const a = p.byShared[this.shares[s]!]!;
      const b = p.byShared[SHARED_NUMBERS + this.shares[s]!]!;
      for (let c = 0; c < 3; c++) this.shared[3 * s + c]! += weight * (a * j[c]! + b * j[3 + c]!);
    }
  }

  tie(place: number, weight: number, byX: number, byY: number, j: Float64Array): void {
    const k = 3 * this.count;
    this.at[this.count++] = place;
    for (let c = 0; c < 3; c++) this.ties[k + c] = weight * (byX * j[c]! + byY * j[3 + c]!);
  }

  /**
   * Holds the distance of a point that is seen from one place alone: nothing is tied to it, so that nothing else changes.
   */
  holdDistance(points: Float64Array, at: number): void {
    const [x, y, z] = [points[at]!, points[at + 1]!, points[at + 2]!];
    const stiff = (this.own[0]! + this.own[3]! + this.own[5]!) / (x * x + y * y + z * z);
    const along = [x * x, x * y, x * z, y * y, y * z, z * z];
    along.forEach((v, k) => (this.own[k]! += stiff * v));
  }

  /** With the shared numbers' ties at the end. */
  close(): void {
    for (let s = 0; s < this.shares.length; s++) {
      for (let c = 0; c < 3; c++) this.ties[3 * this.count + c] = this.shared[3 * s + c]!;
      this.at[this.count++] = this.first + s;
    }
  }
}

/** Marquardt's damping of a point's own block. */
export function damp(own: Float64Array, damping: number): void {
  for (const k of [0, 3, 5]) own[k] = own[k]! * (1 + damping) + AT_INFINITY;
}

/** Symmetric 3x3 (xx xy xz yy yz zz) times the vector at a place, to the same place of `out`. */
export function times3(m: Float64Array, v: Float64Array, out: Float64Array, at: number): void {
  const [x, y, z] = [v[at]!, v[at + 1]!, v[at + 2]!];
  out[at] = m[0]! * x + m[1]! * y + m[2]! * z;
  out[at + 1] = m[1]! * x + m[3]! * y + m[4]! * z;
  out[at + 2] = m[2]! * x + m[4]! * y + m[5]! * z;
}
