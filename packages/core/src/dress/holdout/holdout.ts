/**
 * Holdouts: what passes in front of the Screen and must stay. Each makes a matte of how much of the fill shows;
 * together the fill shows where all of them let it. A key goes by the screen's own colour, a difference by the dark or
 * lit glass, an outline by hand.
 */
import { clamp } from '../../clamp';
import { unitSquareToQuad } from '../../geometry/homography';
import { inverse } from '../../geometry/matrix3';
import { fillOutline } from '../../geometry/polygon';
import { extend, extendBy } from '../base/extend';
import type { PlaneOf, RidingOutline } from '../shape/outline-matte';
import { rideOf, ridingCover } from '../shape/outline-matte';
import type { Quad } from '../../geometry/quad';
import { luminance } from '../../image/luminance';
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { GlassLight } from '../light/glare';
import { glassLightAt } from '../light/glare';
import type { Region } from '../base/region';
import type { Apart } from '../front/front-matte';
import type { FoundFronts } from '../front/front-search';
import { gaussianMean } from '../shape/softness';

interface Common {
  readonly off?: boolean;
  readonly invert?: boolean;
  /** width of the matte's edge, px of the frame */
  readonly softness?: Animated;
  /** px of the frame by which what is held out grows (or, negative, shrinks) */
  readonly grow?: Animated;
}

export interface KeyHoldout extends Common {
  readonly kind: 'key';
  /** colours of the screen, code values 0 to 1, R G B each */
  readonly colours: readonly (readonly number[])[];
  /** strength of the key below which the fill is gone, and above which it is solid */
  readonly gone: number;
  readonly solid: number;
  /** marks on the screen up to so many px across are filled before the key is used */
  readonly crosses?: number;
}

export interface DifferenceHoldout extends Common {
  readonly kind: 'difference';
  /**
   * difference from the glass's own light, share of white as shown, below which the fill is solid and above which it is
   * gone
   */
  readonly solid: number;
  readonly gone: number;
}

/** Drawn by hand. */
export interface OutlineHoldout extends Common, RidingOutline {
  readonly kind: 'outline';
  /** lets the fill show again within it, where what stands before it in the list holds it out */
  readonly givesBack?: boolean;
}

/** Found in the plate frame by frame, where the plane does not show what it usually does. */
export interface FoundHoldout extends Common {
  readonly kind: 'found';
  readonly found: FoundFronts;
}

export type Holdout = KeyHoldout | DifferenceHoldout | OutlineHoldout | FoundHoldout;

/** Chroma of code values: Cb and Cr of ITU-R BT.709-6. */
function chroma(r: number, g: number, b: number): readonly [number, number] {
  const y = luminance(r, g, b);
  return [(b - y) / 1.8556, (r - y) / 1.5748];
}

/**
 * How far a colour may lie aside of the key's before that counts fully against it, shares of the key's chroma. By
 * trial.
 */
const ASIDE = 0.7;
/** Key below which something stands before the screen, its soft edge taken in. By trial. */
const COVERED = 0.95;
/** px of the soft edge of what stands before the screen. By trial. */
const SOFT_EDGE = 3;
/** Reach by which marks are closed, against half the width of their strokes: see the measuring of marks. By trial. */
const MARK_ROOM = 2;

/** Strength of the key of one colour: 1 as the key itself, 0 for greys and everything opposite. */
export function keyStrength(colour: readonly number[], r: number, g: number, b: number): number {
  const [kb, kr] = chroma(colour[0]!, colour[1]!, colour[2]!);
  const size = Math.hypot(kb, kr);
  if (size < 1e-4) return 0;
  const [cb, cr] = chroma(r, g, b);
  const along = (cb * kb + cr * kr) / size;
  const aside = Math.abs(cb * kr - cr * kb) / size;
  return Math.max(0, along - ASIDE * aside) / size;
}

