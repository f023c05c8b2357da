/** A 3x3 matrix as nine numbers, row-major. */
export type Matrix3 = readonly number[];

export const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The product `a b`: applies `b` first. */
export function multiply(a: Matrix3, b: Matrix3): number[] {
  const out = new Array<number>(9);
  for (let r = 0; r < 9; r += 3) {
    const a0 = a[r]!;
    const a1 = a[r + 1]!;
    const a2 = a[r + 2]!;
    for (let c = 0; c < 3; c++) out[r + c] = a0 * b[c]! + a1 * b[c + 3]! + a2 * b[c + 6]!;
  }
  return out;
}

/** The factor by which a matrix scales volumes; 0 when it is singular. */
export function determinant(m: Matrix3): number {
  return (
    m[0]! * (m[4]! * m[8]! - m[5]! * m[7]!) -
    m[1]! * (m[3]! * m[8]! - m[5]! * m[6]!) +
    m[2]! * (m[3]! * m[7]! - m[4]! * m[6]!)
  );
}

/** The inverse by the adjugate; entries are not finite when the matrix is singular. */
export function inverse(m: Matrix3): number[] {
  const d = 1 / determinant(m);
  return [
    (m[4]! * m[8]! - m[5]! * m[7]!) * d,
    (m[2]! * m[7]! - m[1]! * m[8]!) * d,
    (m[1]! * m[5]! - m[2]! * m[4]!) * d,
    (m[5]! * m[6]! - m[3]! * m[8]!) * d,
    (m[0]! * m[8]! - m[2]! * m[6]!) * d,
    (m[2]! * m[3]! - m[0]! * m[5]!) * d,
    (m[3]! * m[7]! - m[4]! * m[6]!) * d,
    (m[1]! * m[6]! - m[0]! * m[7]!) * d,
    (m[0]! * m[4]! - m[1]! * m[3]!) * d,
  ];
}

/** Scales by `sx` and `sy` about the origin. */
export function scaling(sx: number, sy = sx): number[] {
  return [sx, 0, 0, 0, sy, 0, 0, 0, 1];
}

/** Moves by (x, y). */
export function translation(x: number, y: number): number[] {
  return [1, 0, x, 0, 1, y, 0, 0, 1];
}
