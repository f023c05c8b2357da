/** Shares of red, green and blue in luminance (and, of code values, in luma). Source: ITU-R BT.709-6, item 3.2. */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const;

/** Luminance of light in Rec. 709 primaries, in the unit of its channels. Source: ITU-R BT.709-6. */
export function luminance(r: number, g: number, b: number): number {
  return LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
}
