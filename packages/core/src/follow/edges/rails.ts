/**
 * Rails: the long straight edges along the sides of a pin on the reference frame (the edge of the glass, the bezel's
 * outer edge), each as a row of sub-pixel sites. Dark, blank and green glass is followed by them alone.
 *
 * A side is scanned across: at every offset the derivatives of many short profiles are gathered, and the median of
 * their signed values tells a real edge, which all of them see, from texture and noise, which they see at random.
 */
import { clamp } from '../../clamp';
import { outwardsOf } from '../../geometry/line';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { insidePolygon } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import { SIGMA_PER_DEVIATION, median } from '../../statistics';
import type { EdgeLook } from './edge-look';
import { LOOK_STEP, bestShift, makeMatcher } from './edge-look';
import { derivativeKernel, lightStep, respond, sampleInside, sampleProfile } from './edge-profile';

export interface Rail {
  /** side of the pin: 0 top, 1 right, 2 bottom, 3 left */
  readonly side: number;
  /** px of the reference frame outwards from the pin's side */
  readonly offset: number;
  /** true for the edge that the pin lies on */
  readonly inner: boolean;
  /** sub-pixel sites on the reference frame */
  readonly sites: readonly Point[];
  /** share of the side's length at each site, 0 to 1 */
  readonly along: readonly number[];
  /** unit vector along the side */
  readonly tangent: Point;
  /** unit vector out of the pin, across the side */
  readonly outwards: Point;
  /**
   * smears across the side, px of the reference, between which the rail is used: neighbours that smear into one another
   * pull each other's places, so they are looked for as one from then on
   */
  readonly smears: readonly [from: number, to: number];
  /** typical derivative across the strongest edge, signed, light per px */
  readonly strength: number;
  /** px by which compression may well have moved it as a whole: a faint edge is easily shifted */
  readonly doubt: number;
  readonly look: EdgeLook;
  /** the look without the glass, where that is part of it: the glass may show anything; null where nothing else is left */
  readonly bare: EdgeLook | null;
  /**
   * true for a line far beside the pin's side where nearer ones are clear: it tells which line is which, not where the
   * plane is, since it may lie beside it
   */
  readonly witness: boolean;
}

const RAILS = {
  /** px between the sites along a side. By trial. */
  spacing: 4,
  /** Sites that a short side has. By trial. */
  leastSites: 14,
  /** Sites that a long side has; more cost time and add little, since neighbours share their errors. By trial. */
  mostSites: 90,
  /** Of the shorter diagonal; how far a side is scanned to each side of the pin. By trial. */
  reachShare: 0.1,
  /** px of that at the least: corners dropped by eye lie that far off. By trial. */
  leastReach: 24,
  /** px of that at the most. By trial. */
  mostReach: 56,
  /** px within which an edge counts as the pin's own. By trial. */
  own: 5,
  /** Of the shorter diagonal, added to that. By trial. */
  ownShare: 0.012,
  /** Times that distance beyond which edges are used only where a side has none nearer. By trial. */
  far: 3,
  /**
   * Share of the sites that must have their rail's look: half a side may stand before something of another
   * brightness. By trial.
   */
  many: 0.48,
  /** Likeness of a site to its rail's look, 0 to 1. By trial. */
  likeItself: 0.8,
  /** px; edges at most this far apart belong together. By trial. */
  together: 6,
  /** px beyond its outermost edges that a look reaches. By trial. */
  margin: 2,
  /** px; edges this near to each other may smear into one another. By trial. */
  withinSmear: 22,
  /** Standard errors of the median derivative from which an edge is believed. By trial. */
  believed: 6,
  /** 8-bit steps a px; what rises less is no edge. By trial. */
  least: 0.25,
  /** px between the samples of a scan. By trial. */
  step: 0.5,
  /** px; smear up to which a line far beside the side is looked for: one ramp looks like the next. By trial. */
  mostWitnessSmear: 12,
  /** Share of the strongest edge of a side that a near one must have for far ones to be witnesses alone. By trial. */
  share: 0.1,
  /** Share of the strongest edge below which one adds nothing. By trial. */
  adds: 0.04,
  /** Edges of a side that are told apart. By trial. */
  mostPeaks: 6,
  /** px along the side over which a site's profile is the mean, at the most. By trial. */
  mostWide: 5,
  /** px to each side whose mean light tells how much light a code step makes there. By trial. */
  beside: 2,
  /**
   * Share of the strongest edge around the pin below which one is an artefact of compression beside it, or adds
   * nothing. By trial.
   */
  faint: 0.02,
  /** px outwards from the pin beyond which an edge is not that of the glass. By trial. */
  offGlass: 2,
  /** 8-bit steps that compression is wrong by along a whole edge. By trial. */
  coding: 1,
  /** px of doubt that are told apart. By trial. */
  mostDoubt: 3,
} as const;
const APART = RAILS.margin + 0.5;

