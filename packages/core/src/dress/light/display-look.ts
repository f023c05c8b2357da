/**
 * A real display's look over the fill: its pixels' grid at the device's own pitch, the bands of its scan, a tint and
 * noise of its panel, a darkening to its corners and with the angle of view, and the room that its cover glass mirrors.
 * The grid fades before the plate's pixels could no longer carry it (at two plate px a period it would alias: H.
 * Nyquist), so that it never beats. Sources: the mirror's share by the angle after C. Schlick, An Inexpensive BRDF
 * Model for Physically-based Rendering, 1994, with 4 % at right angles (glass).
 */
import { clamp } from '../../clamp';
import type { Quad } from '../../geometry/quad';
import { unitSquareToQuad } from '../../geometry/homography';
import { inverse } from '../../geometry/matrix3';
import { poseOf, USUAL_FOCAL } from '../../geometry/pose';
import { hash01 } from '../base/hash';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { Rgb } from '../colour/levels';
import type { Region } from '../base/region';

export interface DisplayLook {
  /** strength of the grid, 0 to 1 */
  readonly grid?: Animated;
  /** pixels of the device across the slot and down */
  readonly resolution?: readonly [number, number];
  /** darkening towards the slot's corners, 0 to 1 */
  readonly vignette?: Animated;
  /**
   * strength of dark bands that roll over a screen that is written line by line, 0 to 1; bands on the screen, screens a
   * second
   */
  readonly scan?: Animated;
  readonly scanBands?: number;
  readonly scanSpeed?: number;
  /** -1 warm to 1 cold */
  readonly tint?: Animated;
  /** how much it darkens as it is seen askew, 0 to 1 */
  readonly askew?: Animated;
  /** how much of the room its glass mirrors, 1 as bare glass */
  readonly mirror?: Animated;
  /** noise of the panel, share of its light */
  readonly noise?: Animated;
  /** another number gives another noise */
  readonly noiseSeed?: number;
}

/** {@link DisplayLook} on a frame. */
export interface LookOn {
  readonly grid: number;
  readonly resolution: readonly [number, number];
  readonly vignette: number;
  readonly scan: number;
  readonly bands: number;
  /** of the bands, turns */
  readonly phase: number;
  readonly tint: Rgb;
  readonly askew: number;
  readonly mirror: number;
  readonly noise: number;
  /** of the noise on this frame */
  readonly noiseSeed: number;
}

/** Light of the channels at the cold end of the tint; the warm end is its mirror image. */
const COLD: Rgb = [0.9, 0.98, 1.06];
const LOOK = {
  /** Bands of the scan where none are set. By trial. */
  bands: 1,
  /** Bands a frame where none is set. By trial. */
  speed: 0.3,
  /**
   * Plate px a period at which the grid is gone: it must vanish before it aliases (two px, the sampling theorem). By
   * trial.
   */
  gone: 2.5,
  /** Plate px a period at which it is full. By trial. */
  full: 4,
  /** Frames' noises between those of two seeds: longer than shots are. */
  seeds: 100_003,
  /** Share of light that bare glass mirrors at right angles: Fresnel's equation for an index of 1.5. */
  glass: 0.04,
} as const;

/** @returns null where nothing is to be seen of it */
export function lookAt(l: DisplayLook | undefined, frame: number, frameRate: number): LookOn | null {
  if (!l) return null;
  const at = (a: Animated | undefined): number => valueAt(a, frame, 0);
  const tint = at(l.tint);
  const on: LookOn = {
    grid: l.resolution ? at(l.grid) : 0,
    resolution: l.resolution ?? [1, 1],
    vignette: at(l.vignette),
    scan: at(l.scan),
    bands: l.scanBands ?? LOOK.bands,
    phase: ((l.scanSpeed ?? LOOK.speed) * frame) / frameRate,
    tint: COLD.map((v) => 1 + tint * (v - 1)) as unknown as Rgb,
    askew: at(l.askew),
    mirror: at(l.mirror),
    noise: at(l.noise),
    noiseSeed: frame + 1 + LOOK.seeds * (l.noiseSeed ?? 0),
  };
  return on.grid > 0 || on.vignette > 0 || on.scan > 0 || tint !== 0 || on.askew > 0 || on.mirror > 0 || on.noise > 0
    ? on
    : null;
}

