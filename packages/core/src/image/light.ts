/**
 * Between grey values of a plate and the light that they stand for. Blur acts on light: averaged as grey, a bright thing
 * would lose to the dark beside it what the camera has it gain.
 */
import { clamp } from '../clamp';

/**
 * Light of a grey value of the plate, both 0 to 255: blur acts on light, and in the curve's values it would move an
 * edge towards its dark side. The curve is sRGB's (IEC 61966-2-1) as a cubic that keeps within 0.4 % of white;
 * Rec.709's is near enough for where an edge lies.
 */
export function lightOf(grey: number): number {
  return grey * (0.012522878 + grey * (0.682171111 / 255 + (grey * 0.305306011) / 65025));
}

/** Its derivative: light that a step of grey makes at a grey value. */
export function lightSlope(grey: number): number {
  return 0.012522878 + grey * ((2 * 0.682171111) / 255 + (grey * 3 * 0.305306011) / 65025);
}

/** About the grey of so much light, both 0 to 255. */
export function greyOf(light: number): number {
  return 255 * Math.max(0, light / 255) ** (1 / 2.2);
}

/** Entries of the table of greys, evenly spaced in the root of light, which greys nearly are. By trial. */
const ENTRIES = 1024;

/** The grey of so much light by bisection. */
function exactGreyOf(light: number): number {
  let lo = 0;
  let hi = 255;
  for (let i = 0; i < 40; i++) {
    const middle = (lo + hi) / 2;
    if (lightOf(middle) < light) lo = middle;
    else hi = middle;
  }
  return (lo + hi) / 2;
}

const greys = Float32Array.from({ length: ENTRIES + 2 }, (_, i) =>
  exactGreyOf(Math.min(255, 255 * (i / ENTRIES) ** 2)),
);

/** Grey values of so much light, in place; exactly undoes {@link lightOf} but for 0.02 of a grey step. */
export function toGrey(light: Float32Array): void {
  for (let i = 0; i < light.length; i++) {
    const t = ENTRIES * Math.sqrt(clamp(light[i]! / 255, 0, 1));
    const k = Math.floor(t);
    light[i] = greys[k]! + (t - k) * (greys[k + 1]! - greys[k]!);
  }
}
