/**
 * The fewest touch-ups that bring every measured slip under a limit: the worst frame is corrected, what is left is
 * worked out again, and so on. A pop is mended on its own frame; drift is faded to the neighbouring repairs and to the
 * frames that are right by definition. Wanting many means that the track itself is bad, which is said.
 */
import { mapPoint } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { mapQuad } from '../geometry/quad';
import type { Corrections, Fade, TouchUp } from '../solve/touch-up';
import { correctedPin, offsetsFor, shareAt, spanTo } from '../solve/touch-up';
import { believedSlip } from './believed-slip';
import { rankSlips, slowPart } from './ranking';
import type { MeasuredFrame } from './residual-slip';
import { residualSlip, slipsLeft } from './residual-slip';

export interface RepairOptions {
  /** px at 1920 wide under which a slip may stay */
  readonly limit: number;
  /** of the picture, px */
  readonly width: number;
  /** frames on which the pin is right by definition: the reference, and those placed by hand */
  readonly right: readonly number[];
}

export interface RepairPlan {
  readonly touchUps: readonly TouchUp[];
  /** per measured frame, the worst corner's slip before and after, px at 1920 wide; null where none could be told */
  readonly before: readonly (number | null)[];
  readonly after: readonly (number | null)[];
  /** more repairs than a good track wants */
  readonly tooMany: boolean;
  /** the stretch that wants most of them, when there are too many */
  readonly worstRange: readonly [number, number] | null;
}

/** Frames; more than about one repaired in so many means a bad track. Common practice, no source. */
export const FRAMES_A_REPAIR = 15;
const PLAN = {
  /**
   * Times as many repairs as is sensible after which planning leaves off, so that the curve still shows what they
   * would do. By trial.
   */
  beyond: 2,
  /** Repairs that are allowed however short the shot. By trial. */
  leastAllowed: 1,
  /** Share of the limit to which a slip must have gone for a repair to reach no farther. By trial. */
  gone: 0.4,
  /** Frames over which a repair fades where nothing beyond it can be told. By trial. */
  unseen: 12,
} as const;
/** A pop is mended when it exceeds the limit by itself. */
const POP_FADE: Fade = { frames: 1, shape: 'linear' };

const NONE: readonly null[] = [null, null, null, null];

interface Left {
  /** per frame and corner as measured, px of the frame */
  readonly by: readonly (readonly (Point | null)[])[];
  /** the slowly changing part of it that is believed; of corners that were not told too, where others were */
  readonly slow: readonly (readonly (Point | null)[])[];
}

/** What is left of the slips with corrections laid over. */
function whatIsLeft(frames: readonly MeasuredFrame[], pin: Quad, c: Corrections, width: number): Left {
  const left = frames.map((f) => residualSlip(f, pin, c));
  const believed = left.map((f, i) => ({
    frame: f.frame,
    by: believedSlip(f.by, mapQuad(frames[i]!.homography, pin), width, frames[i]!.sigma).all ?? NONE,
  }));
  const slow = [0, 1, 2, 3].map((k) => slowPart(believed, k));
  return { by: left.map((f) => f.by), slow: frames.map((_, i) => slow.map((s) => s[i] ?? null)) };
}

function worstOf(frames: readonly (readonly (Point | null)[])[], k: number): (number | null)[] {
  return frames.map((f) => f.reduce<number | null>((w, p) => (p ? Math.max(w ?? 0, Math.hypot(...p) * k) : w), null));
}

/** A touch-up that moves corners by what they slip on a frame. */
export function touchUpFrom(
  f: MeasuredFrame,
  pin: Quad,
  c: Corrections,
  by: readonly (Point | null)[],
  before: Fade,
  after: Fade,
): TouchUp {
  const at = mapQuad(f.homography, correctedPin(pin, c, f.frame));
  const wanted = by.map((d, i): Point | null => d && [at[i]![0] + d[0], at[i]![1] + d[1]]);
  return { frame: f.frame, offsets: offsetsFor(f.homography, pin, c, f.frame, wanted), before, after };
}

/** Whether slip is told farther off on one side, beyond the frames that the running median takes in. */
function seenBeyond(state: Left, at: number, side: -1 | 1): boolean {
  for (let i = at + 4 * side; i >= 0 && i < state.by.length; i += side)
    if (state.by[i]!.some((p) => p !== null)) return true;
  return false;
}

/** Frames to where the trouble ends on one side; null where it never does. */
function localSpan(
  worst: readonly (number | null)[],
  frames: readonly MeasuredFrame[],
  at: number,
  side: -1 | 1,
  limit: number,
): number | null {
  for (let i = at + side; i >= 0 && i < frames.length; i += side)
    if (worst[i] !== null && worst[i]! < PLAN.gone * limit) return Math.abs(frames[i]!.frame - frames[at]!.frame);
  return null;
}

/**
 * The ways in which a repair may end on one side: at the next frame that is right, where the trouble ends, or not at
 * all.
 */
function fadesOn(anchor: number, local: number | null, open: number, seen: boolean): Fade[] {
  // What lies beyond all that could be told is left alone before long.
  if (anchor < 0 && !seen)
    return [{ frames: Math.min(PLAN.unseen, open), shape: open <= PLAN.unseen ? 'hold' : 'eased' }];
  const reach = [
    ...new Set([...(anchor > 0 ? [anchor] : []), ...(local !== null && (anchor < 0 || local < anchor) ? [local] : [])]),
  ];
  return [
    ...reach.flatMap((frames): Fade[] => [
      { frames, shape: 'linear' },
      { frames, shape: 'eased' },
    ]),
    ...(anchor < 0
      ? ([
          { frames: open, shape: 'hold' },
          { frames: open, shape: 'linear' },
        ] as const)
      : []),
  ];
}

