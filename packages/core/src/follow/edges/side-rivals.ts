/**
 * Rivals of a fit to the edges: a device shows several parallel lines along each side, and a side may have taken the
 * line of its neighbour. Where else all lines of a side would lie well together, the whole is fitted again from there,
 * and the fits are weighed against each other by what all lines tell, by the screen's stiffness, and by where the
 * screen was expected.
 */
import { quadToQuad } from '../../geometry/homography';
import type { Line } from '../../geometry/line';
import { meet, outwardsOf } from '../../geometry/line';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { farthest, isConvex, mapQuad, signedArea } from '../../geometry/quad';
import type { EdgeView } from './edge-rows';
import { placesOfSide } from './edge-fit';
import type { EdgeFit } from './edge-solver';
import type { Likeness } from './side-looks';

const RIVALS = {
  /** px to each side in which other lines are looked for. By trial. */
  reach: 16,
  /** px that a rival's side must lie off. By trial. */
  apart: 4,
  /** Sites of a rail that are enough to tell. By trial. */
  sites: 20,
  /** px within which two fits are the same. By trial. */
  same: 2,
  /** Fits that are weighed against each other before no more are looked for. By trial. */
  most: 8,
  /** The same where a picture judges the edges too. By trial. */
  mostBesidePicture: 5,
  /** Rivals of one fit that are tried. By trial. */
  startsOfOne: 2,
  /** By how much less the lines of a side may tell elsewhere for a fit from there to be tried. By trial. */
  worthTrying: 0.25,
  /** Share of what its lines may tell that a unit of a side's misfit is worth as a reason to look beside it. By trial. */
  perMisfit: 0.1,
  /** Misfit of what lies across the sides up to which no rival is looked for. By trial. */
  fits: 1.5,
  /** Misfit from which the fit is taken to lie on other lines altogether. By trial. */
  other: 2.5,
  /** Squared standard deviations beyond which an expectation that failed tells no more. By trial. */
  mostSurprise: 9,
  /** Natural logarithm of probability that a side costs which could be seen and was not found. By trial. */
  perMissing: 3,
  /** Squared standard deviations beyond which stiffness tells no more. By trial. */
  mostMisfit: 25,
} as const;

/** What weighs a fit beside its lines. */
export interface Weighing {
  readonly pin: Quad;
  readonly expected: Quad;
  /** px */
  readonly expectedSigma: number;
  /** standard deviations by which a fit contradicts the stiff screen; 0 where that is not known */
  readonly misfit: (fit: EdgeFit) => number;
  /** what lies across the sides against what is remembered */
  readonly across: (fit: EdgeFit) => Likeness;
  /** what lies across them is seen sharply enough to say that a fit lies on other lines altogether */
  readonly isSharp: boolean;
  /** nothing but edges tells of the screen: a side that could be seen and was not found is worth looking for */
  readonly needsAll: boolean;
}

/** Corners of a quad one of whose sides is moved across itself by so many px at its ends; null when nothing is left. */
function withSide(q: Quad, side: number, [d0, d1]: readonly [number, number]): Quad | null {
  const turn = signedArea(q) > 0 ? 1 : -1;
  const at = (i: number): Point => q[(i + 4) % 4]!;
  const [a, b] = [at(side), at(side + 1)];
  const n = outwardsOf(a, b, turn);
  const line: Line = {
    a: [a[0] + d0 * n[0], a[1] + d0 * n[1]],
    b: [b[0] + d1 * n[0], b[1] + d1 * n[1]],
  };
  const first = meet(line, { a: at(side - 1), b: a });
  const second = meet(line, { a: b, b: at(side + 2) });
  if (!first || !second) return null;
  const out = q.slice() as [Point, Point, Point, Point];
  out[side] = first;
  out[(side + 1) % 4] = second;
  return isConvex(out) ? out : null;
}

/** Starts where the lines of a side would lie nearly as well as at a fit, the likeliest first: sides that look wrong first. */
function startsBeside(view: EdgeView, w: Weighing, { fit, across }: Weighed): Matrix3[] {
  const { pin } = w;
  const h = fit.homography;
  const corners = mapQuad(h, pin);
  const wide = { ...view, search: { ...view.search, reach: RIVALS.reach, enough: RIVALS.sites } };
  const starts: { readonly start: Matrix3; readonly gain: number }[] = [];
  for (let side = 0; side < 4; side++) {
    const places = placesOfSide(side, wide, h, RIVALS.apart);
    if (!places) continue;
    const doubt = w.needsAll ? RIVALS.perMisfit * across.bySide[side]! : 0;
    for (const { ends, score } of places.elsewhere) {
      const quad = score > places.here - RIVALS.worthTrying ? withSide(corners, side, ends) : null;
      if (quad) starts.push({ start: quadToQuad(pin, quad), gain: score - places.here + doubt });
    }
  }
  return starts.sort((p, q) => q.gain - p.gain).map((q) => q.start);
}