export interface Scan {
  readonly sites: {
    readonly at: Point;
    readonly s: number;
    /** slope of light, by which an edge's place is told, and the same in code steps, by which edges are told apart */
    readonly light: Float32Array;
    readonly response: Float32Array;
  }[];
  readonly median: Float64Array;
  readonly error: Float64Array;
}

/**
 * Slopes of light as slopes of the picture's code values: what compression and the eye tell apart. In light the edge of
 * dark glass in a dark bezel is nothing beside a bright device's outline.
 */
function inSteps(slope: Float32Array, light: Float32Array): Float32Array {
  const beside = RAILS.beside / RAILS.step;
  return slope.map((v, t) => {
    const from = Math.max(0, t - beside);
    const to = Math.min(light.length - 1, t + beside);
    let sum = 0;
    for (let i = from; i <= to; i++) sum += light[i]!;
    return v / lightStep(sum / (to - from + 1));
  });
}

function scanSide(
  image: PyramidLevel,
  a: Point,
  b: Point,
  n: Point,
  reach: number,
  slope: number,
  ignore: readonly (readonly Point[])[],
): Scan | null {
  const length = distance(a, b);
  const count = Math.round(clamp(length / RAILS.spacing, RAILS.leastSites, RAILS.mostSites));
  const tangent: Point = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const taps = 2 * Math.round(reach / RAILS.step) + 1;
  const kernel = derivativeKernel(1, RAILS.step);
  const profile = new Float32Array(taps);
  const sites: Scan['sites'] = [];
  for (let i = 0; i < count; i++) {
    const s = 0.03 + (0.94 * (i + 0.5)) / count;
    const shift = slope * (s - 0.5);
    const at: Point = [a[0] + s * (b[0] - a[0]) + shift * n[0], a[1] + s * (b[1] - a[1]) + shift * n[1]];
    if (ignore.some((p) => insidePolygon(at, p))) continue;
    const width = Math.min(length / count, RAILS.mostWide);
    sampleInside(image, { at, normal: n, tangent, step: RAILS.step, width }, profile);
    const light = respond(profile, kernel);
    sites.push({ at, s, light, response: inSteps(light, profile) });
  }
  if (sites.length < RAILS.leastSites / 2) return null;
  const middle = new Float64Array(taps);
  const error = new Float64Array(taps);
  for (let t = 0; t < taps; t++) {
    const seen = sites.map((q) => q.response[t]!).filter(Number.isFinite);
    if (seen.length < RAILS.leastSites / 2) continue;
    const m = median(seen);
    middle[t] = m;
    error[t] =
      (SIGMA_PER_DEVIATION * 1.2533 * median(seen.map((v) => Math.abs(v - m)))) / Math.sqrt(seen.length) + 1e-6;
  }
  return { sites, median: middle, error };
}

