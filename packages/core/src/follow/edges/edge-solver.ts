/**
 * The plane's motion from its rails alone: search, measure, fit, and again from where that leads. Four lines make
 * exactly eight constraints; what a missing side leaves open is held by an expectation.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply } from '../../geometry/matrix3';
import { mapPoint, normaliseHomography } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { PyramidLevel } from '../../image/pyramid';
import { cornerInformation, cornerSigmas } from '../../geometry/corner-information';
import type { EdgeHit, EdgeTerms } from './edge-fit';
import { addHits, measureRails, residualOf, weighHits } from './edge-fit';
import { STRAYS, everyOf, isInUse } from './edge-rows';
import type { Equations } from '../../geometry/motion-equations';
import { addCorners, noEquations, solveStep, stepped } from '../../geometry/motion-equations';
import type { Motion } from '../../geometry/motion';
import type { Rail } from './rails';
import type { Offset } from '../timing/readout';
import type { OtherEvidence } from '../picture/texture-level';

export interface EdgeFit {
  /** reference frame to frame */
  readonly homography: number[];
  readonly hits: readonly EdgeHit[];
  readonly terms: EdgeTerms;
  /** sides (of four) with at least a third of the sites of one rail on the line */
  readonly sides: number;
  /** sides of which enough lies inside the frame to be found */
  readonly available: number;
  /** share of the sought sites inside the frame that were found on their lines */
  readonly found: number;
  /** share of the hits whose light and dark lie as remembered */
  readonly alike: number;
  /** what the edges know of the corners, 8x8 in px^-2 */
  readonly information: Float64Array;
  /** per corner, px, with the expectation */
  readonly sigma: readonly number[];
}

export interface EdgeSolverOptions {
  readonly pin: Quad;
  readonly motion: Motion;
  readonly expected: Quad;
  readonly expectedSigma: number;
  /** per rail, px: see {@link weighHits} */
  readonly spread: Float32Array;
  readonly reach: number;
  readonly blur: (at: Point) => Point;
  readonly softness?: number;
  readonly unforeseen?: boolean;
  readonly followed?: ((at: Point) => boolean) | undefined;
  readonly offset?: Offset | undefined;
  readonly floor: readonly number[];
  /** sites of a rail that are enough where a place is only to be weighed, in one round; all are when left out */
  readonly enough?: number | undefined;
  /** what is known beside evidence; `h` maps (u, v) of the corners to px of `image` */
  readonly prior?: (eq: Equations, h: Matrix3, u: readonly number[], v: readonly number[]) => void;
}

const EDGES = {
  /** Rounds of looking for sites and fitting: rough, fine, once more from there. By trial. */
  rounds: 3,
  /** Sites a side that are enough for the rough round. By trial. */
  roughSites: 24,
  /** Steps of a robust fit. By trial. */
  iterations: 6,
  /** px; half width of the search once the line is about known. By trial. */
  fineReach: 1.5,
  /** px; a search no wider than this needs one round less. By trial. */
  nearReach: 4,
  /** Least share of a rail's sites that must lie on its line for its side to count. By trial. */
  sideFound: 0.33,
  /** px; hits scattered wider than this are chance and no line. By trial. */
  aLine: 0.85,
  /** Share of the blur, added to that. By trial. */
  aLineBlur: 0.08,
  /** px that the pin's own edge is taken to stray by before it was seen to. By trial. */
  ownSpread: 0.06,
  /** px that any other edge is taken to stray by before it was seen to. By trial. */
  otherSpread: 0.25,
  /** px that every edge is taken to stray by. By trial. */
  leastSpread: 0.03,
  /** Share a frame by which doubt of the pin's own edge follows what is seen. By trial. */
  ownRise: 0.2,
  /** Share a frame by which doubt of another edge rises: it comes quickly. By trial. */
  rise: 0.5,
  /** Share a frame by which it falls: it goes slowly. By trial. */
  fall: 0.08,
  /** Hits that a side's own rail must have for the glass alone to judge the others. By trial. */
  leastOwn: 8,
  /** px; a glass edge in more doubt than this judges no other. By trial. */
  judgesOthers: 0.25,
  /** Hits on lines of the device itself that tell by themselves whether light and dark lie as remembered. By trial. */
  enoughOfDevice: 30,
  /** px; the most that a rail is taken to stray by on one frame. By trial. */
  mostStray: 3,
  /** Share of its doubt that a rail keeps however well it fits. By trial. */
  lasting: 0.5,
} as const;

