/**
 * Slip: how far the picture of a corner lies from where the track puts it. What the corner looked like on a frame where
 * it was right (its likeness) is laid over a frame by the track and moved until it fits, to a fraction of a pixel; gain
 * and offset are free, and what disagrees (a glare, a finger) loses its weight. Source: B. Lucas and T. Kanade 1981
 * (the alignment), with J. Tukey's biweight.
 */
import { clamp } from '../clamp';
import type { Matrix3 } from '../geometry/matrix3';
import { mapPoint, scaleAt } from '../geometry/homography';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { insidePolygon } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import { CORNER_NAMES } from '../geometry/quad';
import type { RawLuma } from '../image/image';
import type { Pyramid, PyramidLevel } from '../image/pyramid';
import { buildPyramid, halve } from '../image/pyramid';
import { lightOf, lightSlope } from '../image/light';
import { viewDifference } from '../follow/picture/key-pictures';
import { grownPin } from '../pin/inset';
import type { Likeness } from './slip-fit';
import { correlation, fitStep, sample, searched } from './slip-fit';

export interface Slip {
  /** px of the frame from where the track puts the corner to where its likeness fits; null where that cannot be told */
  readonly by: Point | null;
  /** px per axis */
  readonly sigma: number;
  /** correlation with the likeness, -1 to 1 */
  readonly likeness: number;
  /** why it cannot be told, a sentence; null when it can */
  readonly reason: string | null;
}

const SLIP = {
  /** Samples along a side of the square that is compared. By trial. */
  samples: 33,
  /** Of the screen's shorter diagonal; half the square's width. By trial. */
  halfShare: 0.05,
  /** px of that at the least. By trial. */
  leastHalf: 9,
  /** px of that at the most. By trial. */
  mostHalf: 24,
  /**
   * Of the half width that is compared beyond the pin: an edge needs both its sides, the table beyond a thin bezel
   * does not belong. By trial.
   */
  beyondShare: 0.2,
  /** px at 1920 wide to each side in which a fit is looked for. By trial. */
  reach: 8,
  /** Correlation from which a fit is believed. By trial. */
  believed: 0.92,
  /** Grey, 0 to 255, below which there is nothing to fit. By trial. */
  leastContrast: 2.5,
  /** px at 1920 wide beyond which a fit tells nothing. By trial. */
  mostSigma: 1.2,
  /** px at 1920 wide of blur beyond which likenesses cannot be compared. By trial. */
  mostBlur: 9,
  /** Octaves of both directions together by which views may differ. By trial. */
  mostDifferent: 1.6,
  /**
   * Likeness by which another state of the device must be more like a frame than one whose view is nearer. By trial.
   */
  clearly: 0.02,
  /** Likeness from which no other state is tried. By trial. */
  same: 0.985,
  /** Steps of a fit at the most. By trial. */
  iterations: 14,
  /** px; a step below this ends it. By trial. */
  converged: 0.004,
  /** Of the likeness's contrast that no residual of a good fit exceeds much. By trial. */
  strayShare: 0.15,
} as const;

/** The square that is compared about a corner, px of the reference frame. */
interface CornerSquare {
  readonly at: Point;
  readonly half: number;
}

/**
 * The frame around a corner, as finely as the likeness shows it, as light: a corner that is seen smaller is blurred,
 * and in grey values blur moves an edge towards its dark side.
 * @param lift of light to about the steps of grey around the corner's own level
 */
function around(
  frame: RawLuma,
  h: Matrix3,
  { at: place, half }: CornerSquare,
  lift: number | null,
): { pyramid: Pyramid; level: number; lift: number } {
  const at = mapPoint(h, place);
  const scale = scaleAt(h, place);
  const reach = 1.6 * half * Math.max(scale, 0.2) + SLIP.reach * (frame.width / 1920) + 12;
  const level = clamp(Math.round(Math.log2((scale * 2 * half) / SLIP.samples)), 0, 3);
  const step = 1 << (level + 1);
  const [first] = buildPyramid(frame, 1, {
    x0: step * Math.floor((at[0] - reach) / step),
    y0: step * Math.floor((at[1] - reach) / step),
    x1: at[0] + reach,
    y1: at[1] + reach,
  });
  const pyramid: PyramidLevel[] = [first!];
  const { data } = first!;
  const own = lift ?? 1 / lightSlope(data.reduce((s, v) => s + v / data.length, 0));
  for (let i = 0; i < data.length; i++) data[i] = own * lightOf(data[i]!);
  while (pyramid.length < level + 2) {
    const last = pyramid.at(-1)!;
    pyramid.push({ ...halve(last), x0: last.x0 / 2, y0: last.y0 / 2 });
  }
  return { pyramid, level, lift: own };
}

function halfOf(pin: Quad): number {
  return clamp(
    SLIP.halfShare * Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3])),
    SLIP.leastHalf,
    SLIP.mostHalf,
  );
}

/**
 * @param h reference frame to the frame on which the corner is right
 * @returns null where there is too little of the corner in the picture, or no contrast
 */