/**
 * Scans a side at several slopes and keeps the one along which an edge near the side stands out best.
 * @param turn 1 when the pin's corners run clockwise on the picture, else -1
 */
export function scanAcross(
  image: PyramidLevel,
  a: Point,
  b: Point,
  turn: number,
  reach: number,
  own: number,
  ignore: readonly (readonly Point[])[],
  steepest = 6,
): { best: Scan | null; tangent: Point; outwards: Point } {
  const length = distance(a, b);
  const tangent: Point = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const outwards = outwardsOf(a, b, turn);
  let best: Scan | null = null;
  let bestScore = 0;
  for (let slope = -steepest; slope <= steepest; slope += 1.5) {
    const scan = scanSide(image, a, b, outwards, reach, slope, ignore);
    if (!scan) continue;
    const middle = scan.median.length >> 1;
    let score = 0;
    for (let t = 0; t < scan.median.length; t++)
      score = Math.max(score, Math.abs(scan.median[t]!) / (1 + (Math.abs(t - middle) * RAILS.step) / (4 * own)));
    score *= 1 - 0.02 * Math.abs(slope);
    if (score > bestScore) [best, bestScore] = [scan, score];
  }
  return { best, tangent, outwards };
}

/** The edges that a scan shows beyond doubt, strongest first. */
export function edgesOf({ median, error }: Scan, reach: number): Peak[] {
  const peaks: Peak[] = [];
  for (let t = 2; t < median.length - 2; t++) {
    const m = Math.abs(median[t]!);
    if (m < Math.abs(median[t - 1]!) || m <= Math.abs(median[t + 1]!)) continue;
    if (m > RAILS.believed * error[t]! && m > RAILS.least)
      peaks.push({ t, offset: t * RAILS.step - reach, strength: median[t]! });
  }
  return peaks.sort((p, q) => Math.abs(q.strength) - Math.abs(p.strength));
}

/** Taps within which the steepest rise of light lies from that of code values, which leans towards the dark. By trial. */
const LEANS = 2;

/** Where light rises or falls (`sign`) most near a tap, taps. */
function peakOfLight(light: Float32Array, near: number, sign: number): number {
  const v = (t: number): number => sign * light[t]!;
  let at = near;
  for (let t = Math.max(1, near - LEANS); t <= Math.min(light.length - 2, near + LEANS); t++) if (v(t) > v(at)) at = t;
  const bend = v(at - 1) - 2 * v(at) + v(at + 1);
  const sub = bend < 0 ? (0.5 * (v(at - 1) - v(at + 1))) / bend : 0;
  return at + clamp(sub, -1, 1);
}

/** Where each site of a scan crosses one of its edges, px across the side (outwards), and its share along it. */
export function crossings(
  scan: Scan,
  p: Peak,
  reach: number,
): { readonly at: Point; readonly s: number; readonly d: number }[] {
  const sign = Math.sign(p.strength);
  const out: { at: Point; s: number; d: number }[] = [];
  for (const q of scan.sites) {
    let at = p.t;
    const v = (t: number): number => sign * q.response[t]!;
    for (let t = Math.max(1, p.t - 4); t <= Math.min(q.response.length - 2, p.t + 4); t++) if (v(t) > v(at)) at = t;
    if (
      at < 1 ||
      at > q.response.length - 2 ||
      !(v(at) >= 0.35 * Math.abs(p.strength) && v(at) >= v(at - 1) && v(at) >= v(at + 1))
    )
      continue;
    out.push({ at: q.at, s: q.s, d: peakOfLight(q.light, at, sign) * RAILS.step - reach });
  }
  return out;
}

/**
 * @param image level 0 of the reference frame, or a window of it that holds the pin and its surroundings
 * @param ignore outlines in which no site may lie
 */
