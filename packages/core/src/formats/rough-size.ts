/** How large pictures become, roughly, before they are made: noise makes them larger. */

/** Bits that a pixel takes, by format (measured on demo shots of 8 bit). */
const BITS: Readonly<Record<string, number>> = {
  mp4: 1.1,
  hevc: 0.8,
  mov: 4.6,
  webm: 0.7,
  mkv: 12,
  png: 14,
  tiff: 17,
  exr: 26,
};
const DEEPER = ['mkv', 'png', 'tiff'];

/** Bytes that a delivery will have, roughly: by what such pictures had on the demo. @param as its format; `deep` for 16 bits a channel */
export function roughBytes(as: string, width: number, height: number, frames: number, deep: boolean): number {
  return ((BITS[as] ?? 8) * width * height * frames * (deep && DEEPER.includes(as) ? 2.4 : 1)) / 8;
}
