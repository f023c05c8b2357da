/** A frame's edges from one start: searched for, fitted, and judged by stiffness and by what lies across the sides. */
import { cornerSigmas } from '../../geometry/corner-information';
import { quadToQuad, scaleAt } from '../../geometry/homography';
import { distort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply, scaling } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { farthest, mapQuad } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import { addRigidInformation } from '../../solve/rigid-screen';
import type { EdgeSearch, EdgeView } from '../edges/edge-rows';
import type { EdgeFit } from '../edges/edge-solver';
import { fitEdges } from '../edges/edge-solver';
import type { FrameContext } from '../memory/frame-context';
import {
  FLOORS,
  beside,
  carriesScreen,
  contradictsStiffness,
  helpingStiffness,
  misfitOf,
  plausible,
  smearAt,
} from '../memory/frame-context';
import type { Likeness, SidePlace } from '../edges/side-looks';
import { foreshortening, likenessOf, seenAcross, smearAcross } from '../edges/side-looks';
import type { Chosen } from '../edges/side-rivals';
import type { Smear } from '../timing/shutter';
import { isSameSmear } from '../timing/shutter';
import { amongRivals } from '../edges/side-rivals';
import type { Expectation, Hypothesis } from '../evidence/verdict';
import { LEAST_FOUND } from '../evidence/verdict';

const FITS = {
  /** px of level 0 in which edges are looked for that a smaller picture has found. By trial. */
  fromSmaller: 3,
  /** px in which edges are looked for again once their smear is known. By trial. */
  smearedReach: 3,
  /** px in which the edges of a rival are looked for around its start. By trial. */
  ofRival: 2,
  /** Sites of a rail that are enough to weigh a rival. By trial. */
  rivalSites: 24,
  /** px; smear up to which what lies across the sides is seen sharply. By trial. */
  sharp: 4,
  /** Stretches of a side in each of which a line of it must be found for what lies across it to count. By trial. */
  stretches: 12,
  /** px; sigma of a start that is known from something else than the forecast. By trial. */
  startSigma: 3,
  /** px in which three sides are looked for where the fourth is left out, at the most. By trial. */
  withoutSide: 4,
  /** Share of the distance to the expectation that the rest must lie within, once a side is left out. By trial. */
  leftOut: 0.5,
} as const;

/** Around what edges are looked for: a start, where the corners should come to lie, and how far to search, px. */
export interface EdgeStart {
  readonly start: Matrix3;
  readonly expected: Expectation;
  readonly reach: number;
  /** level of the pyramid that is looked at first; 0 when left out */
  readonly level?: number | undefined;
  /** sites of a rail that are enough; all are looked at when left out */
  readonly enough?: number;
  /** whether the start tells of the smear */
  readonly isSmeared?: boolean;
}

/** What moves and hides edges around a start, on a picture that is `k` times smaller. */
function edgeSearch(c: FrameContext, start: Matrix3, k = 1): Omit<EdgeSearch, 'reach' | 'enough'> {
  const { sight, followed } = c;
  const there = mapQuad(start, sight.pin);
  const smear = smearAt(c, there);
  const offset = c.rows.offsetAt(c.frame, there, sight.keys[0]!, start);
  const smaller = ([x, y]: Point): Point => [x / k, y / k];
  const larger = ([x, y]: Point): Point => [x * k, y * k];
  return {
    blur: (p) => smaller(smear.inFrame(larger(p))),
    softness: c.softness / k,
    unforeseen: c.path.hasRepeats,
    offset: offset && ((site, at) => smaller(offset(site, larger(at)))),
    followed: followed ? (p) => followed.edges(distort(sight.lens, p)) : undefined,
  };
}

/** What edges are looked for in on a frame. @param start reference frame to frame */
export function edgeView(c: FrameContext, image: PyramidLevel, start: Matrix3): EdgeView {
  return { rails: c.sight.rails, image, search: { ...edgeSearch(c, start), reach: 0 }, spread: c.spread };
}