/** Reference px to coordinates of about -1 to 1 over the pin, and back as a matrix. */
function conditioner(pin: Quad): { to: (p: Point) => Point; matrix: number[] } {
  const cx = (pin[0][0] + pin[1][0] + pin[2][0] + pin[3][0]) / 4;
  const cy = (pin[0][1] + pin[1][1] + pin[2][1] + pin[3][1]) / 4;
  const half = Math.max(...pin.map((p) => Math.max(Math.abs(p[0] - cx), Math.abs(p[1] - cy))));
  return { to: (p) => [(p[0] - cx) / half, (p[1] - cy) / half], matrix: [half, 0, cx, 0, half, cy, 0, 0, 1] };
}

/** Gradients of stretches of edge. */
export function edgeClusters(
  hits: readonly EdgeHit[],
  terms: EdgeTerms,
  h: Matrix3,
  normalise: (p: Point) => Point,
): Float64Array[] {
  const groups = new Map<number, number[]>();
  for (const [i, q] of hits.entries()) {
    if (terms.weight[i] === 0) continue;
    const key = q.rail * 100 + Math.floor(q.along * 8);
    const list = groups.get(key);
    if (list) list.push(i);
    else groups.set(key, [i]);
  }
  return [...groups.values()].map((list) => {
    const eq = noEquations();
    addHits(
      eq,
      list.map((i) => hits[i]!),
      { ...terms, weight: Float64Array.from(list, (i) => terms.weight[i]!) },
      h,
      normalise,
    );
    return eq.b;
  });
}

/**
 * Hits as evidence beside texture, for a template whose normalised coordinates `normalise` gives from the reference
 * frame.
 */
export function edgesAsEvidence(
  hits: readonly EdgeHit[],
  terms: EdgeTerms,
  normalise: (p: Point) => Point,
): OtherEvidence {
  return {
    add: (eq, h) => addHits(eq, hits, terms, h, normalise),
    clusters: (h) => edgeClusters(hits, terms, h, normalise),
  };
}

/** @returns null when hardly any edge is found around `start` */
export function fitEdges(
  rails: readonly Rail[],
  image: PyramidLevel,
  start: Matrix3,
  o: EdgeSolverOptions,
): EdgeFit | null {
  const c = conditioner(o.pin);
  const corners = o.pin.map(c.to);
  const u = corners.map((p) => p[0]);
  const v = corners.map((p) => p[1]);
  const back = inverse(c.matrix);
  let n = multiply(start, c.matrix);
  let hits: EdgeHit[] = [];
  let terms: EdgeTerms | null = null;
  let evidence: Equations | null = null;
  const { enough = EDGES.roughSites } = o;
  const rounds = o.enough === undefined ? EDGES.rounds : 1;
  for (let round = 0; round < rounds; round++) {
    hits = measureRails(
      rails,
      image,
      multiply(n, back),
      {
        blur: o.blur,
        softness: o.softness ?? 0,
        unforeseen: o.unforeseen ?? false,
        followed: o.followed,
        offset: o.offset,
        ...(round === 0 ? { reach: o.reach, enough } : { reach: EDGES.fineReach }),
      },
      o.spread,
    );
    if (hits.length < 12) return null;
    for (let i = 0; i < EDGES.iterations; i++) {
      terms = weighHits(hits, multiply(n, back), rails, o.spread);
      const eq = noEquations();
      addHits(eq, hits, terms, n, c.to);
      evidence = { a: eq.a.slice(), b: eq.b.slice() };
      addCorners(eq, n, u, v, o.expected, o.expectedSigma);
      o.prior?.(eq, n, u, v);
      const dp = solveStep(o.motion, eq);
      if (!dp) return null;
      n = stepped(n, dp);
      if (!n.every(Number.isFinite)) return null;
      if (Math.max(...dp.map(Math.abs)) < 1e-6) break;
    }
    if (o.reach <= EDGES.nearReach && round > 0) break;
  }
  const h = multiply(n, back);
  const centre = mapPoint(c.matrix, [0, 0]);
  terms = weighHits(hits, h, rails, o.spread);
  const information = cornerInformation(o.motion, evidence!.a, edgeClusters(hits, terms, n, c.to), n, u, v, o.floor);
  const alike = shareAlike(rails, hits, terms);
  return {
    homography: normaliseHomography(h, centre),
    hits,
    terms,
    alike,
    ...howMuch(rails, image, h, hits, terms, o),
    information,
    sigma: cornerSigmas(information, o.expectedSigma),
  };
}

