/**
 * Looks across edges made ready to be found: scaled as the view is, smeared as the movement smears them, with the levels
 * of the glass and of what lies outside free.
 */
import { clamp } from '../../clamp';
import { LRUCache } from 'lru-cache';
import { CoreError } from '../../errors';
import type { EdgeLook, Matcher } from './edge-look';
import { LOOK_STEP } from './edge-look';

/** px of the frame between the taps of a matcher. By trial. */
const STEP = 0.5;
/** px over which a level goes over into what lies beside it, at the least. By trial. */
const LEAST_SOFT = 1.6;
/** Share of the look that must still be its own for its levels to be left free. By trial. */
const OWN = 0.35;

/** Share of a level that the levels before it must leave of it. By trial. */
const LEVEL_OF_ITS_OWN = 0.05;

/** Share of the way from the glass to the outside on which a bezel's own level is looked for. By trial. */
const BEZEL = 0.7;
/** px of that way below which there is none. By trial. */
const LEAST_BEZEL = 2;

/** Integral of a profile from its first tap, for means over any stretch; constant beyond its ends. */
function integral(profile: Float32Array): (x: number) => number {
  const sum = new Float64Array(profile.length);
  const middle = (profile.length - 1) / 2;
  const last = profile.length - 1;
  for (let i = 1; i <= last; i++) sum[i] = sum[i - 1]! + 0.5 * (profile[i - 1]! + profile[i]!);
  return (x) => {
    const t = x / LOOK_STEP + middle;
    if (t <= 0) return LOOK_STEP * t * profile[0]!;
    if (t >= last) return LOOK_STEP * (sum[last]! + (t - last) * profile[last]!);
    const i = Math.floor(t);
    const f = t - i;
    return LOOK_STEP * (sum[i]! + f * (profile[i]! + 0.5 * f * (profile[i + 1]! - profile[i]!)));
  };
}

function remove(v: Float32Array, unit: Float32Array): void {
  const s = dot(v, unit);
  for (let i = 0; i < v.length; i++) v[i]! -= s * unit[i]!;
}

function dot(a: Float32Array, b: Float32Array): number {
  let s = 0;
  for (let i = 0; i < a.length; i++) s += a[i]! * b[i]!;
  return s;
}

function length(v: Float32Array): number {
  let s = 0;
  for (const x of v) s += x * x;
  return Math.sqrt(s);
}

function normalise(v: Float32Array): number {
  const l = length(v);
  for (let i = 0; i < v.length; i++) v[i]! /= l || 1;
  return l;
}

/**
 * What the glass makes of a look: how its light goes over into what lies beyond its edge, as soft as it is. Another light
 * of the glass is more or less of that. Null where nothing between the glass and the outside has a level of its own.
 */
function innerPart({ profile, glass, outside }: EdgeLook): Float32Array | null {
  const middle = (profile.length - 1) / 2;
  const at = (x: number): number => clamp(Math.round(x / LOOK_STEP + middle), 1, profile.length - 2);
  const [from, to] = [at(glass), at(glass + BEZEL * (outside - glass))];
  if (to - from < LEAST_BEZEL / LOOK_STEP) return null;
  const sign = profile[from + 1]! > profile[from - 1]! ? 1 : -1;
  let top = from;
  for (let i = from; i <= to; i++) if (sign * profile[i]! > sign * profile[top]!) top = i;
  return profile.map((v, i) => (i < top ? v - profile[top]! : 0));
}

/** Windows and profiles of a look as one scale and smear show them, tap by tap. */
interface Shown {
  /** 1 where the look counts */
  readonly window: Float32Array;
  /** a profile of the reference */
  readonly seen: (profile: Float32Array) => Float32Array;
  /** the level beyond an edge, px of the reference from the rail, inwards or outwards */
  readonly beyond: (edge: number, side: 1 | -1) => Float32Array;
}