export function lookAtCorner(frame: RawLuma, n: number, h: Matrix3, pin: Quad, corner: number): Likeness | null {
  const half = halfOf(pin);
  const { pyramid, level, lift } = around(frame, h, { at: pin[corner]!, half }, null);
  const image = pyramid[level]!;
  const k = 1 / (1 << level);
  const grown = grownPin(pin, SLIP.beyondShare * half);
  const sites: Point[] = [];
  const values: number[] = [];
  for (let j = 0; j < SLIP.samples; j++)
    for (let i = 0; i < SLIP.samples; i++) {
      const site: Point = [
        pin[corner]![0] + half * ((2 * i) / (SLIP.samples - 1) - 1),
        pin[corner]![1] + half * ((2 * j) / (SLIP.samples - 1) - 1),
      ];
      if (!insidePolygon(site, grown)) continue;
      const [x, y] = mapPoint(h, site);
      const v = sample(image, x * k, y * k);
      if (Number.isNaN(v)) continue;
      sites.push(site);
      values.push(v);
    }
  if (sites.length < 60) return null;
  const mean = values.reduce((s, v) => s + v / values.length, 0);
  const contrast = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2 / values.length, 0));
  return contrast < SLIP.leastContrast
    ? null
    : { corner, frame: n, view: h, sites, values: Float32Array.from(values), lift };
}

/**
 * Of several likenesses of a corner, one per state of the device, the one that the frame is like; its view nearest
 * where several are.
 */
export function likeliestSlip(looks: readonly Likeness[], frame: RawLuma, h: Matrix3, pin: Quad, blur = 0): Slip {
  const byView = [...looks].sort(
    (a, b) => viewDifference(a.view, h, pin[a.corner]!) - viewDifference(b.view, h, pin[b.corner]!),
  );
  let best: Slip | null = null;
  for (const look of byView) {
    const s = slipOf(look, frame, h, pin, blur);
    if (
      !best ||
      (s.by && !best.by) ||
      (Boolean(s.by) === Boolean(best.by) && s.likeness > best.likeness + SLIP.clearly)
    )
      best = s;
    if (best.by && best.likeness > SLIP.same) break;
  }
  return best!;
}

const untold = (reason: string, likeness = 0): Slip => ({ by: null, sigma: Infinity, likeness, reason });

/**
 * @param h reference frame to frame, by the track
 * @param blur px of the frame by which the corner is smeared
 */
export function slipOf(look: Likeness, frame: RawLuma, h: Matrix3, pin: Quad, blur = 0): Slip {
  if (blur > SLIP.mostBlur * (frame.width / 1920))
    return untold(`${CORNER_NAMES[look.corner]} is blurred by ${blur.toFixed(0)} px here.`);
  if (viewDifference(look.view, h, pin[look.corner]!) > SLIP.mostDifferent)
    return untold(
      `${CORNER_NAMES[look.corner]} is seen too differently here from its likeness: much larger, smaller or steeper.`,
    );
  const square = { at: pin[look.corner]!, half: halfOf(pin) };
  const { pyramid, level } = around(frame, h, square, look.lift);
  const k = 1 / (1 << level);
  const scale = frame.width / 1920;
  const places = new Float64Array(2 * look.sites.length);
  const name = CORNER_NAMES[look.corner];
  for (const [i, s] of look.sites.entries()) [places[2 * i], places[2 * i + 1]] = mapPoint(h, s);
  const rough = searched({ look, image: pyramid[level + 1]!, places, k: k / 2 }, SLIP.reach * scale);
  const fine = { look, image: pyramid[level]!, places, k };
  if (Number.isNaN(rough.likeness)) return untold(`Too little of ${name} is inside the picture.`);
  const mean = look.values.reduce((a, v) => a + v, 0) / look.values.length;
  const contrast = Math.sqrt(look.values.reduce((a, v) => a + (v - mean) ** 2, 0) / look.values.length);
  let at = rough.at;
  let sigma = Infinity;
  for (let it = 0; it < SLIP.iterations; it++) {
    const f = fitStep(fine, at, contrast * Math.max(SLIP.strayShare, 1.5 * 0.6 ** it));
    if (!f) return untold(`Around ${name} there is too little to tell a place by.`, rough.likeness);
    const length = Math.hypot(...f.step);
    const most = Math.min(1, 1.5 / Math.max(length, 1e-9));
    at = [at[0] + most * f.step[0], at[1] + most * f.step[1]];
    sigma = f.sigma;
    if (Math.hypot(...at) > 1.5 * SLIP.reach * scale)
      return untold(`${name} looks otherwise than its likeness: covered, changed or blurred.`, rough.likeness);
    if (length < SLIP.converged) break;
  }
  const likeness = correlation(fine, at);
  if (!(likeness > SLIP.believed))
    return untold(`${name} looks otherwise than its likeness: covered, changed or blurred.`, likeness);
  return sigma > SLIP.mostSigma * scale
    ? untold(`Around ${name} there is too little to tell a place by.`, likeness)
    : { by: at, sigma, likeness, reason: null };
}