const step = (v: number, from: number, to: number): number => {
  if (to === from) return v >= to ? 1 : 0;
  return clamp((v - from) / (to - from), 0, 1);
};

export interface HoldoutTask {
  readonly region: Region;
  /** code values of the plate in the region, shares of the range, RGB */
  readonly codes: Float32Array;
  readonly corners: Quad;
  readonly frame: number;
  readonly referenceFrame: number;
  readonly planeOf: PlaneOf;
  /** the plate's own curve, for light as it is shown */
  readonly shown: (light: number) => number;
  readonly glass: GlassLight | undefined;
  /** what was found to stand in front on this frame, told apart from what lies behind it */
  readonly fronts: ReadonlyMap<FoundHoldout, Apart>;
  /** picture px a plate px */
  readonly pixel: number;
}

function keyMatte(h: KeyHoldout, { codes, region, corners, pixel }: HoldoutTask): Float32Array {
  const n = region.width * region.height;
  const out = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    let best = 0;
    for (const c of h.colours)
      best = Math.max(best, keyStrength(c, codes[i * 3]!, codes[i * 3 + 1]!, codes[i * 3 + 2]!));
    out[i] = step(best, h.gone, h.solid);
  }
  const radius = ((h.crosses ?? 0) * pixel) / 2;
  if (radius < 1) return out;
  // Marks are closed within the pin alone, with the screen going on beyond its sides.
  const inside = insidePin(region, corners);
  const closed = out.map((v, i) => (inside[i] ? v : 1));
  extend(closed, region.width, region.height, radius, true);
  extend(closed, region.width, region.height, radius, false);
  const front = reachingIn(out, inside, region.width, region.height, radius / MARK_ROOM);
  return out.map((v, i) => (inside[i] && !front[i] ? Math.max(v, closed[i]!) : v));
}

/**
 * What reaches into the pin from beyond it, as fingertips do, but for strokes of marks that touch it: 1 where it covers
 * the screen. @param stroke half the width of a mark's strokes, px
 */
function reachingIn(
  matte: Float32Array,
  inside: Uint8Array,
  width: number,
  height: number,
  stroke: number,
): Uint8Array {
  const front = connected(matte, inside, width, height);
  const r = Math.max(1, Math.round(stroke));
  // What has no room for a stroke's width without its soft edge is a stroke; the edge of what has belongs to it.
  const wide = Float32Array.from(front, (v, i) => ((v && matte[i]! < 0.5) || !inside[i] ? 1 : 0));
  extendBy(wide, width, height, r, false);
  extendBy(wide, width, height, r + SOFT_EDGE, true);
  return front.map((v, i) => (v && wide[i]! > 0 ? 1 : 0));
}

/** What is covered and hangs together with what lies beyond the pin. */
function connected(matte: Float32Array, inside: Uint8Array, width: number, height: number): Uint8Array {
  const front = new Uint8Array(matte.length);
  const stack: number[] = [];
  const reach = (i: number): void => {
    if (front[i] || !inside[i] || matte[i]! >= COVERED) return;
    front[i] = 1;
    stack.push(i);
  };
  const beside = (i: number, each: (k: number) => void): void => {
    const x = i % width;
    if (x > 0) each(i - 1);
    if (x < width - 1) each(i + 1);
    if (i >= width) each(i - width);
    if (i < width * (height - 1)) each(i + width);
  };
  for (let i = 0; i < inside.length; i++) if (!inside[i]) beside(i, reach);
  while (stack.length > 0) beside(stack.pop()!, reach);
  return front;
}

/** How far each place is known of the screen itself and not of a mark drawn on it: 0 on marks, 1 elsewhere. */
export function awayFromMarks(h: KeyHoldout, t: HoldoutTask): Float32Array {
  const open = keyMatte({ ...h, crosses: 0 }, t);
  const closed = keyMatte(h, t);
  const { width, height } = t.region;
  const marks = closed.map((v, i) => Math.max(0, v - open[i]!));
  // The soft edge of a mark is part of it.
  extendBy(marks, width, height, Math.max(1, Math.round(2 * t.pixel)), true);
  return marks.map((v) => (v > 0.05 ? 0 : 1));
}