/** Edges around one start; wide searches look at a smaller picture first. */
export function edgesFrom(c: FrameContext, h: Hypothesis, from: EdgeStart): EdgeFit | null {
  const { start, expected, reach, level = 0 } = from;
  const { sight } = c;
  const k = 1 << level;
  const image = h.pyramid[level];
  if (!image || sight.rails.length === 0) return null;
  const prior = beside(c, expected.speed, k);
  const fit = fitEdges(sight.rails, image, level === 0 ? start : multiply(scaling(1 / k), start), {
    pin: sight.pin,
    motion: c.motion,
    expected: expected.corners.map(([x, y]): Point => [x / k, y / k]) as unknown as Quad,
    expectedSigma: expected.sigma / k,
    spread: c.spread,
    reach,
    ...edgeSearch(c, start, k),
    floor: FLOORS,
    enough: from.enough,
    ...(prior ? { prior } : {}),
  });
  if (!fit) return null;
  if (level === 0) return withItsSmear(c, h, from, fit);
  const up = multiply(scaling(k), fit.homography);
  if (fit.found <= LEAST_FOUND || !plausible(c, up)) return null;
  return edgesFrom(c, h, { start: up, expected, reach: FITS.fromSmaller });
}

/** A fit whose place tells of another smear than was looked for, looked for again with that one. */
function withItsSmear(c: FrameContext, h: Hypothesis, from: EdgeStart, fit: EdgeFit): EdgeFit {
  if (from.isSmeared || !carriesScreen(c, fit)) return fit;
  const smear = (at: Matrix3): Smear => smearAt(c, mapQuad(at, c.sight.pin));
  if (isSameSmear(smear(fit.homography), smear(from.start))) return fit;
  const { expected, enough } = from;
  const again = { start: fit.homography, expected, reach: FITS.smearedReach, isSmeared: true };
  return edgesFrom(c, h, enough === undefined ? again : { ...again, enough }) ?? fit;
}

/** The expectation of a place that something else than the forecast tells. @param sigma px */
export function expectedAt(c: FrameContext, h: Hypothesis, start: Matrix3, sigma: number): Expectation {
  return { ...h.expected, corners: mapQuad(start, c.sight.pin), sigma };
}

/** Of the least known corner, px, with what the lens and stiffness add. */
export function edgeSigma(c: FrameContext, e: EdgeFit, { expected }: Hypothesis): number {
  const information = e.information.slice();
  const rigid = helpingStiffness(c);
  if (rigid) addRigidInformation(information, rigid, mapQuad(e.homography, c.sight.pin), expected.speed);
  return Math.max(...cornerSigmas(information, expected.sigma));
}

/** Whether a line of the side was found about there: where none was, something may cover the device. */
function onLines(c: FrameContext, { hits, terms }: EdgeFit): (place: SidePlace) => boolean {
  const found = new Uint8Array(4 * FITS.stretches);
  const stretchOf = (side: number, along: number): number =>
    side * FITS.stretches + Math.min(FITS.stretches - 1, Math.floor(along * FITS.stretches));
  for (const [i, q] of hits.entries())
    if (terms.weight[i]! > 0) found[stretchOf(c.sight.rails[q.rail]!.side, q.along)] = 1;
  return ({ side, along }) => found[stretchOf(side, along)] === 1;
}

/** What lies across the sides where lines of them were found; see {@link seenAcross}. */
export function acrossSides(c: FrameContext, h: Hypothesis, e: EdgeFit): Float64Array {
  const { followed = () => true } = edgeSearch(c, e.homography);
  const isFound = onLines(c, e);
  return seenAcross(h.pyramid[0]!, c.sight.pin, e.homography, (q) => isFound(q) && followed(q.at));
}

/**
 * What lies across the sides against what is remembered of it, smeared and as soft as the frame shows it.
 * @param beyond see {@link likenessOf}
 */
