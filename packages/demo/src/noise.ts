/** Seeded value noise in the plane, and hashes for sampling; everything repeats exactly from run to run. */
export function hash(x: number, y: number, z: number): number {
  let h = (Math.imul(x | 0, 374761393) + Math.imul(y | 0, 668265263) + Math.imul(z | 0, 2147483647)) | 0;
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

export function valueNoise(x: number, y: number, seed: number): number {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  const fx = x - ix;
  const fy = y - iy;
  const u = fx * fx * (3 - 2 * fx);
  const v = fy * fy * (3 - 2 * fy);
  const a = hash(ix, iy, seed);
  const b = hash(ix + 1, iy, seed);
  const c = hash(ix, iy + 1, seed);
  const d = hash(ix + 1, iy + 1, seed);
  return a + u * (b - a) + v * (c - a + u * (a - b - c + d));
}

export function fractal(x: number, y: number, seed: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  for (let o = 0; o < octaves; o++) {
    sum += weight * valueNoise(x * 2 ** o, y * 2 ** o, seed + o);
    weight /= 2;
  }
  return sum;
}
