/**
 * Repeatable numbers for whole numbers. Source of the mixing: the finaliser of MurmurHash3 (A. Appleby, public domain).
 */

/** 32 bits, none of which knows of another. */
export function hash32(n: number, seed: number): number {
  let h = Math.imul(n | 0, 0x9e3779b1) ^ Math.imul(seed | 0, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** From 0 to 1. */
export function hash01(n: number, seed: number): number {
  return hash32(n, seed) / 4294967296;
}
