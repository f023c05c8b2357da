/** Pictures of integers as scene-linear floats, and back to code values. */
import { clamp } from '../clamp';
import type { Raster } from './image';
import { maxOf } from './image';

/** @param decode light of a code value, 0 to 1; alpha stays as it is */
export function toFloat(r: Raster, decode: (v: number) => number): Raster {
  if (r.data instanceof Float32Array) return r;
  const max = maxOf(r);
  const table = Float32Array.from({ length: max + 1 }, (_, i) => decode(i / max));
  const data = new Float32Array(r.data.length);
  for (let i = 0; i < data.length; i++)
    data[i] = r.channels === 4 && i % 4 === 3 ? r.data[i]! / max : table[r.data[i]!]!;
  return { ...r, data };
}

/** @param encode code value of light, 0 to 1; what lies beyond is cut off */
export function toCodes(r: Raster, encode: (l: number) => number, depth: 8 | 16): Raster {
  const max = depth === 16 ? 65535 : 255;
  const data = depth === 16 ? new Uint16Array(r.data.length) : new Uint8Array(r.data.length);
  for (let i = 0; i < data.length; i++)
    data[i] = Math.round(max * clamp(r.channels === 4 && i % 4 === 3 ? r.data[i]! : encode(r.data[i]!), 0, 1));
  return { ...r, data };
}

/** Colour times alpha, in place. */
export function premultiply(r: Raster): Raster {
  const max = maxOf(r);
  const { data } = r;
  const whole = !(data instanceof Float32Array);
  for (let k = 0; k < data.length; k += 4)
    for (let c = 0; c < 3; c++) {
      const v = (data[k + c]! * data[k + 3]!) / max;
      data[k + c] = whole ? Math.round(v) : v;
    }
  return r;
}
