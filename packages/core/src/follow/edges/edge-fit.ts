/**
 * Finds the rails of a pin in a frame and fits the plane's motion to them. Around where a motion puts a rail, short
 * profiles are taken across it; a search along both ends of each side finds the line roughly, then every site is
 * measured to a fraction of a pixel, with levels free and either sign of the step (glare turns the contrast over).
 * Corners are never looked at, so rounded or covered ones do no harm.
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { PyramidLevel } from '../../image/pyramid';
import { SIGMA_PER_DEVIATION, median } from '../../statistics';
import { bestShift, likenessesAt } from './edge-look';
import type { EdgeSearch, EdgeView, Row } from './edge-rows';
import { ROW_STEP, rowsOfSide, siteTaps } from './edge-rows';
import type { Equations } from '../../geometry/motion-equations';
import { pointJacobian } from '../../geometry/motion-equations';
import type { Rail } from './rails';

export interface EdgeHit {
  readonly rail: number;
  /** share along the side, 0 to 1 */
  readonly along: number;
  readonly site: Point;
  /** where it was found in the frame, and the unit normal along which it was measured */
  readonly at: Point;
  readonly normal: Point;
  /** whether light and dark lie as they do on the reference frame */
  readonly alike: boolean;
  /** correlation with the remembered look beside free levels, and contrast against it */
  readonly likeness: number;
  readonly gain: number;
  /** px that its place is uncertain by: of softness, and of smear that is known badly; see {@link EdgeSearch} */
  readonly soft: number;
}

const EDGE_FIT = {
  /** px a px of softness by which a whole line may well lie off: what lies beside it bleeds into it. By trial. */
  softDoubt: 0.03,
  /**
   * px a unit of missing likeness by which a whole line may well lie off: what changes beside it draws it. By trial.
   */
  unlikeDoubt: 2,
  /** Likeness from which a site is believed, 0 to 1. By trial. */
  believed: 0.65,
  /** A site's least contrast as a share of its rail's typical one. By trial. */
  leastShare: 0.35,
  /** Contrast of an edge as a share of what the frame's edges have on the whole, against the reference. By trial. */
  leastContrast: 0.15,
  /** Lines of the device itself that tell the light by themselves. By trial. */
  leastSides: 2,
  /** Sites of a line that are looked at, for it to be looked for at all. By trial. */
  leastRows: 4,
  /** Places of a side's line that are told beside its own. By trial. */
  mostPlaces: 2,
  /** Votes of the pin's own edge for where its side is, against one of another's. By trial. */
  innerVotes: 1.3,
  /** What an edge counts whose contrast has turned over, against one that looks as remembered. By trial. */
  turned: 0.7,
  /** Cut-off of Tukey's biweight in units of the residual scale. By trial. */
  tukey: 4,
  /** px; the scale's lower bound. By trial. */
  leastScale: 0.1,
  /** px; the scale's upper bound. By trial. */
  mostScale: 2,
  /** Share of its own information that a hit keeps, since neighbouring hits share their errors. By trial. */
  ownInformation: 0.3,
} as const;

/** What the rows of one side tell of every place of its line. */
interface LineEvidence {
  /** places to each side of the prediction, `ROW_STEP` px apart */
  readonly count: number;
  /** at so many places off at both ends: 1 for each rail that lies there as remembered, 1.3 for the pin's own */
  readonly scoreAt: (d0: number, d1: number) => number;
  /** the most that it can be */
  readonly most: number;
}