/** Share of a grid's strength that a pitch of so many plate px can carry. */
export function gridFade(pitch: number): number {
  const t = clamp((pitch - LOOK.gone) / (LOOK.full - LOOK.gone), 0, 1);
  return t * t * (3 - 2 * t);
}

/** Share of light that glass mirrors, 0 to 1, by the cosine of the angle to its normal. Source: C. Schlick, An Inexpensive BRDF Model, 1994, for glass of index 1.5. */
export function mirrored(cosine: number): number {
  return LOOK.glass + (1 - LOOK.glass) * (1 - cosine) ** 5;
}

/**
 * Changes the element's light in place; alpha stays. Grid, scan and noise keep the mean.
 * @param picture size of the picture, px: its middle is where the lens looks; `aspect` of the slot; `room` light about
 * the Screen
 */
export function applyLook(
  element: Float32Array,
  region: Region,
  corners: Quad,
  look: LookOn,
  picture: { readonly width: number; readonly height: number },
  aspect: number,
  room: Rgb,
): void {
  const {
    grid,
    resolution: [across, down],
    vignette,
    scan,
    bands,
    phase,
    tint,
    askew,
    mirror,
    noise,
    noiseSeed,
  } = look;
  const m = inverse(unitSquareToQuad(corners));
  const tau = 2 * Math.PI;
  const f = USUAL_FOCAL * picture.width;
  const normal =
    askew > 0 || mirror > 0
      ? [2, 5, 8].map((i) => poseOf({ ...picture, focal: USUAL_FOCAL }, corners, aspect).pose.rotation[i]!)
      : null;
  for (let y = 0, k = 0; y < region.height; y++)
    for (let x = 0; x < region.width; x++, k += 4) {
      const alpha = element[k + 3]!;
      if (alpha === 0) continue;
      const px = region.x + x + 0.5;
      const py = region.y + y + 0.5;
      const w = 1 / (m[6]! * px + m[7]! * py + m[8]!);
      const s = (m[0]! * px + m[1]! * py + m[2]!) * w;
      const t = (m[3]! * px + m[4]! * py + m[5]!) * w;
      let light = 1;
      let mirrors = 0;
      if (grid > 0) {
        const ps = 1 / (across * Math.hypot((m[0]! - s * m[6]!) * w, (m[1]! - s * m[7]!) * w));
        const pt = 1 / (down * Math.hypot((m[3]! - t * m[6]!) * w, (m[4]! - t * m[7]!) * w));
        light += 0.5 * grid * (gridFade(ps) * Math.cos(tau * s * across) + gridFade(pt) * Math.cos(tau * t * down));
      }
      if (vignette > 0) light *= 1 - vignette * Math.min(1, 2 * ((s - 0.5) ** 2 + (t - 0.5) ** 2));
      if (scan > 0) light *= 1 + 0.5 * scan * Math.cos(tau * (bands * t - phase));
      if (noise > 0) light *= 1 + noise * (2 * hash01((region.y + y) * 8209 + region.x + x, noiseSeed) - 1);
      if (normal) {
        const dx = (px - picture.width / 2) / f;
        const dy = (py - picture.height / 2) / f;
        const cosine = Math.min(
          1,
          Math.abs(normal[0]! * dx + normal[1]! * dy + normal[2]!) / Math.sqrt(dx * dx + dy * dy + 1),
        );
        light *= 1 - askew * (1 - cosine);
        mirrors = mirror * mirrored(cosine);
      }
      for (let c = 0; c < 3; c++) element[k + c] = element[k + c]! * light * tint[c]! + alpha * mirrors * room[c]!;
    }
}
