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

/** A touch-up that moves corners by what they slip on a frame, on that frame alone. @param c what is laid over so far */
function touchUpFrom(f: MeasuredFrame, pin: Quad, c: Corrections, by: readonly (Point | null)[]): TouchUp {
  const at = mapQuad(f.homography, correctedPin(pin, c, f.frame));
  const wanted = by.map((d, i): Point | null => d && [at[i]![0] + d[0], at[i]![1] + d[1]]);
  const offsets = offsetsFor(f.homography, pin, c, f.frame, wanted);
  return { frame: f.frame, offsets, before: POP_FADE, after: POP_FADE };
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

/** What repairs are planned for. */
interface Task extends RepairOptions {
  /** in order, all that were measured */
  readonly frames: readonly MeasuredFrame[];
  readonly pin: Quad;
  /** laid over already */
  readonly now: Corrections;
}

const withMore = ({ now }: Task, more: readonly TouchUp[]): Corrections => ({
  ...now,
  touchUps: [...(now.touchUps ?? []), ...more],
});

/** What a touch-up moves the corners by on each frame where it is whole, px of the frame. */
function wholeOf({ frames, pin }: Task, t: TouchUp, c: Corrections): Point[][] {
  return frames.map((f) =>
    correctedPin(pin, c, f.frame).map((p, k): Point => {
      const a = mapPoint(f.homography, p);
      const b = mapPoint(f.homography, [p[0] + t.offsets[k]![0], p[1] + t.offsets[k]![1]]);
      return [b[0] - a[0], b[1] - a[1]];
    }),
  );
}

/** Of all ways to fade, the one that leaves least. @param c what it is laid over */
function bestFades(
  task: Task,
  t: TouchUp,
  slow: Left['slow'],
  c: Corrections,
  ways: { readonly before: readonly Fade[]; readonly after: readonly Fade[] },
): TouchUp {
  const whole = wholeOf(task, t, c);
  let best = t;
  let least = Infinity;
  for (const before of ways.before)
    for (const after of ways.after) {
      const tried = { ...t, before, after };
      const cost = costOf(tried, task.frames, slow, whole);
      if (cost < least) [best, least] = [tried, cost];
    }
  return best;
}

/** A touch-up for each pop: it is one frame's own, beside what changes slowly. */
function mendedPops(task: Task, state: Left): TouchUp[] {
  const { frames, pin, now, limit, width, right } = task;
  const popped: TouchUp[] = [];
  for (const t of rankSlips(slipsLeft(frames, pin, now, width), width).troubles) {
    const isDone = right.includes(t.frame) || popped.some((p) => p.frame === t.frame);
    if (t.kind !== 'pop' || t.size <= limit || isDone) continue;
    const i = frames.findIndex((f) => f.frame === t.frame);
    const f = frames[i]!;
    const shared = believedSlip(state.by[i]!, mapQuad(f.homography, pin), width, f.sigma).all;
    const own = state.by[i]!.map((told, c): Point | null => {
      const slow = state.slow[i]![c];
      const p = told ?? shared?.[c];
      return p && slow ? [p[0] - slow[0], p[1] - slow[1]] : null;
    });
    popped.push(touchUpFrom(f, pin, now, own));
  }
  return popped;
}

/** Place of the frame that slips most beyond the limit; -1 where none does. @param taken frames that are right */
function worstPlace({ frames, limit }: Task, worst: readonly (number | null)[], taken: ReadonlySet<number>): number {
  let at = -1;
  for (const [i, v] of worst.entries())
    if (v !== null && v > limit && !taken.has(frames[i]!.frame) && (at < 0 || v > worst[at]!)) at = i;
  return at;
}

/**
 * A touch-up for the frame that slips most; null where none slips beyond the limit.
 * @param planned repairs of drift so far; `popped` of pops
 */
function nextRepair(task: Task, state: Left, planned: readonly TouchUp[], popped: readonly TouchUp[]): TouchUp | null {
  const { frames, pin, limit, width, right } = task;
  const worst = worstOf(state.slow, 1920 / width);
  const taken = new Set([...right, ...planned.map((t) => t.frame)]);
  const at = worstPlace(task, worst, taken);
  if (at < 0) return null;
  const n = frames[at]!.frame;
  const c = withMore(task, [...popped, ...planned]);
  const fades = (side: -1 | 1, open: number): Fade[] =>
    fadesOn(
      spanTo([...taken], n, side, -1),
      localSpan(worst, frames, at, side, limit),
      open,
      seenBeyond(state, at, side),
    );
  const ways = { before: fades(-1, n - frames[0]!.frame + 1), after: fades(1, frames.at(-1)!.frame - n + 1) };
  return bestFades(task, touchUpFrom(frames[at]!, pin, c, state.slow[at]!), state.slow, c, ways);
}

/** @param frames in order, all that were measured */
export function planRepairs(
  frames: readonly MeasuredFrame[],
  pin: Quad,
  now: Corrections,
  options: RepairOptions,
): RepairPlan {
  const task: Task = { ...options, frames, pin, now };
  const k = 1920 / options.width;
  const planned: TouchUp[] = [];
  const allowed = Math.max(PLAN.leastAllowed, Math.floor(frames.length / FRAMES_A_REPAIR));
  const before = whatIsLeft(frames, pin, now, options.width);
  // Pops first: what is left is slow.
  const popped = mendedPops(task, before);
  const left = (): Left => whatIsLeft(frames, pin, withMore(task, [...popped, ...planned]), options.width);
  let state = left();
  while (planned.length < PLAN.beyond * allowed) {
    const next = nextRepair(task, state, planned, popped);
    if (!next) break;
    planned.push(next);
    state = left();
  }
  return {
    touchUps: [...planned, ...popped].sort((x, y) => x.frame - y.frame),
    before: worstOf(before.slow, k),
    after: worstOf(state.slow, k),
    tooMany: planned.length > allowed,
    worstRange: planned.length > allowed ? middleHalf(planned.map((t) => t.frame)) : null,
  };
}

/** The stretch in which the middle half of some frames lie. */
function middleHalf(frames: readonly number[]): [number, number] {
  const sorted = [...frames].sort((x, y) => x - y);
  return [sorted[Math.floor(sorted.length / 4)]!, sorted[Math.ceil((3 * sorted.length) / 4) - 1]!];
}
