/** A repeatable number from 0 to 1 for whole numbers. Source of the mixing: the finaliser of MurmurHash3 (A. Appleby, public domain). */
export function hash01(n: number, seed: number): number {
  let h = Math.imul(n | 0, 0x9e3779b1) ^ Math.imul(seed | 0, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}