/** Sum of squares of what is left, were a touch-up made that moves the corners by so much where it is whole. */
function costOf(
  t: TouchUp,
  frames: readonly MeasuredFrame[],
  slow: Left['slow'],
  whole: readonly (readonly Point[])[],
): number {
  let sum = 0;
  for (const [i, f] of frames.entries()) {
    const w = shareAt(t, f.frame);
    for (const [c, p] of slow[i]!.entries())
      if (p) sum += (p[0] - w * whole[i]![c]![0]) ** 2 + (p[1] - w * whole[i]![c]![1]) ** 2;
  }
  return sum;
}

/** Of all ways to fade, the one that leaves least. */
function bestFades(
  t: TouchUp,
  before: readonly Fade[],
  after: readonly Fade[],
  frames: readonly MeasuredFrame[],
  slow: Left['slow'],
  pin: Quad,
  c: Corrections,
): TouchUp {
  const whole = frames.map((f) => {
    const now = correctedPin(pin, c, f.frame);
    return now.map((p, k): Point => {
      const a = mapPoint(f.homography, p);
      const b = mapPoint(f.homography, [p[0] + t.offsets[k]![0], p[1] + t.offsets[k]![1]]);
      return [b[0] - a[0], b[1] - a[1]];
    });
  });
  let best = t;
  let least = Infinity;
  for (const b of before)
    for (const a of after) {
      const tried = { ...t, before: b, after: a };
      const cost = costOf(tried, frames, slow, whole);
      if (cost < least) [best, least] = [tried, cost];
    }
  return best;
}

/** @param frames in order, all that were measured */
export function planRepairs(
  frames: readonly MeasuredFrame[],
  pin: Quad,
  now: Corrections,
  { limit, width, right }: RepairOptions,
): RepairPlan {
  const k = 1920 / width;
  const planned: TouchUp[] = [];
  const popped: TouchUp[] = [];
  const [first, last] = [frames[0]?.frame ?? 0, frames.at(-1)?.frame ?? 0];
  const allowed = Math.max(PLAN.leastAllowed, Math.floor(frames.length / FRAMES_A_REPAIR));
  const withPlan = (more: readonly TouchUp[]): Corrections => ({
    ...now,
    touchUps: [...(now.touchUps ?? []), ...more],
  });
  const before = whatIsLeft(frames, pin, now, width);
  let state: Left = before;
  // Pops first: they are one frame's own, and what is left is slow.
  for (const t of rankSlips(slipsLeft(frames, pin, now, width), width).troubles) {
    if (t.kind !== 'pop' || t.size <= limit || popped.some((p) => p.frame === t.frame) || right.includes(t.frame))
      continue;
    const i = frames.findIndex((f) => f.frame === t.frame);
    const shared = believedSlip(state.by[i]!, mapQuad(frames[i]!.homography, pin), width, frames[i]!.sigma).all;
    const own = state.by[i]!.map((told, c): Point | null => {
      const s = state.slow[i]![c];
      const p = told ?? shared?.[c];
      return p && s ? [p[0] - s[0], p[1] - s[1]] : null;
    });
    popped.push(touchUpFrom(frames[i]!, pin, now, own, POP_FADE, POP_FADE));
  }
  state = whatIsLeft(frames, pin, withPlan(popped), width);
  while (planned.length < PLAN.beyond * allowed) {
    const worst: readonly (number | null)[] = worstOf(state.slow, k);
    const taken = new Set([...right, ...planned.map((t) => t.frame)]);
    let at = -1;
    for (const [i, v] of worst.entries())
      if (v !== null && v > limit && !taken.has(frames[i]!.frame) && (at < 0 || v > worst[at]!)) at = i;
    if (at < 0) break;
    const n = frames[at]!.frame;
    const anchors = [...taken];
    const c = withPlan([...popped, ...planned]);
    const open = { back: n - first + 1, on: last - n + 1 };
    const b = spanTo(anchors, n, -1, -1);
    const a = spanTo(anchors, n, 1, -1);
    const whole = touchUpFrom(frames[at]!, pin, c, state.slow[at]!, POP_FADE, POP_FADE);
    planned.push(
      bestFades(
        whole,
        fadesOn(b, localSpan(worst, frames, at, -1, limit), open.back, seenBeyond(state, at, -1)),
        fadesOn(a, localSpan(worst, frames, at, 1, limit), open.on, seenBeyond(state, at, 1)),
        frames,
        state.slow,
        pin,
        c,
      ),
    );
    state = whatIsLeft(frames, pin, withPlan([...popped, ...planned]), width);
  }
  const tooMany = planned.length > allowed;
  const frames3 = planned.map((t) => t.frame).sort((x, y) => x - y);
  return {
    touchUps: [...planned, ...popped].sort((x, y) => x.frame - y.frame),
    before: worstOf(before.slow, k),
    after: worstOf(state.slow, k),
    tooMany,
    worstRange: tooMany
      ? [frames3[Math.floor(frames3.length / 4)]!, frames3[Math.ceil((3 * frames3.length) / 4) - 1]!]
      : null,
  };
}
