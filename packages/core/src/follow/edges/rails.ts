/**
 * Rails: the long straight edges along the sides of a pin on the reference frame (the edge of the glass, the bezel's
 * outer edge), each as a row of sub-pixel sites. Dark, blank and green glass is followed by them alone.
 */
import { clamp } from '../../clamp';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import type { EdgeLook } from './edge-look';
import type { BareLook } from './rail-look';
import { MANY, TOGETHER, bareLook, extent, glassEdge, meanProfile, shiftsAt, withoutGlass } from './rail-look';
import type { Peak, Scan, Side } from './side-scan';
import { LEAST_SITES, crossings, edgesOf, scanAcross, sideOf, toSamples } from './side-scan';

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
  readonly bare: BareLook | null;
  /**
   * true for a line far beside the pin's side where nearer ones are clear: it tells which line is which, not where the
   * plane is, since it may lie beside it
   */
  readonly witness: boolean;
}

const RAILS = {
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
  /** px beyond its outermost edges that a look reaches. By trial. */
  margin: 2,
  /** px; edges this near to each other may smear into one another. By trial. */
  withinSmear: 22,
  /** px; smear up to which a line far beside the side is looked for: one ramp looks like the next. By trial. */
  mostWitnessSmear: 12,
  /** Share of the strongest edge of a side that a near one must have for far ones to be witnesses alone. By trial. */
  share: 0.1,
  /** Share of the strongest edge below which one adds nothing. By trial. */
  adds: 0.04,
  /** Edges of a side that are told apart. By trial. */
  mostPeaks: 6,
  /** Share of a scan's sites that must cross an edge. By trial. */
  crossing: 0.3,
  /**
   * Share of the strongest edge around the pin below which one is an artefact of compression beside it, or adds
   * nothing. By trial.
   */
  faint: 0.02,
  /** 8-bit steps that compression is wrong by along a whole edge. By trial. */
  coding: 1,
  /** px of doubt that are told apart. By trial. */
  mostDoubt: 3,
} as const;
const APART = RAILS.margin + 0.5;

/** A side that was scanned. */
interface Scanned {
  readonly image: PyramidLevel;
  /** 0 top, 1 right, 2 bottom, 3 left */
  readonly index: number;
  readonly side: Side;
  readonly scan: Scan;
  /** px to each side that were scanned, and within which an edge is the side's own */
  readonly reach: number;
  readonly own: number;
}

/**
 * @param image level 0 of the reference frame, or a window of it that holds the pin and its surroundings
 * @param ignore outlines in which no site may lie
 */
export function findRails(pin: Quad, image: PyramidLevel, ignore: readonly (readonly Point[])[]): Rail[] {
  const turn = signedArea(pin) > 0 ? 1 : -1;
  const size = Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3]));
  const reach = toSamples(clamp(RAILS.reachShare * size, RAILS.leastReach, RAILS.mostReach));
  const own = Math.max(RAILS.own, RAILS.ownShare * size);
  const rails = [0, 1, 2, 3].flatMap((index): Rail[] => {
    const side = sideOf(pin[index]!, pin[(index + 1) % 4]!, turn);
    const scan = scanAcross(image, side, { reach, own, ignore });
    return scan ? railsOfSide({ image, index, side, scan, reach, own }) : [];
  });
  const strongest = Math.max(0, ...rails.map((r) => Math.abs(r.strength)));
  return rails.filter((r) => Math.abs(r.strength) >= RAILS.faint * strongest);
}

/** Edges that stand close together are one rail: a bezel's rim is told by its look as a whole. */
function groupPeaks(peaks: readonly Peak[]): Peak[][] {
  const groups: Peak[][] = [];
  for (const p of [...peaks].sort((a, b) => a.offset - b.offset)) {
    const last = groups.at(-1);
    if (last && p.offset - last.at(-1)!.offset <= TOGETHER && p.offset - last[0]!.offset <= 2 * TOGETHER) last.push(p);
    else groups.push([p]);
  }
  return groups;
}