function insidePin(region: Region, corners: Quad): Uint8Array {
  const { x, y, width, height } = region;
  const mask = new Uint8Array(width * height);
  fillOutline(mask, { x0: x, y0: y, width, height, scale: 1 }, corners, 1);
  return mask;
}

function differenceMatte(h: DifferenceHoldout, t: HoldoutTask): Float32Array {
  const { region, codes, corners, glass, shown } = t;
  const out = new Float32Array(region.width * region.height).fill(1);
  if (!glass) return out;
  const m = inverse(unitSquareToQuad(corners));
  for (let y = 0, i = 0; y < region.height; y++)
    for (let x = 0; x < region.width; x++, i++) {
      const px = region.x + x + 0.5;
      const py = region.y + y + 0.5;
      const w = 1 / (m[6]! * px + m[7]! * py + m[8]!);
      const s = (m[0]! * px + m[1]! * py + m[2]!) * w;
      const v = (m[3]! * px + m[4]! * py + m[5]!) * w;
      if (s < 0 || v < 0 || s > 1 || v > 1) continue;
      let far = 0;
      for (let c = 0; c < 3; c++)
        far = Math.max(far, Math.abs(codes[i * 3 + c]! - shown(glassLightAt(glass, s, v, c))));
      out[i] = 1 - step(far, h.solid, h.gone);
    }
  return out;
}

function outlineMatte(h: OutlineHoldout, t: HoldoutTask): Float32Array {
  const at = rideOf(h, t);
  if (!at) return new Float32Array(t.region.width * t.region.height).fill(1);
  return ridingCover(t.region, h, t.frame, at).map((v) => 1 - v);
}

function foundMatte(h: FoundHoldout, { region, fronts }: HoldoutTask): Float32Array {
  const out = new Float32Array(region.width * region.height).fill(1);
  const apart = fronts.get(h);
  if (!apart) return out;
  const { part, alpha } = apart;
  for (let y = 0, k = 0; y < part.height; y++) {
    let i = (y + part.y - region.y) * region.width + part.x - region.x;
    for (let x = 0; x < part.width; x++) out[i++] = 1 - alpha[k++]!;
  }
  return out;
}

const MATTES = { key: keyMatte, difference: differenceMatte, outline: outlineMatte, found: foundMatte } as const;

/** How much of the fill one holdout lets show: 0 to 1 per pixel of the region. */
export function holdoutMatte(h: Holdout, t: HoldoutTask): Float32Array {
  const { width, height } = t.region;
  const matte = MATTES[h.kind](h as never, t);
  const soft = t.pixel * valueAt(h.softness, t.frame, 0);
  const grow = t.pixel * valueAt(h.grow, t.frame, 0);
  extend(matte, width, height, Math.abs(grow), grow < 0);
  gaussianMean(matte, width, height, soft / 2);
  if (h.invert) for (let i = 0; i < matte.length; i++) matte[i] = 1 - matte[i]!;
  return matte;
}

const isGivingBack = (h: Holdout): boolean => h.kind === 'outline' && (h.givesBack ?? false);

/** All holdouts together, in their order; null where there are none. */
export function matteOf(holdouts: readonly Holdout[], t: HoldoutTask): Float32Array | null {
  let all: Float32Array | null = null;
  for (const h of holdouts) {
    if (h.off) continue;
    const m = holdoutMatte(h, t);
    // What is given back before anything is held out changes nothing.
    if (isGivingBack(h)) all = all && all.map((v, i) => Math.max(v, 1 - m[i]!));
    else if (!all) all = m;
    else for (let i = 0; i < m.length; i++) all[i]! *= m[i]!;
  }
  return all;
}
