/** What frames of a plate told of the light on a Screen and around it: what the estimates of a dress are made from. */
import type { Quad } from '../../geometry/quad';
import type { Raster } from '../../image/image';
import { luminance } from '../../image/luminance';
import { quantile } from '../../statistics';
import type { GlassLight } from '../light/glare';
import type { MeasuredGrain } from '../light/grain';
import type { Rgb } from '../colour/levels';
import type { FoundFronts } from '../front/front-search';
import type { ScreenKind } from '../holdout/screen-kind';
import type { Proposal } from './proposal';

/** Everything scene-linear unless it says otherwise. */
export interface MatchEvidence {
  /** largest code value */
  readonly max: number;
  /** light of a code value */
  readonly decode: Float32Array;
  /** light to the code it is shown by, 0 to 1 */
  readonly shown: (light: number) => number;
  /** width of the slot by its height */
  readonly aspect: number;
  readonly referenceFrame: number;
  /** cells of the glass */
  readonly columns: number;
  readonly rows: number;
  /** places around the Screen */
  readonly around: readonly { readonly frame: number; readonly light: readonly number[] }[];
  /**
   * the darkest and the brightest of each picture that was looked at: a screen is a lamp, whose range stands beside
   * that of the shot and not only of its neighbours
   */
  readonly extremes: readonly { readonly frame: number; readonly range: readonly [number, number] }[];
  /** RGB of the cells of each frame that was looked at, NaN where one is not seen */
  readonly cells: readonly Float32Array[];
  /** places on the Screen, code values 0 to 1 */
  readonly inside: readonly (readonly number[])[];
  readonly grains: readonly MeasuredGrain[];
  /** radii of corners that told, heights of the slot */
  readonly rounds: readonly number[];
  /** px, of the glass edges */
  readonly spreads: readonly { readonly frame: number; readonly sigma: number }[];
  /** logarithm of the picture's light by frame, from the first one on: told by two halves of it */
  readonly lights: readonly { readonly frame: number; readonly halves: readonly [number, number] }[];
  /** the frame on which marks are looked for */
  readonly marked: { readonly picture: Raster; readonly corners: Quad } | null;
  /** share of a frame's time that the shutter is open, null where it is not known */
  readonly shutter: number | null;
  /** the glass's own light; null where nothing was looked at */
  readonly own: GlassLight | null;
  /** that the Screen shows most, code values 0 to 1 */
  readonly colour: Rgb;
  readonly kind: ScreenKind;
  /** what stands before it; null where nothing does, where it can't be told, and for Screens of one colour */
  readonly fronts: FoundFronts | null;
}

/** An estimate of a part of a dress; null where the plate does not tell. */
export type Estimate = (e: MatchEvidence) => Proposal | null;

/** Places on the screen without which its light is not told. By trial. */
const ENOUGH_INSIDE = 50;

/** Light as it is said: per cent of what is shown. */
export const percent = (e: MatchEvidence, light: number): string =>
  `${Math.round(100 * e.shown(Math.max(0, light)))} %`;

/** Light of a code value, 0 to 1. */
export const lightOf = (e: MatchEvidence, code: number): number => e.decode[Math.round(code * e.max)]!;

/** Light below which a share of what the old screen shows lies; NaN where it tells nothing. */
export function shownLight(e: MatchEvidence, share: number): number {
  if (e.inside.length < ENOUGH_INSIDE) return NaN;
  return quantile(
    e.inside.map((p) => luminance(lightOf(e, p[0]!), lightOf(e, p[1]!), lightOf(e, p[2]!))),
    share,
  );
}
