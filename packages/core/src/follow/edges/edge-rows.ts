/**
 * Profiles across the rails of a pin, where a motion puts them in a frame, each with the look that is expected there.
 */
import { clamp } from '../../clamp';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapPoint } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { PyramidLevel } from '../../image/pyramid';
import type { Matcher } from './edge-look';
import { glassChange, likenessesAt } from './edge-look';
import { matcherFor } from './edge-matcher';
import { median } from '../../statistics';
import { sampleProfile } from './edge-profile';
import type { Rail } from './rails';
import type { Offset } from '../timing/readout';

/** px between the samples of a profile. By trial. */
export const ROW_STEP = 0.5;

const ROWS = {
  /** px; half width of the search for a site around its line. By trial. */
  siteReach: 2.5,
  /** Of the smear that is added to that. By trial. */
  smearShare: 0.12,
  /** Lines along an edge whose mean is a profile. By trial. */
  mostLines: 5,
  /** Mean likeness of a rail's sites, 0 to 1, from which its look is there as a whole. By trial. */
  whole: 0.75,
  /** By how much more the look without the glass must be there to be taken instead. By trial. */
  better: 0.1,
  /** Times the contrast of a look by which the glass is brighter or darker, from which on it shows something else. By trial. */
  changed: 0.4,
  /** Likeness that the look without the glass must have then, and by how much less than the whole. By trial. */
  sure: 0.9,
  nearly: 0.05,
} as const;

export interface EdgeSearch {
  /** px to each side of the prediction in which a line is looked for */
  readonly reach: number;
  /** how far the point moves while the shutter is open, px of the frame */
  readonly blur: (at: Point) => Point;
  /** how much softer the frame is, px of the frame: see `softness.ts` */
  readonly softness?: number;
  /** how fast things move is known badly, so that a smeared edge is as doubtful as a soft one */
  readonly unforeseen?: boolean;
  /** where the picture of a place of the reference frame lies beside the plane's motion; nowhere when left out */
  readonly offset?: Offset | undefined;
  /** whether a place of the reference frame is followed on this frame; all are when left out */
  readonly followed?: ((at: Point) => boolean) | undefined;
  /** sites of a rail that are enough, evenly chosen; all are measured when left out */
  readonly enough?: number;
}

/** What edges are looked for in. */
export interface EdgeView {
  readonly rails: readonly Rail[];
  readonly image: PyramidLevel;
  readonly search: EdgeSearch;
  /** per rail, px; rails that stray too far are not looked for */
  readonly spread: Float32Array;
}

/** px; a rail this far beside the plane says nothing about it. By trial. */
export const STRAYS = 1.5;

export interface Row {
  readonly rail: number;
  readonly index: number;
  readonly along: number;
  /** on the reference frame */
  readonly site: Point;
  /** where the plane's motion puts it */
  readonly at: Point;
  readonly normal: Point;
  readonly profile: Float32Array;
  readonly matcher: Matcher;
  /** taps that the profile has to spare on each side of the matcher */
  readonly margin: number;
  readonly soft: number;
  /** what tells its place to the sub-pixel once its line is found; itself when left out */
  readonly fine?: Row | undefined;
}

/** Whether a rail is looked for where the frame smears it as much as it does. */
export function isInUse(
  rail: Rail,
  h: Matrix3,
  { blur, softness = 0 }: Pick<EdgeSearch, 'blur' | 'softness'>,
): boolean {
  const [from, to] = rail.smears;
  const site = rail.sites[rail.sites.length >> 1]!;
  const [nx, ny] = rail.outwards;
  if (from === 0 && to === Infinity) return true;
  const at = mapPoint(h, site);
  const out = mapPoint(h, [site[0] + nx, site[1] + ny]);
  const [bx, by] = blur(at);
  const dx = out[0] - at[0];
  const dy = out[1] - at[1];
  const scale = Math.hypot(dx, dy);
  const smear = Math.hypot(Math.abs(bx * dx + by * dy) / scale, softness) / Math.max(1e-9, scale);
  return smear >= from && smear < to;
}

/** Where a rail's site is crossed. */
interface Crossing {
  readonly at: Point;
  readonly tangent: Point;
  readonly normal: Point;
  /** px of the frame per px of the reference, across the rail and along it */
  readonly across: number;
  readonly alongScale: number;
}

/** px of the reference along a rail over which its direction is taken. By trial. */
const CHORD = 6;
/** px of the frame per px of the reference across a rail; one that is seen more from its edge is not looked at. By trial. */
const LEAST_ACROSS = 0.02;

function crossingOf(rail: Rail, [sx, sy]: Point, h: Matrix3): Crossing | null {
  const [tx, ty] = rail.tangent;
  const [nx, ny] = rail.outwards;
  const half = CHORD / 2;
  const at = mapPoint(h, [sx, sy]);
  const a = mapPoint(h, [sx - half * tx, sy - half * ty]);
  const b = mapPoint(h, [sx + half * tx, sy + half * ty]);
  const o = mapPoint(h, [sx + nx, sy + ny]);
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (!(length > 1e-3) || !Number.isFinite(at[0] + at[1] + o[0] + o[1])) return null;
  const tangent: Point = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const signed = (o[0] - at[0]) * tangent[1] - (o[1] - at[1]) * tangent[0];
  const normal: Point = signed > 0 ? [tangent[1], -tangent[0]] : [-tangent[1], tangent[0]];
  const across = Math.abs(signed);
  return across > LEAST_ACROSS ? { at, tangent, normal, across, alongScale: length / CHORD } : null;
}

