/** Vectors of three numbers, where a loop need not be quick. */

export type Vector = readonly number[];

/** Sum of the products. */
export const dot = (a: Vector, b: Vector): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

/** Of length 1. */
export const unit = (a: Vector): number[] => a.map((v) => v / Math.sqrt(dot(a, a)));

/** Across both, by the right hand. */
export const cross = (a: Vector, b: Vector): number[] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];

/** A place moved along a direction by some of its lengths. */
export const along = (at: Vector, direction: Vector, by: number): number[] => at.map((v, k) => v + by * direction[k]!);

/** Mean of places. */
export const middleOf = (all: readonly Vector[]): number[] =>
  [0, 1, 2].map((k) => all.reduce((sum, v) => sum + v[k]!, 0) / all.length);