/**
 * Share of the hits on their lines whose light and dark lie as remembered. Those of the device tell, where there are
 * enough: glass may light up.
 */
function shareAlike(rails: readonly Rail[], hits: readonly EdgeHit[], terms: EdgeTerms): number {
  const on = hits.filter((_, i) => terms.weight[i]! > 0);
  const ofDevice = on.filter((q) => !rails[q.rail]!.look.ofGlass);
  const telling = ofDevice.length >= EDGES.enoughOfDevice ? ofDevice : on;
  return telling.filter((q) => q.alike).length / Math.max(1, telling.length);
}

function howMuch(
  rails: readonly Rail[],
  image: PyramidLevel,
  h: Matrix3,
  hits: readonly EdgeHit[],
  terms: EdgeTerms,
  o: EdgeSolverOptions,
): { sides: number; available: number; found: number } {
  const best = [0, 0, 0, 0];
  const there = [false, false, false, false];
  let on = 0;
  let sought = 0;
  for (const [k, rail] of rails.entries()) {
    if (rail.witness || o.spread[k]! > STRAYS || !isInUse(rail, h, o)) continue;
    const inside = rail.sites.filter((s) => {
      const [x, y] = mapPoint(h, s);
      return x > image.x0 + 3 && y > image.y0 + 3 && x < image.x0 + image.width - 3 && y < image.y0 + image.height - 3;
    }).length;
    if (inside < 6) continue;
    there[rail.side] ||= inside > EDGES.sideFound * rail.sites.length;
    const first = hits.find((q) => q.rail === k);
    const smear = first ? Math.hypot(...o.blur(first.at)) : 0;
    const line = terms.scale[k]! < EDGES.aLine + EDGES.aLineBlur * smear;
    const every = everyOf(rail, o.enough);
    const good = !line ? 0 : every * hits.filter((q, i) => q.rail === k && terms.weight[i]! > 0).length;
    best[rail.side] = Math.max(best[rail.side]!, good / rail.sites.length);
    on += good;
    sought += inside;
  }
  return {
    sides: best.filter((b) => b > EDGES.sideFound).length,
    available: there.filter(Boolean).length,
    found: sought > 0 ? on / sought : 0,
  };
}

/** How far each rail may stray from the plane before a frame told, px. */
export function firstSpread(rails: readonly Rail[]): Float32Array {
  return Float32Array.from(rails, (r) => Math.hypot(r.inner ? EDGES.ownSpread : EDGES.otherSpread, r.doubt));
}

