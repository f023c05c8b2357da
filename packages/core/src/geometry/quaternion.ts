/** Turns as unit quaternions x, y, z, w. */

/** A rotation matrix, row-major, to x, y, z, w. Source: S. W. Shepperd, Quaternion from Rotation Matrix, 1978. */
export function quaternionOf(m: ArrayLike<number>): [number, number, number, number] {
  const trace = m[0]! + m[4]! + m[8]!;
  const four = [1 + m[0]! - m[4]! - m[8]!, 1 - m[0]! + m[4]! - m[8]!, 1 - m[0]! - m[4]! + m[8]!, 1 + trace];
  const k = four.indexOf(Math.max(...four));
  const s = 0.5 / Math.sqrt(four[k]!);
  const sums = [m[7]! - m[5]!, m[2]! - m[6]!, m[3]! - m[1]!];
  const q: [number, number, number, number] = [0, 0, 0, 0];
  q[k] = four[k]! * s;
  if (k === 3) for (let i = 0; i < 3; i++) q[i] = sums[i]! * s;
  else {
    q[3] = sums[k]! * s;
    const [a, b] = [(k + 1) % 3, (k + 2) % 3];
    q[a] = (m[3 * k + a]! + m[3 * a + k]!) * s;
    q[b] = (m[3 * k + b]! + m[3 * b + k]!) * s;
  }
  return q;
}

/** A unit quaternion x, y, z, w as a rotation, row-major. */
export function matrixOf([x, y, z, w]: readonly [number, number, number, number]): number[] {
  return [
    1 - 2 * (y * y + z * z),
    2 * (x * y - w * z),
    2 * (x * z + w * y),
    2 * (x * y + w * z),
    1 - 2 * (x * x + z * z),
    2 * (y * z - w * x),
    2 * (x * z - w * y),
    2 * (y * z + w * x),
    1 - 2 * (x * x + y * y),
  ];
}