function lineEvidence(rows: readonly Row[], rails: readonly Rail[], reach: number): LineEvidence {
  const count = Math.ceil(reach / ROW_STEP);
  const places = 2 * count + 1;
  const found = new Float64Array(2 * places);
  const likeness = rows.map((r) => {
    likenessesAt(r.matcher, r.profile, r.margin - count, places, found);
    const out = new Float32Array(places);
    for (let k = 0; k < places; k++) out[k] = found[2 * k]! * Math.sqrt(Math.min(1, Math.abs(found[2 * k + 1]!)));
    return out;
  });
  const groups = [...new Set(rows.map((r) => r.rail))].map((k) => ({
    inner: rails[k]!.inner ? EDGE_FIT.innerVotes : 1,
    turned: rows.find((r) => r.rail === k)!.matcher.turns ? EDGE_FIT.turned : 0,
    own: rows.flatMap((r, i) => (r.rail === k ? [{ along: r.along, values: likeness[i]! }] : [])),
  }));
  const scoreAt = (d0: number, d1: number): number => {
    let score = 0;
    for (const g of groups) {
      let sum = 0;
      for (const r of g.own) sum += r.values[count + Math.round(d0 + r.along * (d1 - d0))]!;
      score += (Math.abs(sum) / g.own.length) * g.inner * (sum > 0 ? 1 : g.turned);
    }
    return score;
  };
  return { count, scoreAt, most: groups.reduce((s, g) => s + g.inner, 0) };
}

/** Both ends of the line of one side, px along the normal from the prediction. */
function searchLine(rows: readonly Row[], rails: readonly Rail[], reach: number): [number, number] {
  if (reach <= 1.5) return [0, 0];
  const line = lineEvidence(rows, rails, reach);
  const { count } = line;
  const scoreAt = (d0: number, d1: number): number =>
    line.scoreAt(d0, d1) * (1 - (0.25 * (Math.abs(d0) + Math.abs(d1)) + 0.15 * Math.abs(d1 - d0)) / (2 * count));
  // Coarse over both ends, then finer around the best: likeness changes slowly over a px or two.
  let best: [number, number] = [0, 0];
  let bestScore = scoreAt(0, 0);
  for (
    let step = Math.max(1, Math.round(count / 7)), reachLeft = count;
    ;
    reachLeft = step, step = Math.max(1, step >> 1)
  ) {
    const [c0, c1] = best;
    const ends = (c: number): number[] =>
      Array.from(
        { length: 2 * Math.floor(reachLeft / step) + 1 },
        (_, i) => c + (i - Math.floor(reachLeft / step)) * step,
      ).filter((d) => Math.abs(d) <= count);
    for (const d0 of ends(c0))
      for (const d1 of ends(c1)) {
        const score = scoreAt(d0, d1);
        if (score > bestScore) [best, bestScore] = [[d0, d1], score];
      }
    if (step === 1) break;
  }
  return [best[0] * ROW_STEP, best[1] * ROW_STEP];
}

/** A place of one side's line: px across it, outwards from where `h` puts it, at its first and last corner. */
export interface LinePlace {
  readonly ends: readonly [number, number];
  /** see `LineEvidence` */
  readonly score: number;
}

/** px about a line's place within which its score is the same place's. By trial. */
const SAME_PLACE = 1;

export interface SidePlaces {
  /** what the lines tell where the side is thought to be, and the most that they could; see `LineEvidence` */
  readonly here: number;
  readonly most: number;
  readonly elsewhere: readonly LinePlace[];
}

/**
 * What the lines of one side tell of it where `h` puts it, and of the best places elsewhere within the search's reach.
 * @param apart px between places that are told apart
 * @returns null when too little of the side is seen
 */
export function placesOfSide(side: number, view: EdgeView, h: Matrix3, apart: number): SidePlaces | null {
  const rows = rowsOfSide(side, view, h);
  if (rows.length < EDGE_FIT.leastRows) return null;
  const { count, scoreAt, most } = lineEvidence(rows, view.rails, view.search.reach);
  const near = Math.round(SAME_PLACE / ROW_STEP);
  let here = 0;
  for (let d0 = -near; d0 <= near; d0++) for (let d1 = -near; d1 <= near; d1++) here = Math.max(here, scoreAt(d0, d1));
  return { here, most, elsewhere: placesElsewhere(count, scoreAt, apart) };
}