/** The motion that the glass edges alone tell, when all four of them are seen. */
function glassAlone(e: EdgeFit, rails: readonly Rail[], pin: Quad, motion: Motion): Matrix3 | null {
  const hits: EdgeHit[] = [];
  const weight: number[] = [];
  const count = [0, 0, 0, 0];
  for (const [i, q] of e.hits.entries()) {
    const rail = rails[q.rail]!;
    if (!rail.inner || rail.doubt > EDGES.judgesOthers || e.terms.weight[i] === 0) continue;
    hits.push(q);
    weight.push(e.terms.weight[i]!);
    count[rail.side]!++;
  }
  if (count.some((n) => n < EDGES.leastOwn) || hits.length === e.terms.weight.filter((w) => w > 0).length) return null;
  const c = conditioner(pin);
  const back = inverse(c.matrix);
  const terms: EdgeTerms = { ...e.terms, weight: Float64Array.from(weight) };
  let n = multiply(e.homography, c.matrix);
  for (let i = 0; i < EDGES.iterations; i++) {
    const eq = noEquations();
    addHits(eq, hits, terms, n, c.to);
    const dp = solveStep(motion, eq);
    if (!dp) return null;
    n = stepped(n, dp);
    if (Math.max(...dp.map(Math.abs)) < 1e-6) break;
  }
  return n.every(Number.isFinite) ? multiply(n, back) : null;
}

/** The plane as something else than the edges knows it. */
export interface PlaneJudge {
  /** reference frame to frame */
  readonly homography: Matrix3;
  /** of the least known corner, px */
  readonly sigma: number;
  /** px; a rail farther off than this is not judged by it: the picture may have moved on the screen */
  readonly most: number;
}

/** What edges are judged by. */
export interface Judges {
  /** reference frame to frame, as the frame was taken */
  readonly plane: Matrix3;
  /** whether it judges the pin's own edges as well */
  readonly judgesGlass: boolean;
  /** null where no picture knows it by itself */
  readonly picture: PlaneJudge | null;
  readonly pin: Quad;
  readonly motion: Motion;
}

/**
 * How far a rail's line lies from the plane as a whole, px, beyond what its judge may be wrong by; null where nothing judges
 * it.
 */
function strayOf(hits: readonly EdgeHit[], picture: PlaneJudge | null, otherwise: Matrix3 | null): number | null {
  const off = (judge: Matrix3): number => {
    const r = hits.map((q) => residualOf(q, judge)).sort((a, b) => a - b);
    return Math.abs(r[r.length >> 1]!);
  };
  const byPicture = picture ? off(picture.homography) : Infinity;
  if (picture && byPicture < picture.most) return Math.sqrt(Math.max(0, byPicture ** 2 - picture.sigma ** 2));
  return otherwise && Math.min(EDGES.mostStray, off(otherwise));
}

/**
 * Remembers how far each rail keeps to the plane; one that lies beside it (the rim of a thick device) fades. The rims
 * of all four sides may agree on a plane of their own, so the glass edges judge them wherever they are seen; and a
 * picture that knows the plane by itself judges them all.
 */
export function updateSpread(
  spread: Float32Array,
  rails: readonly Rail[],
  e: EdgeFit,
  { plane, judgesGlass, picture, pin, motion }: Judges,
): void {
  const glass = glassAlone(e, rails, pin, motion);
  for (const [k, rail] of rails.entries()) {
    const own = e.hits.filter((q) => q.rail === k);
    if (own.length < EDGES.leastOwn) continue;
    // A frame that was taken by other evidence judges no edge of the pin: a picture that drifts would take its say from it.
    const otherwise = rail.inner && !judgesGlass ? null : plane;
    const m = strayOf(own, picture, glass && !rail.inner ? glass : otherwise);
    if (m === null) continue;
    let rate: 0.2 | 0.5 | 0.08;
    if (rail.inner) rate = EDGES.ownRise;
    else if (m > spread[k]!) rate = EDGES.rise;
    else rate = EDGES.fall;
    spread[k] = Math.max(
      EDGES.leastSpread,
      EDGES.lasting * rail.doubt,
      Math.sqrt(spread[k]! ** 2 + rate * (m * m - spread[k]! ** 2)),
    );
  }
}
