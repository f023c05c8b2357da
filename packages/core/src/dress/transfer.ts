/**
 * Transfer functions between code values 0..1 and scene-linear light. Display-referred plates (Rec.709 and sRGB tagged
 * or untagged) are linearised with the sRGB curve.
 * Source: IEC 61966-2-1:1999, equations 5 to 8 (sRGB).
 */
export function srgbToLinear(v: number): number {
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
}

export function linearToSrgb(v: number): number {
  return v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055;
}

/** Decoding table for integer code values: `max + 1` entries, scene-linear. */
export function decodingTable(max: 255 | 65535): Float32Array {
  return Float32Array.from({ length: max + 1 }, (_, i) => srgbToLinear(i / max));
}

const STEPS = 65536;

/** Encoding table over linear 0..1 in {@link STEPS} steps, for {@link encode}; values in code units of `max`. */
export function encodingTable(max: 255 | 65535): Float32Array {
  return Float32Array.from({ length: STEPS + 2 }, (_, i) => linearToSrgb(Math.min(1, i / STEPS)) * max);
}

/** Code value of a linear one, by linear interpolation in the table (error under 0.01 of an 8-bit step). */
export function encode(table: Float32Array, linear: number): number {
  if (!(linear > 0)) return 0;
  if (linear >= 1) return table[STEPS]! + 0.5;
  const x = linear * STEPS, i = x | 0;
  return table[i]! + (x - i) * (table[i + 1]! - table[i]!) + 0.5;
}
