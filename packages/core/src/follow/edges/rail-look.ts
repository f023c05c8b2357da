/** The look of an edge across a side of the pin: the mean profile of light over its sites, and which part of it is the device's. */
import type { Point } from '../../geometry/point';
import type { PyramidLevel } from '../../image/pyramid';
import { median } from '../../statistics';
import type { EdgeLook } from './edge-look';
import { LOOK_STEP, bestShift } from './edge-look';
import { makeMatcher } from './edge-matcher';
import { derivativeKernel, respond, sampleProfile } from './edge-profile';
import type { Side } from './side-scan';

/** px; edges at most this far apart belong together. By trial. */
export const TOGETHER = 6;
/**
 * Share of the sites that must have their rail's look: half a side may stand before something of another brightness. By
 * trial.
 */
export const MANY = 0.48;
/** Likeness of a site to its rail's look, 0 to 1. By trial. */
const LIKE_ITSELF = 0.8;
/** px outwards from the pin beyond which an edge is not that of the glass. By trial. */
const OFF_GLASS = 2;

/** Which way a profile is taken: unit vectors along the side and out of the pin. */
type Across = Pick<Side, 'tangent' | 'outwards'>;

/**
 * The mean profile over the sites, as far out as the picture goes for most of them; null when that is next to nothing.
 */
export function meanProfile(
  image: PyramidLevel,
  sites: readonly Point[],
  { tangent, outwards }: Across,
  reach: number,
): Float32Array | null {
  for (let r = reach; r >= 4; r -= 2) {
    const taps = (2 * r) / LOOK_STEP + 1;
    const one = new Float32Array(taps);
    const sum = new Float32Array(taps);
    let used = 0;
    for (const at of sites) {
      if (!sampleProfile(image, at, outwards, tangent, LOOK_STEP, 1, one)) continue;
      for (let t = 0; t < taps; t++) sum[t]! += one[t]!;
      used++;
    }
    if (used > 0.5 * sites.length) return sum.map((v) => v / used);
  }
  return null;
}

/** Share of the strongest edge that one beside it must have to belong to a look. By trial. */
const BELONGS = 0.12;

/** Places, px, at which a profile rises or falls, by at least that share of its strongest edge. */
function edgesIn(profile: Float32Array, share: number): number[] {
  const steepness = respond(profile, derivativeKernel(0.6, LOOK_STEP)).map(Math.abs);
  const middle = (profile.length - 1) / 2;
  const least = share * steepness.reduce((most, v) => Math.max(most, v), 0);
  const places: number[] = [];
  for (let t = 1; t < steepness.length - 1; t++) {
    const v = steepness[t]!;
    if (v >= least && v >= steepness[t - 1]! && v >= steepness[t + 1]!) places.push((t - middle) * LOOK_STEP);
  }
  return places;
}

/** The innermost and outermost places, px, at which a profile still rises or falls, near the edges that were found. */
export function extent(profile: Float32Array, first: number, last: number): [number, number] {
  let [lo, hi] = [first, last];
  for (const x of edgesIn(profile, BELONGS)) {
    if (x >= first - TOGETHER && x < lo) lo = x;
    if (x <= last + TOGETHER && x > hi) hi = x;
  }
  return [lo, hi];
}

/** Share of the strongest edge that the glass's own must have to be believed before the pin. By trial. */
const SEEN = 0.35;
/** px by which a pin that somebody lays onto an edge that is seen may lie beside it. By trial. */
const LAID = 1;

/**
 * Where the glass ends, px. Dark glass in a dark bezel shows no edge there, or next to none, and shows one as soon as it
 * lights up: the pin lies on it, and the first edge that is seen is that of the rim.
 * @param first px; the innermost edge of the look @param pin px; where the pin lies
 */
export function glassEdge(profile: Float32Array, first: number, pin: number): number {
  if (Math.abs(pin - first) > OFF_GLASS) return first;
  const sample = LOOK_STEP * Math.round(pin / LOOK_STEP);
  return edgesIn(profile, SEEN).some((x) => Math.abs(x - sample) <= LAID) ? first : pin;
}

/** How far outwards a look lies at each site on the reference frame, px; null where the site has it not. */
export function shiftsAt(
  image: PyramidLevel,
  look: EdgeLook,
  sites: readonly Point[],
  { tangent, outwards }: Across,
): (number | null)[] {
  const matcher = makeMatcher(look, 1, 0);
  const one = new Float32Array(2 * (matcher.half + 6) + 1);
  return sites.map((at) => {
    if (!sampleProfile(image, at, outwards, tangent, matcher.step, 3, one)) return null;
    const hit = bestShift(matcher, one, 6, 0, 5);
    return hit && hit.likeness >= LIKE_ITSELF ? hit.shift : null;
  });
}

/** A part of a look, and where it lies at each site of its rail on the reference frame. */
export interface BareLook {
  readonly look: EdgeLook;
  /** as many as the rail has, in the same order */
  readonly sites: readonly Point[];
}

/** px by which a part of a look may lie off the whole of it. By trial. */
const MOST_OFF = 1;
/** Sites on each side of one over which what is beside it is evened out. By trial. */
const NEIGHBOURS = 3;

/**
 * A part of a look with sites of its own: seen in perspective a bezel is wider near the camera, so that its rim lies
 * farther from the glass at one end of a side than at the other, and the part by itself would turn the side. Null where
 * hardly a site has it, or it lies far off the whole.
 */
export function bareLook(
  image: PyramidLevel,
  part: EdgeLook | null,
  sites: readonly Point[],
  across: Across,
): BareLook | null {
  if (!part) return null;
  const shifts = shiftsAt(image, part, sites, across);
  const known = shifts.filter((s) => s !== null);
  if (known.length < MANY * sites.length || Math.abs(median(known)) > MOST_OFF) return null;
  const usual = median(known);
  const [nx, ny] = across.outwards;
  return {
    look: part,
    sites: sites.map(([x, y], i): Point => {
      const beside = shifts.slice(Math.max(0, i - NEIGHBOURS), i + NEIGHBOURS + 1).filter((s) => s !== null);
      const off = beside.length > 0 ? median(beside) : usual;
      return [x + off * nx, y + off * ny];
    }),
  };
}

/**
 * What is left of a look without the glass, whose edge the pin lies on; null where the look has no edge farther out.
 * @param offset px outwards from the pin at which the look's middle lies
 * @param edges px from there
 */
export function withoutGlass(look: EdgeLook, offset: number, edges: readonly number[]): EdgeLook | null {
  const beyond = [...edges, look.outside].filter((e) => offset + e > OFF_GLASS);
  if (beyond.length === 0 || offset + look.lo > OFF_GLASS) return null;
  const first = Math.min(...beyond);
  return { ...look, lo: (first - offset) / 2, glass: first, ofGlass: false };
}