function logProbability(fit: EdgeFit, across: Likeness, w: Weighing): number {
  const off = farthest(mapQuad(fit.homography, w.pin), w.expected) / w.expectedSigma;
  const missing = w.needsAll ? RIVALS.perMissing * (fit.available - fit.sides) : 0;
  return (
    across.log -
    missing -
    0.5 * Math.min(RIVALS.mostSurprise, off ** 2) -
    0.5 * Math.min(RIVALS.mostMisfit, w.misfit(fit) ** 2)
  );
}

/**
 * Starts where no line was looked for: where the screen was expected, and all sides at once moved from one of their lines
 * to another, as where glass that went dark leaves the rim alone to be seen on every side.
 */
function startsAside(fit: EdgeFit, { rails }: EdgeView, w: Weighing): Matrix3[] {
  const corners = mapQuad(fit.homography, w.pin);
  const expected = quadToQuad(w.pin, w.expected);
  const steps = [0, 1, 2, 3].map((side) => {
    const own = rails.filter((r) => r.side === side && !r.witness);
    if (own.length === 0) return 0;
    const inner = Math.min(...own.map((r) => r.offset + r.look.glass));
    const outer = Math.max(...own.map((r) => r.offset + r.look.outside));
    return (outer - inner) * scaleOfSide(w.pin, corners, side);
  });
  if (Math.max(...steps) <= RIVALS.same) return [expected];
  const aside = [1, -1].flatMap((sign): Matrix3[] => {
    const quad = steps.reduce<Quad | null>(
      (q, step, side) => q && withSide(q, side, [sign * step, sign * step]),
      corners,
    );
    return quad ? [quadToQuad(w.pin, quad)] : [];
  });
  return [expected, ...aside];
}

/** How much larger a side is seen than on the reference frame. */
function scaleOfSide(pin: Quad, seen: Quad, side: number): number {
  const next = (side + 1) % 4;
  return distance(seen[side]!, seen[next]!) / distance(pin[side]!, pin[next]!);
}

export interface Chosen {
  readonly fit: EdgeFit;
  /** share of probability against all rivals that were tried, 0 to 1 */
  readonly certainty: number;
  /** of the farthest corner to the likeliest rival, px; 0 without one */
  readonly rival: number;
  /** see {@link Likeness} */
  readonly misfit: number;
}

/** A fit with what speaks for it. */
interface Weighed {
  readonly fit: EdgeFit;
  readonly across: Likeness;
  readonly log: number;
}

/** Whether nothing speaks against a fit. */
function isAsRemembered({ fit, across }: Weighed, w: Weighing): boolean {
  const isMissing = w.needsAll && fit.sides < fit.available;
  return across.misfit < RIVALS.fits && !isMissing;
}

/**
 * The likeliest of a fit and its rivals. Where nothing but edges tells, the likeliest so far is looked beside next; else each
 * in its turn.
 * @param refit a fit from another start; null when it comes to nothing
 */
export function amongRivals(
  first: EdgeFit,
  view: EdgeView,
  w: Weighing,
  refit: (start: Matrix3) => EdgeFit | null,
): Chosen {
  const weigh = (fit: EdgeFit): Weighed => {
    const across = w.across(fit);
    return { fit, across, log: logProbability(fit, across, w) };
  };
  const all = [weigh(first)];
  const isNew = (fit: EdgeFit): boolean =>
    all.every((q) => farthest(mapQuad(q.fit.homography, w.pin), mapQuad(fit.homography, w.pin)) > RIVALS.same);
  const isElse = w.isSharp && all[0]!.across.misfit > RIVALS.other;
  const far = isElse ? startsAside(first, view, w) : [];
  const waiting = [...all];
  const most = w.needsAll ? RIVALS.most : RIVALS.mostBesidePicture;
  while (waiting.length > 0 && all.length < most) {
    const at = w.needsAll ? takeLikeliest(waiting) : waiting.shift()!;
    if (isAsRemembered(at, w)) break;
    const beside = startsBeside(view, w, at).slice(0, RIVALS.startsOfOne);
    for (const start of [...far.splice(0), ...beside]) {
      const other = refit(start);
      if (!other || !isNew(other)) continue;
      const rival = weigh(other);
      all.push(rival);
      waiting.push(rival);
    }
  }
  return chosenOf(all, w);
}

function takeLikeliest(waiting: Weighed[]): Weighed {
  const best = waiting.reduce((a, b) => (b.log > a.log ? b : a));
  waiting.splice(waiting.indexOf(best), 1);
  return best;
}

function chosenOf(all: Weighed[], w: Weighing): Chosen {
  const [best, ...others] = all.sort((a, b) => b.log - a.log);
  const rivals = others.reduce((s, q) => s + Math.exp(q.log - best!.log), 0);
  const [next] = others;
  return {
    fit: best!.fit,
    certainty: 1 / (1 + rivals),
    misfit: best!.across.misfit,
    rival: next ? farthest(mapQuad(next.fit.homography, w.pin), mapQuad(best!.fit.homography, w.pin)) : 0,
  };
}