function railsOfSide(s: Scanned): Rail[] {
  const { own } = s;
  const peaks = edgesOf(s.scan, s.reach);
  const near = peaks.filter((p) => Math.abs(p.offset) <= RAILS.far * own);
  const railsOf = (usable: readonly Peak[]): Rail[] => {
    const kept = strongest(usable);
    const nearest = kept
      .filter((p) => Math.abs(p.offset) <= own)
      .sort((p, q) => Math.abs(p.offset) - Math.abs(q.offset))[0];
    return joined(groupPeaks(kept), (group) => {
      const inner = nearest !== undefined && group.includes(nearest);
      const rail = railOf(s, group, inner);
      return rail && { ...rail, inner, witness: false };
    });
  };
  const hasNear = near.some((p) => Math.abs(p.strength) > RAILS.share * Math.abs(peaks[0]!.strength));
  const fromNear = hasNear ? railsOf(near) : [];
  // Edges that stand out from texture alone are none that each site has.
  if (fromNear.length === 0) return railsOf(peaks);
  const far = strongest(peaks.filter((p) => !near.includes(p)));
  const witnesses = groupPeaks(far).flatMap((group): Rail[] => {
    const rail = railOf(s, group, false);
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

/**
 * The look of a group of edges about the strongest of them; null where there is next to nothing.
 * @param points sites on the strongest
 * @param edges px of each from it
 * @param pin px from the strongest edge at which the pin lies
 */
function lookOf(
  s: Scanned,
  points: readonly Point[],
  { edges, inner, pin }: { readonly edges: readonly number[]; readonly inner: boolean; readonly pin: number },
): EdgeLook | null {
  const [least, most] = [Math.min(...edges), Math.max(...edges)];
  const reach = 2 * Math.ceil((Math.max(-least, most) + TOGETHER + RAILS.margin) / 2);
  const profile = meanProfile(s.image, points, s.side, reach);
  if (!profile) return null;
  const [first, outside] = extent(profile, least, most);
  const glass = inner ? glassEdge(profile, first, pin) : first;
  return {
    profile,
    lo: Math.min(first, glass) - RAILS.margin,
    hi: outside + RAILS.margin,
    glass,
    outside,
    ofGlass: inner,
  };
}

/** Sites on the strongest edge of a group, its look, and the sites again where that look lies exactly. */
function railOf(s: Scanned, group: readonly Peak[], inner: boolean): Omit<Rail, 'inner' | 'smears' | 'witness'> | null {
  const { image, scan, side } = s;
  const { outwards: n, tangent } = side;
  const p = group.reduce((b, q) => (Math.abs(q.strength) > Math.abs(b.strength) ? q : b));
  const hits = crossings(scan, p, s.reach);
  if (hits.length < LEAST_SITES || hits.length < RAILS.crossing * scan.sites.length) return null;
  const points = hits.map(({ at, d }): Point => [at[0] + d * n[0], at[1] + d * n[1]]);
  const edges = group.map((q) => q.offset - p.offset);
  const look = lookOf(s, points, { edges, inner, pin: -p.offset });
  if (!look) return null;
  const shifts = shiftsAt(image, look, points, side);
  // Where one texture meets another there is a mean look, but hardly a site that has it.
  if (shifts.filter((shift) => shift !== null).length < MANY * points.length) return null;
  const exact = points.map(([x, y], i): Point => {
    const shift = shifts[i] ?? 0;
    return [x + shift * n[0], y + shift * n[1]];
  });
  return {
    side: s.index,
    offset: p.offset,
    sites: exact,
    along: hits.map((q) => q.s),
    tangent,
    outwards: n,
    strength: p.strength,
    doubt: Math.min(RAILS.mostDoubt, RAILS.coding / Math.abs(p.strength)),
    look,
    bare: bareLook(image, withoutGlass(look, p.offset, edges), exact, side),
  };
}