export function findRails(pin: Quad, image: PyramidLevel, ignore: readonly (readonly Point[])[]): Rail[] {
  const turn = signedArea(pin) > 0 ? 1 : -1;
  const size = Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3]));
  const reach = RAILS.step * Math.round(clamp(RAILS.reachShare * size, RAILS.leastReach, RAILS.mostReach) / RAILS.step);
  const own = Math.max(RAILS.own, RAILS.ownShare * size);
  const rails: Rail[] = [];
  for (let side = 0; side < 4; side++) {
    const { best, tangent, outwards } = scanAcross(image, pin[side]!, pin[(side + 1) % 4]!, turn, reach, own, ignore);
    if (best) rails.push(...railsOfSide(image, best, side, reach, own, tangent, outwards));
  }
  const strongest = Math.max(0, ...rails.map((r) => Math.abs(r.strength)));
  return rails.filter((r) => Math.abs(r.strength) >= RAILS.faint * strongest);
}

/**
 * The mean profile over the sites, as far out as the picture goes for most of them; null when that is next to nothing.
 */
function meanProfile(
  image: PyramidLevel,
  sites: readonly Point[],
  n: Point,
  tangent: Point,
  reach: number,
): Float32Array | null {
  for (let r = reach; r >= 4; r -= 2) {
    const taps = (2 * r) / LOOK_STEP + 1;
    const one = new Float32Array(taps);
    const sum = new Float32Array(taps);
    let used = 0;
    for (const at of sites) {
      if (!sampleProfile(image, at, n, tangent, LOOK_STEP, 1, one)) continue;
      for (let t = 0; t < taps; t++) sum[t]! += one[t]!;
      used++;
    }
    if (used > 0.5 * sites.length) return sum.map((v) => v / used);
  }
  return null;
}

export interface Peak {
  readonly t: number;
  readonly offset: number;
  readonly strength: number;
}

/** Edges that stand close together are one rail: a bezel's rim is told by its look as a whole. */
function groupPeaks(peaks: readonly Peak[]): Peak[][] {
  const groups: Peak[][] = [];
  for (const p of [...peaks].sort((a, b) => a.offset - b.offset)) {
    const last = groups.at(-1);
    if (last && p.offset - last.at(-1)!.offset <= RAILS.together && p.offset - last[0]!.offset <= 2 * RAILS.together)
      last.push(p);
    else groups.push([p]);
  }
  return groups;
}

function railsOfSide(
  image: PyramidLevel,
  scan: Scan,
  side: number,
  reach: number,
  own: number,
  tangent: Point,
  n: Point,
): Rail[] {
  const peaks = edgesOf(scan, reach);
  const near = peaks.filter((p) => Math.abs(p.offset) <= RAILS.far * own);
  const railsOf = (usable: readonly Peak[]): Rail[] => {
    const kept = strongest(usable);
    const nearest = kept
      .filter((p) => Math.abs(p.offset) <= own)
      .sort((p, q) => Math.abs(p.offset) - Math.abs(q.offset))[0];
    return joined(groupPeaks(kept), (group) => {
      const inner = nearest !== undefined && group.includes(nearest);
      const rail = railOf(image, scan, group, inner, side, reach, tangent, n);
      return rail && { ...rail, inner, witness: false };
    });
  };
  const hasNear = near.some((p) => Math.abs(p.strength) > RAILS.share * Math.abs(peaks[0]!.strength));
  const fromNear = hasNear ? railsOf(near) : [];
  // Edges that stand out from texture alone are none that each site has.
  if (fromNear.length === 0) return railsOf(peaks);
  const far = strongest(peaks.filter((p) => !near.includes(p)));
  const witnesses = groupPeaks(far).flatMap((group): Rail[] => {
    const rail = railOf(image, scan, group, false, side, reach, tangent, n);
    const to = Math.min(RAILS.mostWitnessSmear, ...near.map((p) => gapBetween([p], group) - APART));
    return rail && to > 0 ? [{ ...rail, inner: false, smears: [0, to], witness: true }] : [];
  });
  return [...fromNear, ...witnesses];
}

