/** Rows of pictures with alpha, for the kernels, which know three channels. */

/** Code values. */
type Codes = Uint8Array | Uint8ClampedArray | Uint16Array;

/** RGB of `n` px of RGBA from value `from` on, into `out`. */
export function coloursOf(rgba: Codes, from: number, n: number, out: Codes): void {
  for (let i = 0, k = from, o = 0; i < n; i++, k += 4, o += 3) {
    out[o] = rgba[k]!;
    out[o + 1] = rgba[k + 1]!;
    out[o + 2] = rgba[k + 2]!;
  }
}

/** Puts `n` px of RGB into RGBA from value `from` on. */
export function setColours(rgba: Codes, from: number, n: number, rgb: Codes): void {
  for (let i = 0, k = from, o = 0; i < n; i++, k += 4, o += 3) {
    rgba[k] = rgb[o]!;
    rgba[k + 1] = rgb[o + 1]!;
    rgba[k + 2] = rgb[o + 2]!;
  }
}

/**
 * Alpha of `n` px of RGBA, from value `from` on, under an element: RGBA of a region, of which the row begins at value
 * `at`. Where `changed`, px without element may differ from what they were; `max` is the largest code value.
 */
export function coverRow(
  rgba: Codes,
  from: number,
  { element, at, n, changed, max }: { element: Float32Array; at: number; n: number; changed: boolean; max: number },
): void {
  for (let x = 0, k = from + 3, i = at + 3; x < n; x++, k += 4, i += 4) {
    const a = element[i]!;
    // What is opaque stays so.
    if (rgba[k] === max || (a <= 0 && !changed)) continue;
    rgba[k] = Math.round(max * (a + ((1 - a) * rgba[k]!) / max));
  }
}
