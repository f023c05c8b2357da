/**
 * The fill's levels: what its black and white become in the plate's light, and how its colours are bent on the way.
 * Gamma acts on the fill's own values while it is read; everything else is one affine map of light, which commutes with
 * filtering, defocus and motion blur. Sources: luminance weights of ITU-R BT.709-6; the hue rotation of W3C Filter
 * Effects Level 1, section 9.6.2 (hueRotate).
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, multiply } from '../../geometry/matrix3';
import { kernelsFor } from '../../image/kernels';
import { LUMINANCE } from '../../image/luminance';
import { hash01 } from '../base/hash';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import { MAPS_AT } from '../base/kernel-memory';

/** R, G, B. */
export type Rgb = readonly [number, number, number];

/** R, G, B, each steady or with keys. */
export type AnimatedRgb = readonly [Animated, Animated, Animated];

export interface Levels {
  /** scene-linear light of the plate that the fill's black and white become, R, G, B */
  readonly black?: AnimatedRgb;
  readonly white?: AnimatedRgb;
  /** lifts the dark end and leaves the bright one, as a share of the range */
  readonly lift?: Animated;
  readonly gamma?: Animated;
  readonly gain?: Animated;
  /** beside the common ones: added to lift, times gamma and gain */
  readonly channels?: {
    readonly lift?: readonly Animated[];
    readonly gamma?: readonly Animated[];
    readonly gain?: readonly Animated[];
  };
  readonly saturation?: Animated;
  /** -1 colder to 1 warmer; -1 greener to 1 more magenta */
  readonly temperature?: Animated;
  readonly tint?: Animated;
  /** degrees */
  readonly hue?: Animated;
  readonly opacity?: Animated;
  /** made-up flicker: share of the light, changes a second, seed */
  readonly flicker?: { readonly depth: Animated; readonly rate: number; readonly seed: number };
  /** how much of the plate's own measured flicker the fill follows, 0 to 1 */
  readonly sync?: Animated;
  /** light of the plate about the Screen by frame, 1 on the reference frame */
  readonly measured?: { readonly from: number; readonly values: readonly number[] };
}

/** {@link Levels} on a frame: light out = matrix * light in + offset * alpha. */
export interface LevelsMap {
  readonly matrix: Matrix3;
  readonly offset: Rgb;
  readonly opacity: number;
}

function saturate(s: number): number[] {
  return [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => (1 - s) * LUMINANCE[c]! + (r === c ? s : 0)));
}

/** W3C's hue rotation as a matrix on R, G, B. */
export function rotateHue(degrees: number): Matrix3 {
  if (degrees === 0) return IDENTITY;
  const c = Math.cos((degrees * Math.PI) / 180);
  const s = Math.sin((degrees * Math.PI) / 180);
  return [
    0.213 + c * 0.787 - s * 0.213,
    0.715 - c * 0.715 - s * 0.715,
    0.072 - c * 0.072 + s * 0.928,
    0.213 - c * 0.213 + s * 0.143,
    0.715 + c * 0.285 + s * 0.14,
    0.072 - c * 0.072 - s * 0.283,
    0.213 - c * 0.213 - s * 0.787,
    0.715 - c * 0.715 + s * 0.715,
    0.072 + c * 0.928 + s * 0.072,
  ];
}

/** Stops by which the ends of temperature and tint move a channel. By trial. */
const BALANCE_STOPS = 0.5;

/** Gains of the channels that keep the luminance of white. */
function balance(temperature: number, tint: number): Rgb {
  const g = [2 ** (BALANCE_STOPS * temperature), 2 ** (-BALANCE_STOPS * tint), 2 ** (-BALANCE_STOPS * temperature)];
  const y = g.reduce((s, v, i) => s + v * LUMINANCE[i]!, 0);
  return g.map((v) => v / y) as unknown as Rgb;
}

function flickerAt({ depth, rate, seed }: NonNullable<Levels['flicker']>, frame: number, frameRate: number): number {
  const t = (frame / frameRate) * rate;
  const i = Math.floor(t);
  const f = t - i;
  const k = f * f * (3 - 2 * f);
  return 1 + valueAt(depth, frame, 0) * (2 * (hash01(i, seed) * (1 - k) + hash01(i + 1, seed) * k) - 1);
}

const each = (list: readonly Animated[] | undefined, frame: number, none: number): number[] =>
  [0, 1, 2].map((i) => valueAt(list?.[i], frame, none));

/** The gamma by which the fill's own light is bent while it is read. */
export function gammaAt(l: Levels, frame: number): Rgb {
  return each(l.channels?.gamma, frame, 1).map((v) => Math.max(0.05, v * valueAt(l.gamma, frame, 1))) as unknown as Rgb;
}

/** The levels on one frame, their keyed numbers worked out. @param frameRate frames a second, for what goes by time */
export function levelsAt(l: Levels, frame: number, frameRate: number): LevelsMap {
  const lifts = each(l.channels?.lift, frame, 0).map((v) => v + valueAt(l.lift, frame, 0));
  const gains = each(l.channels?.gain, frame, 1).map((v) => v * valueAt(l.gain, frame, 1));
  const white = balance(valueAt(l.temperature, frame, 0), valueAt(l.tint, frame, 0));
  const black = each(l.black, frame, 0);
  const top = each(l.white, frame, 1);
  const synced = 1 + valueAt(l.sync, frame, 0) * ((l.measured?.values[frame - l.measured.from] ?? 1) - 1);
  const light = synced * (l.flicker ? flickerAt(l.flicker, frame, frameRate) : 1);
  const bent = multiply(rotateHue(valueAt(l.hue, frame, 0)), saturate(valueAt(l.saturation, frame, 1)));
  const range = [0, 1, 2].map((i) => top[i]! - black[i]!);
  return {
    opacity: clamp(valueAt(l.opacity, frame, 1), 0, 1),
    matrix: bent.map((v, k) => {
      const i = Math.floor(k / 3);
      return v * white[i]! * (gains[i]! - lifts[i]!) * range[i]! * light;
    }),
    // Haze grows with the plate's light too; flicker that is made up is the screen's own.
    offset: [0, 1, 2].map((i) => synced * black[i]! + lifts[i]! * range[i]! * light) as unknown as Rgb,
  };
}

/** Maps premultiplied RGBA in place. */
export function applyLevels(data: Float32Array, { matrix: m, offset: o, opacity }: LevelsMap): void {
  const wasm = kernelsFor(data);
  if (wasm) {
    wasm.memory.set(
      [m[0]!, m[3]!, m[6]!, 0, m[1]!, m[4]!, m[7]!, 0, m[2]!, m[5]!, m[8]!, 0, ...o, 1].map((v) => opacity * v),
      MAPS_AT / 4,
    );
    wasm.run.mapLight(data.byteOffset, data.length / 4, MAPS_AT);
    return;
  }
  const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = m as unknown as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const [o0, o1, o2] = o;
  for (let k = 0; k < data.length; k += 4) {
    const a = data[k + 3]!;
    if (a === 0) continue;
    const r = data[k]!;
    const g = data[k + 1]!;
    const b = data[k + 2]!;
    data[k] = opacity * (m0 * r + m1 * g + m2 * b + o0 * a);
    data[k + 1] = opacity * (m3 * r + m4 * g + m5 * b + o1 * a);
    data[k + 2] = opacity * (m6 * r + m7 * g + m8 * b + o2 * a);
    data[k + 3] = opacity * a;
  }
}
