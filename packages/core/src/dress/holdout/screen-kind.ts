/** What the old screen is: made to be keyed, dark glass, a picture, or a plain light. */
import { luminance } from '../../image/luminance';
import { median, quantile } from '../../statistics';
import type { GlassLight } from '../light/glare';
import type { Rgb } from '../colour/levels';

/** A plain screen is lit, shows nothing and has no colour to go by. */
export type ScreenKind = 'keyed' | 'dark' | 'picture' | 'plain';

export interface ScreenSeen {
  /** its own light; null where none of it was seen */
  readonly own: GlassLight | null;
  /** light of the same cells at each moment, NaN where it was not seen */
  readonly moments: readonly Float32Array[];
  /** median colour, code values 0 to 1 */
  readonly colour: Rgb;
  /** of light, to code values 0 to 1 */
  readonly shown: (light: number) => number;
}

const KIND = {
  /** Chroma beyond which a screen is a coloured one, made to be keyed. By trial. */
  coloured: 0.12,
  /** Code value, a share of the range, below which glass is dark. By trial. */
  dark: 0.36,
  /**
   * Spread of light, from its darker to its brighter cells, beyond which a screen shows a picture and is neither dark
   * glass nor a screen for keying. By trial.
   */
  picture: 0.05,
  /** The same as code values, for what is no colour for keying. By trial. */
  tones: 0.065,
  /** The same of either colour difference: dark glass has no colours that differ from place to place. By trial. */
  hues: 0.06,
  /**
   * Mean change of a cell's light over the shot from which what it shows moves; a window that glides over dark glass
   * stays below it. By trial.
   */
  moving: 0.06,
  /** Of the cells that must move for the whole to. By trial. */
  pictureShare: 0.6,
} as const;

const lightAt = (v: ArrayLike<number>, k: number): number => luminance(v[3 * k]!, v[3 * k + 1]!, v[3 * k + 2]!);

/** From the darker to the brighter of many. */
function spread(values: readonly number[]): number {
  return quantile(values, 0.9) - quantile(values, 0.1);
}

/** Whether cells differ from each other, or most of them from moment to moment. */
function differs(own: GlassLight, moments: readonly Float32Array[]): boolean {
  const cells = Array.from({ length: own.values.length / 3 }, (_, k) => lightAt(own.values, k));
  const middle = median(cells);
  const between = spread(cells);
  const moving = median(
    cells.map((low, k) => {
      const seen = moments.map((c) => lightAt(c, k)).filter((v) => !Number.isNaN(v));
      return seen.length > 0 ? median(seen) - low : 0;
    }),
  );
  return (
    (between > KIND.picture && between > KIND.pictureShare * middle) ||
    (moving > KIND.moving && moving > KIND.pictureShare * middle)
  );
}

/** Whether it shows tones or colours that neither dark glass nor a plain light has. */
function hasTones(own: GlassLight, shown: (light: number) => number): boolean {
  const codes = Array.from({ length: own.values.length / 3 }, (_, k) =>
    [0, 1, 2].map((c) => shown(Math.max(0, own.values[3 * k + c]!))),
  );
  const tones = codes.map(([r, g, b]) => luminance(r!, g!, b!));
  const hues = [0, 2].map((c) => spread(codes.map((p, k) => p[c]! - tones[k]!)));
  return spread(tones) > KIND.tones || Math.max(...hues) > KIND.hues;
}

/** What a screen is, by its light over the shot. */
export function screenKind({ own, moments, colour, shown }: ScreenSeen): ScreenKind {
  if (own && differs(own, moments)) return 'picture';
  const chroma = Math.max(...colour) - median(colour);
  if (chroma > KIND.coloured) return 'keyed';
  if (own && hasTones(own, shown)) return 'picture';
  return Math.max(...colour) < KIND.dark ? 'dark' : 'plain';
}
