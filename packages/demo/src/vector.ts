export type Vec = readonly [number, number, number];

export const add = (a: Vec, b: Vec, k = 1): Vec => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const normalise = (a: Vec): Vec => {
  const l = 1 / Math.hypot(a[0], a[1], a[2]);
  return [a[0] * l, a[1] * l, a[2] * l];
};
export const scale = (a: Vec, k: number): Vec => [a[0] * k, a[1] * k, a[2] * k];
export const mul = (a: Vec, b: Vec): Vec => [a[0] * b[0], a[1] * b[1], a[2] * b[2]];
export const mix = (a: Vec, b: Vec, t: number): Vec => [
  a[0] + t * (b[0] - a[0]),
  a[1] + t * (b[1] - a[1]),
  a[2] + t * (b[2] - a[2]),
];