function isInside(image: PyramidLevel, [x, y]: Point): boolean {
  return x >= image.x0 && y >= image.y0 && x <= image.x0 + image.width && y <= image.y0 + image.height;
}

/** px of the reference between the sites of a rail that has but one. By trial. */
const ONE_SITE = 4;

/** One of how many sites of a rail is looked at where so many are enough. */
export function everyOf({ sites }: Rail, enough = Infinity): number {
  return Math.max(1, Math.floor(sites.length / enough));
}

function spacingOf({ sites: [a, b] }: Rail): number {
  return a && b ? Math.hypot(b[0] - a[0], b[1] - a[1]) : ONE_SITE;
}

/** @param rail its own look and sites, or those without the glass */
function rowsWith(
  { look, sites }: Pick<Rail, 'look' | 'sites'>,
  index: number,
  { rails, image, search }: EdgeView,
  h: Matrix3,
): Row[] {
  const rail = rails[index]!;
  const out: Row[] = [];
  const spacing = spacingOf(rail);
  const every = everyOf(rail, search.enough);
  for (let i = every >> 1; i < rail.sites.length; i += every) {
    const site = sites[i]!;
    if (search.followed && !search.followed(site)) continue;
    const crossing = crossingOf(rail, site, h);
    if (!crossing || !isInside(image, crossing.at)) continue;
    const { at, normal, tangent, across } = crossing;
    const path = search.blur(at);
    const smear = Math.hypot(path[0] * normal[0] + path[1] * normal[1], search.softness ?? 0);
    const matcher = matcherFor(look, across, smear);
    const margin = Math.round((search.reach + ROWS.siteReach + ROWS.smearShare * smear) / ROW_STEP) + 1;
    const profile = new Float32Array(2 * (matcher.half + margin) + 1);
    const [ox, oy] = search.offset?.(site, at) ?? [0, 0];
    const lines = clamp(spacing * crossing.alongScale, 1, ROWS.mostLines);
    if (!sampleProfile(image, [at[0] + ox, at[1] + oy], normal, tangent, ROW_STEP, lines, profile)) continue;
    const soft = search.unforeseen ? smear : (search.softness ?? 0);
    out.push({ rail: index, index: i, along: rail.along[i]!, site, at, normal, profile, matcher, margin, soft });
  }
  return out;
}

/** Taps in which a site is looked for around its line. */
export function siteTaps({ matcher }: Row): number {
  return Math.round((ROWS.siteReach + ROWS.smearShare * matcher.smear) / ROW_STEP);
}

/** How a look is there at the best place within reach, all sites moved alike. */
interface Presence {
  /** mean likeness, 0 to 1 */
  readonly likeness: number;
  /** taps from the prediction */
  readonly at: number;
}

function presence(rows: readonly Row[], reach: number): Presence {
  const count = Math.ceil(reach / ROW_STEP);
  const places = 2 * count + 1;
  const found = new Float64Array(2 * places);
  const sum = new Float64Array(places);
  for (const r of rows) {
    likenessesAt(r.matcher, r.profile, r.margin - count, places, found);
    for (let k = 0; k < places; k++) sum[k]! += found[2 * k]!;
  }
  let best = 0;
  for (let k = 1; k < places; k++) if (Math.abs(sum[k]!) > Math.abs(sum[best]!)) best = k;
  return { likeness: rows.length > 0 ? Math.abs(sum[best]!) / rows.length : 0, at: best - count };
}

/** Whether the glass shows another light than it is remembered with, against the contrast of its edge. */
function isGlassChanged(rows: readonly Row[], { at }: Presence): boolean {
  const changes = rows.map((r) => glassChange(r.matcher, r.profile, r.margin + at)).filter((v) => v !== null);
  return changes.length > 0 && Math.abs(median(changes)) > ROWS.changed;
}

/** Rows whose line is found by one look and whose places are told by another: a part of a look is found in more places. */
function refinedBy(rows: readonly Row[], fine: readonly Row[]): Row[] {
  const byIndex = new Map(fine.map((r) => [r.index, r]));
  return rows.map((r) => ({ ...r, fine: byIndex.get(r.index) }));
}

/**
 * Rows of a rail. Where its look is hardly there as a whole, the glass may show something else: the rest of it is then
 * looked for alone. Where the whole is there, but with another light of the glass, the rest tells the place: how the glass goes over into
 * its bezel is a good part of the look, and another light there pulls a soft edge by a fifth of a px.
 */
function rowsOf(index: number, view: EdgeView, h: Matrix3): Row[] {
  const { bare } = view.rails[index]!;
  const whole = rowsWith(view.rails[index]!, index, view, h);
  if (!bare || whole.length === 0) return whole;
  const there = presence(whole, view.search.reach);
  const isThere = there.likeness > ROWS.whole;
  if (isThere && !isGlassChanged(whole, there)) return whole;
  const rest = rowsWith(bare, index, view, h);
  const { likeness } = presence(rest, view.search.reach);
  if (!isThere) return likeness > there.likeness + ROWS.better ? rest : whole;
  return likeness > Math.max(ROWS.sure, there.likeness - ROWS.nearly) ? refinedBy(whole, rest) : whole;
}

/** Rows of one side's rails that are in use. */
export function rowsOfSide(side: number, view: EdgeView, h: Matrix3): Row[] {
  return view.rails.flatMap((rail, k) =>
    rail.side === side && view.spread[k]! <= STRAYS && isInUse(rail, h, view.search) ? rowsOf(k, view, h) : [],
  );
}