/** Edges that add something to the strongest of them. */
function strongest(peaks: readonly Peak[]): Peak[] {
  return peaks
    .filter((p) => Math.abs(p.strength) > RAILS.adds * Math.abs(peaks[0]!.strength))
    .slice(0, RAILS.mostPeaks);
}

/** px between two groups of edges that do not overlap, in either order. */
function gapBetween(a: readonly Peak[], b: readonly Peak[]): number {
  return Math.max(b[0]!.offset - a.at(-1)!.offset, a[0]!.offset - b.at(-1)!.offset);
}

/**
 * Rails of groups of edges, from the inside outwards. The two nearest become one from the smear on that closes their
 * gap, and so on, until what is left lies too far apart.
 */
function joined(groups: readonly Peak[][], make: (group: readonly Peak[]) => Omit<Rail, 'smears'> | null): Rail[] {
  const out: Rail[] = [];
  const open = groups.map((group) => ({ group, from: 0, rail: make(group), apart: false }));
  for (;;) {
    let least = -1;
    let gap: number = RAILS.withinSmear;
    for (let i = 0; i + 1 < open.length; i++) {
      const [a, b] = [open[i]!, open[i + 1]!];
      const g = gapBetween(a.group, b.group);
      if (!a.apart && g < gap && b.group.at(-1)!.offset - a.group[0]!.offset < 2 * RAILS.withinSmear)
        [least, gap] = [i, g];
    }
    if (least < 0) break;
    const [a, b] = [open[least]!, open[least + 1]!];
    const group = [...a.group, ...b.group];
    const rail = make(group);
    const from = Math.max(a.from, b.from, gap - APART);
    if (!rail) {
      a.apart = true;
      continue;
    }
    for (const q of [a, b]) if (q.rail && q.from < from) out.push({ ...q.rail, smears: [q.from, from] });
    open.splice(least, 2, { group, from, rail, apart: b.apart });
  }
  for (const q of open) if (q.rail) out.push({ ...q.rail, smears: [q.from, Infinity] });
  return out;
}

/** Share of the strongest edge that one beside it must have to belong to a look. By trial. */
const BELONGS = 0.12;

/** The innermost and outermost places, px, at which a profile still rises or falls, near the edges that were found. */
function extent(profile: Float32Array, first: number, last: number): [number, number] {
  const slope = respond(profile, derivativeKernel(0.6, LOOK_STEP));
  const middle = (profile.length - 1) / 2;
  let strongest = 0;
  for (const v of slope) strongest = Math.max(strongest, Math.abs(v));
  let [lo, hi] = [first, last];
  for (let t = 1; t < slope.length - 1; t++) {
    const x = (t - middle) * LOOK_STEP;
    const v = Math.abs(slope[t]!);
    if (v < BELONGS * strongest || v < Math.abs(slope[t - 1]!) || v < Math.abs(slope[t + 1]!)) continue;
    if (x >= first - RAILS.together && x < lo) lo = x;
    if (x <= last + RAILS.together && x > hi) hi = x;
  }
  return [lo, hi];
}