function shownAt(l: EdgeLook, half: number, scale: number, smear: number): Shown {
  const wide = Math.max(smear, STEP);
  const soft = Math.max(smear, LEAST_SOFT);
  const at = (i: number): number => (i - half) * STEP;
  const [lo, hi] = [l.lo * scale - smear / 2 - 0.5, l.hi * scale + smear / 2 + 0.5];
  const window = Float32Array.from({ length: 2 * half + 1 }, (_, i) => (at(i) >= lo && at(i) <= hi ? 1 : 0));
  return {
    window,
    seen(profile) {
      const of = integral(profile);
      return window.map(
        (w, i) => (w * (of((at(i) + wide / 2) / scale) - of((at(i) - wide / 2) / scale)) * scale) / wide,
      );
    },
    beyond: (edge, side) => window.map((w, i) => w * clamp(0.5 + (side * (at(i) - edge * scale)) / soft, 0, 1)),
  };
}

/** The levels that are free, beside a constant: orthonormal, without those that the ones before them hold already. */
function freeLevels(one: Float32Array, levels: readonly Float32Array[]): Float32Array[] {
  const free = [one];
  for (const level of levels) {
    const unit = level.slice();
    for (const f of free) remove(unit, f);
    // Both sides of one and the same edge are one level, not two.
    if (normalise(unit) > LEVEL_OF_ITS_OWN * length(level)) free.push(unit);
  }
  return free;
}

/** What the levels leave of a look, and those levels, one after the other over the taps that count. */
function packed(window: Float32Array, rows: readonly Float32Array[]): Pick<Matcher, 'from' | 'taps' | 'look'> {
  const from = window.indexOf(1);
  const taps = window.lastIndexOf(1) + 1 - from;
  const look = new Float32Array(3 * taps);
  for (const [k, v] of rows.entries()) look.set(v.subarray(from, from + taps), k * taps);
  return { from, taps, look };
}

/**
 * @param scale px of the frame per px of the reference, across the edge
 * @param smear px of the frame that the edge moves across itself while the shutter is open
 */
export function makeMatcher(l: EdgeLook, scale: number, smear: number): Matcher {
  const reach = Math.max(-l.lo, l.hi) * scale + smear / 2;
  const half = Math.max(5, Math.ceil(reach / STEP));
  const { window, seen, beyond } = shownAt(l, half, scale, smear);
  const one = window.slice();
  const look = seen(l.profile);
  normalise(one);
  remove(look, one);
  const contrast = length(look);
  const inner = innerPart(l);
  const glass = inner ? seen(inner) : beyond(l.glass, -1);
  const outside = beyond(l.outside, 1);
  for (const levels of [[glass, outside], l.ofGlass ? [glass] : [outside], l.ofGlass ? [outside] : [glass], []]) {
    const free = freeLevels(one, levels);
    const own = look.slice();
    for (const f of free) remove(own, f);
    if (length(own) <= OWN * contrast && levels.length > 0) continue;
    const norm = normalise(own);
    return {
      scale,
      smear,
      step: STEP,
      half,
      turns: l.ofGlass || !levels.includes(outside),
      ...packed(window, [own, ...free.slice(1)]),
      length: norm,
      contrast,
      glassLevel: levels[0] === glass && free.length > 1 ? dot(look, free[1]!) : null,
    };
  }
  throw new CoreError('invalid', 'An edge without a look.');
}

const MATCHERS = {
  /** Logarithm of scales that share a matcher: it is off by a hundredth at the most. By trial. */
  scale: 0.02,
  /** px of smear that share one. By trial. */
  smear: 0.25,
  /** Of a look that are kept. By trial. */
  kept: 64,
} as const;
const made = new WeakMap<EdgeLook, LRUCache<string, Matcher>>();

/** A matcher that is near enough to scale and smear ({@link makeMatcher}), the same one whatever was asked for before. */
export function matcherFor(look: EdgeLook, scale: number, smear: number): Matcher {
  const scaleStep = Math.round(Math.log(scale) / MATCHERS.scale);
  const smearStep = Math.round(smear / MATCHERS.smear);
  const own = made.get(look) ?? new LRUCache<string, Matcher>({ max: MATCHERS.kept });
  made.set(look, own);
  const key = `${scaleStep} ${smearStep}`;
  const before = own.get(key);
  if (before) return before;
  const matcher = makeMatcher(look, Math.exp(scaleStep * MATCHERS.scale), smearStep * MATCHERS.smear);
  own.set(key, matcher);
  return matcher;
}
