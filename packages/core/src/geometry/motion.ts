/**
 * How freely a plane may move. The warp of the template is W(p) = I + [[a b c] [d e f] [g h 0]] in normalised
 * coordinates; a motion model is the subspace of those eight parameters that it may use. Each is a group, so composing
 * updates keeps the whole motion inside its model.
 * Source: S. Baker and I. Matthews, Lucas-Kanade 20 Years On, IJCV 2004 (warps and their composition).
 */
export const MOTIONS = ['still', 'translation', 'similarity', 'affine', 'perspective'] as const;
export type Motion = (typeof MOTIONS)[number];

/** Columns of the basis: indices into (a b c d e f g h) with their factors. */
const BASES: Record<Motion, readonly (readonly [index: number, factor: number][])[]> = {
  still: [],
  translation: [[[2, 1]], [[5, 1]]],
  similarity: [
    [[2, 1]],
    [[5, 1]],
    [
      [0, 1],
      [4, 1],
    ],
    [
      [1, -1],
      [3, 1],
    ],
  ],
  affine: [[[0, 1]], [[1, 1]], [[2, 1]], [[3, 1]], [[4, 1]], [[5, 1]]],
  perspective: [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [[i, 1]]),
};

/** Numbers that a motion is free in, 0 to 8. */
export function degreesOfFreedom(motion: Motion): number {
  return BASES[motion].length;
}

/** The freer of two motions is the later in {@link MOTIONS}; this returns the tighter. */
export function tighter(a: Motion, b: Motion): Motion {
  return MOTIONS[Math.min(MOTIONS.indexOf(a), MOTIONS.indexOf(b))]!;
}

/** The freest motion that so many single points tell: two numbers a point. */
export function motionTold(points: number): Motion {
  if (points >= 4) return 'perspective';
  if (points === 3) return 'affine';
  return points === 2 ? 'similarity' : 'translation';
}

/** The normal equations (8x8 row-major, 8) seen from inside a motion model: B'AB and B'b. */
export function restrict(motion: Motion, a: Float64Array, b: Float64Array): { a: Float64Array; b: Float64Array } {
  const basis = BASES[motion];
  const n = basis.length;
  const ra = new Float64Array(n * n);
  const rb = new Float64Array(n);
  for (let i = 0; i < n; i++)
    for (const [k, f] of basis[i]!) {
      rb[i]! += f * b[k]!;
      for (let j = 0; j < n; j++) for (const [m, g] of basis[j]!) ra[i * n + j]! += f * g * a[k * 8 + m]!;
    }
  return { a: ra, b: rb };
}

/** The eight parameters that belong to a solution inside a motion model. */
export function extend(motion: Motion, x: Float64Array): Float64Array {
  const out = new Float64Array(8);
  for (const [i, column] of BASES[motion].entries()) for (const [k, f] of column) out[k]! += f * x[i]!;
  return out;
}

/** W(p), row-major, of the eight parameters a to h. */
export function warpMatrix(p: Float64Array): number[] {
  return [1 + p[0]!, p[1]!, p[2]!, p[3]!, 1 + p[4]!, p[5]!, p[6]!, p[7]!, 1];
}