/** Sites on the strongest edge of a group, its look, and the sites again where that look lies exactly. */
function railOf(
  image: PyramidLevel,
  scan: Scan,
  group: readonly Peak[],
  inner: boolean,
  side: number,
  reach: number,
  tangent: Point,
  n: Point,
): Omit<Rail, 'inner' | 'smears' | 'witness'> | null {
  const p = group.reduce((b, q) => (Math.abs(q.strength) > Math.abs(b.strength) ? q : b));
  const hits = crossings(scan, p, reach);
  const points = hits.map(({ at, d }): Point => [at[0] + d * n[0], at[1] + d * n[1]]);
  const along = hits.map((q) => q.s);
  if (points.length < RAILS.leastSites / 2 || points.length < 0.3 * scan.sites.length) return null;
  const edges = group.map((q) => q.offset - p.offset);
  const profile = meanProfile(
    image,
    points,
    n,
    tangent,
    2 * Math.ceil((Math.max(-Math.min(...edges), Math.max(...edges)) + RAILS.together + RAILS.margin) / 2),
  );
  if (!profile) return null;
  const [glass, outside] = extent(profile, Math.min(...edges), Math.max(...edges));
  const look: EdgeLook = {
    profile,
    lo: glass - RAILS.margin,
    hi: outside + RAILS.margin,
    glass,
    outside,
    ofGlass: inner,
  };
  const shifts = shiftsAt(image, look, points, { tangent, normal: n });
  // Where one texture meets another there is a mean look, but hardly a site that has it.
  if (shifts.filter((s) => s !== null).length < RAILS.many * points.length) return null;
  const exact = points.map(([x, y], i): Point => {
    const shift = shifts[i] ?? 0;
    return [x + shift * n[0], y + shift * n[1]];
  });
  return {
    side,
    offset: p.offset,
    sites: exact,
    along,
    tangent,
    outwards: n,
    strength: p.strength,
    doubt: Math.min(RAILS.mostDoubt, RAILS.coding / Math.abs(p.strength)),
    look,
    bare: centred(image, withoutGlass(look, p.offset, edges), exact, { tangent, normal: n }),
  };
}

interface Across {
  readonly tangent: Point;
  readonly normal: Point;
}

/** How far outwards a look lies at each site on the reference frame, px; null where the site has it not. */
function shiftsAt(
  image: PyramidLevel,
  look: EdgeLook,
  sites: readonly Point[],
  { tangent, normal }: Across,
): (number | null)[] {
  const matcher = makeMatcher(look, 1, 0);
  const one = new Float32Array(2 * (matcher.half + 6) + 1);
  return sites.map((at) => {
    if (!sampleProfile(image, at, normal, tangent, matcher.step, 3, one)) return null;
    const hit = bestShift(matcher, one, 6, 0, 5);
    return hit && hit.likeness >= RAILS.likeItself ? hit.shift : null;
  });
}

/** px by which a part of a look may lie off the whole of it. By trial. */
const MOST_OFF = 1;

/**
 * A part of a look moved to where it lies by itself on the reference frame, so that it tells the same place as the whole;
 * null where hardly a site has it.
 */
function centred(image: PyramidLevel, part: EdgeLook | null, sites: readonly Point[], across: Across): EdgeLook | null {
  if (!part) return null;
  const shifts = shiftsAt(image, part, sites, across).filter((s) => s !== null);
  if (shifts.length < RAILS.many * sites.length) return null;
  const off = median(shifts);
  if (Math.abs(off) > MOST_OFF) return null;
  return {
    ...part,
    profile: part.profile.map((_, i, all) => valueBetween(all, i - off / LOOK_STEP)),
    lo: part.lo + off,
    hi: part.hi + off,
    glass: part.glass + off,
    outside: part.outside + off,
  };
}

/** A profile between its samples; its ends go on. */
function valueBetween(profile: Float32Array, t: number): number {
  const at = clamp(t, 0, profile.length - 1);
  const i = Math.min(Math.floor(at), profile.length - 2);
  return profile[i]! + (at - i) * (profile[i + 1]! - profile[i]!);
}

/**
 * What is left of a look without the glass, whose edge the pin lies on; null where the look has no edge farther out.
 * @param offset px outwards from the pin at which the look's middle lies
 * @param edges px from there
 */
function withoutGlass(look: EdgeLook, offset: number, edges: readonly number[]): EdgeLook | null {
  const beyond = [...edges, look.outside].filter((e) => offset + e > RAILS.offGlass);
  if (beyond.length === 0 || offset + look.lo > RAILS.offGlass) return null;
  const first = Math.min(...beyond);
  return { ...look, lo: (first - offset) / 2, glass: first, ofGlass: false };
}