/** The best places of a line that lie so far from where it is thought to be, and from each other. */
function placesElsewhere(count: number, scoreAt: LineEvidence['scoreAt'], apart: number): LinePlace[] {
  const every = 2 * Math.round(SAME_PLACE / ROW_STEP);
  const far = apart / ROW_STEP;
  const all: LinePlace[] = [];
  for (let d0 = -count; d0 <= count; d0 += every)
    for (let d1 = -count; d1 <= count; d1 += every)
      if (Math.max(Math.abs(d0), Math.abs(d1)) >= far)
        all.push({ ends: [d0 * ROW_STEP, d1 * ROW_STEP], score: scoreAt(d0, d1) });
  all.sort((p, q) => q.score - p.score);
  const isApart = (p: LinePlace, q: LinePlace): boolean =>
    Math.max(Math.abs(q.ends[0] - p.ends[0]), Math.abs(q.ends[1] - p.ends[1])) >= apart;
  const out: LinePlace[] = [];
  for (const p of all) {
    if (out.length >= EDGE_FIT.mostPlaces) break;
    if (out.every((q) => isApart(p, q))) out.push(p);
  }
  return out;
}

/**
 * @param h reference frame to frame, a prediction
 * @param spread per rail, px; rails that stray too far are not looked for
 */
export function measureRails(
  rails: readonly Rail[],
  image: PyramidLevel,
  h: Matrix3,
  search: EdgeSearch,
  spread: Float32Array,
): EdgeHit[] {
  const hits: EdgeHit[] = [];
  for (let side = 0; side < 4; side++) {
    const rows = rowsOfSide(side, { rails, image, search, spread }, h);
    if (rows.length < EDGE_FIT.leastRows) continue;
    const [d0, d1] = searchLine(rows, rails, search.reach);
    for (const [k] of rails.entries()) {
      const own = rows.filter((r) => r.rail === k);
      if (own.length >= EDGE_FIT.leastRows && !rails[k]!.witness) hits.push(...sitesOf(own, d0, d1));
    }
  }
  return withoutCovers(hits, rails);
}

/**
 * Whatever lies in front of an edge may have an edge of its own; it hardly ever has the same contrast. What the device
 * itself shows tells how the light is, where it is seen: glass may light up, and its edges with it.
 */
function withoutCovers(hits: readonly EdgeHit[], rails: readonly Rail[]): EdgeHit[] {
  const gainsOf = (own: (rail: Rail) => boolean): number[] =>
    rails
      .flatMap((rail, k) => {
        const gains = hits.filter((q) => q.rail === k && own(rail)).map((q) => q.gain);
        return gains.length >= EDGE_FIT.leastRows ? [median(gains)] : [];
      })
      .sort((a, b) => a - b);
  const ofDevice = gainsOf((rail) => !rail.look.ofGlass);
  const gains = ofDevice.length >= EDGE_FIT.leastSides ? ofDevice : gainsOf(() => true);
  const usual = gains[Math.floor(0.7 * gains.length)] ?? 0;
  return hits.filter(
    (q) =>
      q.gain > EDGE_FIT.leastContrast * usual &&
      (rails[q.rail]!.look.ofGlass || q.gain < usual / EDGE_FIT.leastContrast),
  );
}

function sitesOf(lines: readonly Row[], d0: number, d1: number): EdgeHit[] {
  const rows = lines.map((r) => r.fine ?? r);
  const centre = (r: Row): number => Math.round((d0 + r.along * (d1 - d0)) / ROW_STEP);
  const there = new Float64Array(2);
  let sum = 0;
  for (const r of rows) {
    likenessesAt(r.matcher, r.profile, r.margin + centre(r), 1, there);
    sum += there[0]!;
  }
  const sign = sum < -0.2 * rows.length && rows[0]!.matcher.turns ? -1 : 1;
  const found: { row: Row; shift: number; gain: number; likeness: number }[] = [];
  for (const row of rows) {
    const hit = bestShift(row.matcher, row.profile, row.margin, centre(row), siteTaps(row), sign);
    if (hit && sign * hit.likeness > EDGE_FIT.believed)
      found.push({ row, shift: hit.shift, gain: Math.abs(hit.gain), likeness: Math.abs(hit.likeness) });
  }
  const gains = found.map((f) => f.gain).sort((a, b) => a - b);
  const typical = gains[gains.length >> 1] ?? 0;
  return found
    .filter((f) => f.gain > EDGE_FIT.leastShare * typical)
    .map(({ row: r, shift, gain, likeness }) => ({
      rail: r.rail,
      along: r.along,
      site: r.site,
      at: [r.at[0] + shift * r.normal[0], r.at[1] + shift * r.normal[1]],
      normal: r.normal,
      alike: sign > 0,
      likeness,
      gain,
      soft: r.soft,
    }));
}