export function likenessAcross(c: FrameContext, e: EdgeFit, seen: Float64Array, beyond?: number): Likeness {
  const { pin, centre } = c.sight;
  const soft = c.softness / scaleAt(e.homography, centre);
  const askew = foreshortening(pin, e.homography);
  const moved = smearAcross(pin, e.homography, edgeSearch(c, e.homography).blur);
  const blur = moved.map((smear, side) => Math.hypot(smear, soft, askew[side]!));
  return likenessOf(c.looks, seen, blur, beyond);
}

/** The likeliest of a fit to the edges and of those with sides on lines beside theirs. */
export function likeliestSides(c: FrameContext, h: Hypothesis, fit: EdgeFit): Chosen {
  const { pin } = c.sight;
  const around = (start: Matrix3, enough?: number): EdgeFit | null => {
    const expected = expectedAt(c, h, start, FITS.startSigma);
    const other = edgesFrom(c, h, { start, expected, reach: FITS.ofRival, ...(enough ? { enough } : {}) });
    return carriesScreen(c, other) ? other : null;
  };
  const chosen = amongRivals(
    fit,
    edgeView(c, h.pyramid[0]!, fit.homography),
    {
      pin,
      expected: h.expected.corners,
      expectedSigma: h.expected.sigma,
      misfit: (e) => misfitOf(c, e, mapQuad(e.homography, pin), h.expected.speed),
      across: (e) => likenessAcross(c, e, acrossSides(c, h, e)),
      isSharp: smearAt(c, mapQuad(fit.homography, pin)).length < FITS.sharp,
      needsAll: !c.sight.hasPicture,
    },
    (start) => around(start, FITS.rivalSites),
  );
  return chosen.fit === fit ? chosen : { ...chosen, fit: around(chosen.fit.homography) ?? chosen.fit };
}

/**
 * Four sides that contradict a stiff screen: one of them is the edge of something else that passes by.
 * @returns the fit without it, when that one lies far nearer to where the screen was expected; else null
 */
function withoutFalseSide(c: FrameContext, h: Hypothesis, edges: EdgeFit): EdgeFit | null {
  const { pin, rails } = c.sight;
  const far = (e: EdgeFit): number => farthest(mapQuad(e.homography, pin), h.expected.corners);
  if (!contradictsStiffness(c, edges, mapQuad(edges.homography, pin), h.expected.speed)) return null;
  const start = quadToQuad(pin, h.expected.corners);
  const reach = Math.min(h.reach, FITS.withoutSide);
  const whole = far(edges);
  let best: EdgeFit | null = null;
  for (let side = 0; side < 4; side++) {
    const spread = c.spread.map((v, k) => (rails[k]!.side === side ? Infinity : v));
    const e = edgesFrom({ ...c, spread, leansOnStiffness: true }, h, { start, expected: h.expected, reach });
    if (carriesScreen(c, e) && far(e) < FITS.leftOut * whole && (!best || far(e) < far(best))) best = e;
  }
  return best;
}

/**
 * Where a side is missing or false, what the lens and stiffness allow stands in for it at once.
 * @returns the context in which the frame is then solved, and the edges in it; null when the evidence will do as it is
 */
export function withStiffness(
  c: FrameContext,
  h: Hypothesis,
  edges: EdgeFit | null,
): { readonly context: FrameContext; readonly edges: EdgeFit } | null {
  if (!edges || !c.rigid) return null;
  const rest = withoutFalseSide(c, h, edges);
  const isWhole = edges.sides >= Math.min(4, c.sight.sides);
  if (!rest && (c.leansOnStiffness || isWhole)) return null;
  const context = { ...c, leansOnStiffness: true };
  if (rest) return { context, edges: rest };
  const again = edgesFrom(context, h, {
    start: edges.homography,
    expected: h.expected,
    reach: Math.min(h.reach, FITS.withoutSide),
  });
  return { context, edges: again ?? edges };
}