/** Distance of a hit from where `h` puts its site, px along its normal. */
export function residualOf(hit: EdgeHit, h: Matrix3): number {
  const p = mapPoint(h, hit.site);
  return (p[0] - hit.at[0]) * hit.normal[0] + (p[1] - hit.at[1]) * hit.normal[1];
}

export interface EdgeTerms {
  /** one entry per hit: robust weight over variance, px^-2 */
  readonly weight: Float64Array;
  readonly residual: Float64Array;
  /** per rail, typical distance of a hit from its line, px */
  readonly scale: Float64Array;
}

/**
 * Robust weights of hits at `h`; the scale of the residuals is each rail's own.
 * @param spread per rail, px: how far it strays from the plane as a whole; all its hits together say 1 over its square
 */
export function weighHits(
  hits: readonly EdgeHit[],
  h: Matrix3,
  rails: readonly Rail[],
  spread: Float32Array,
): EdgeTerms {
  const residual = new Float64Array(hits.length);
  const weight = new Float64Array(hits.length);
  const scales = new Float64Array(rails.length).fill(EDGE_FIT.mostScale);
  const count = new Int32Array(rails.length);
  for (let i = 0; i < hits.length; i++) {
    residual[i] = residualOf(hits[i]!, h);
    count[hits[i]!.rail]!++;
  }
  const own = Array.from(count, (n) => new Float64Array(n));
  const at = new Int32Array(rails.length);
  for (let i = 0; i < hits.length; i++) {
    const { rail } = hits[i]!;
    own[rail]![at[rail]!++] = Math.abs(residual[i]!);
  }
  for (const [k, list] of own.entries())
    if (list.length > 0) scales[k] = clamp(SIGMA_PER_DEVIATION * median(list), EDGE_FIT.leastScale, EDGE_FIT.mostScale);
  for (let i = 0; i < hits.length; i++) {
    const { rail, soft, likeness } = hits[i]!;
    const scale = scales[rail]!;
    const together =
      spread[rail]! ** 2 + (EDGE_FIT.softDoubt * soft) ** 2 + (EDGE_FIT.unlikeDoubt * (1 - likeness)) ** 2;
    const z = residual[i]! / (EDGE_FIT.tukey * scale);
    const robust = z * z >= 1 ? 0 : (1 - z * z) ** 2;
    weight[i] = robust * Math.min(1 / (together * count[rail]!), EDGE_FIT.ownInformation / (scale * scale));
  }
  return { weight, residual, scale: scales };
}

/** Short, so that it is compiled whole. */
function addUp(a: Float64Array, b: Float64Array, j: Float64Array, w: number, e: number): void {
  for (let p = 0, o = 0; p < 8; p++, o += 8) {
    const v = j[p]!;
    const k = w * v;
    b[p]! += e * v;
    for (let r = 0; r <= p; r++) a[o + r]! += k * j[r]!;
  }
}

/**
 * Adds the hits to normal equations.
 * @param h normalised template coordinates to px of level 0
 * @param normalise reference px to normalised template coordinates
 */
export function addHits(
  eq: Equations,
  hits: readonly EdgeHit[],
  terms: EdgeTerms,
  h: Matrix3,
  normalise: (p: Point) => Point,
): void {
  const rows = new Float64Array(16);
  const j = new Float64Array(8);
  const { a, b } = eq;
  for (let i = 0; i < hits.length; i++) {
    const w = terms.weight[i]!;
    if (w === 0) continue;
    const q = hits[i]!;
    const nx = q.normal[0];
    const ny = q.normal[1];
    const site = normalise(q.site);
    const at = pointJacobian(h, site[0], site[1], rows);
    const e = w * ((at[0] - q.at[0]) * nx + (at[1] - q.at[1]) * ny);
    for (let p = 0; p < 8; p++) j[p] = nx * rows[p]! + ny * rows[8 + p]!;
    addUp(a, b, j, w, e);
  }
  for (let p = 0; p < 8; p++) for (let r = 0; r < p; r++) a[r * 8 + p] = a[p * 8 + r]!;
}
