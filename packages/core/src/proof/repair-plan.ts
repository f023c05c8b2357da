/**
 * The fewest touch-ups that bring every measured slip under a limit: the worst frame is corrected, what is left is worked
 * out again, and so on. A pop is mended on its own frame; drift is faded to the neighbouring repairs and to the frames that
 * are right by definition. Wanting many means that the track itself is bad, which is said.
 */
import { mapPoint } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import type { Corrections, Fade, TouchUp } from '../solve/touch-up';
import { correctedPin, spanTo } from '../solve/touch-up';
import { rankSlips, slowPart } from './ranking';
import type { MeasuredFrame } from './residual-slip';
import { residualSlip } from './residual-slip';

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

/** Common practice, no source: more than about one repaired frame in fifteen means a bad track. */
export const FRAMES_A_REPAIR = 15;
/** Repairs after which planning leaves off, beyond what is sensible, so that the curve still shows what they would do. */
const BEYOND = 2, LEAST_ALLOWED = 1;
/** A pop is mended when it exceeds the limit by itself. */
const POP_FADE: Fade = { frames: 1, shape: 'linear' };

/** The slowly changing slip of each corner on each frame, px of the frame, with the corrections laid over. */
function slowSlips(frames: readonly MeasuredFrame[], pin: Quad, c: Corrections): { by: (Point | null)[][]; slow: (Point | null)[][] } {
  const left = frames.map((f) => residualSlip(f, pin, c)), slow = [0, 1, 2, 3].map((k) => slowPart(left, k));
  return { by: left.map((f) => [...f.by]), slow: frames.map((_, i) => slow.map((s) => s[i] ?? null)) };
}

function worstOf(frames: readonly (readonly (Point | null)[])[], k: number): (number | null)[] {
  return frames.map((f) => f.reduce<number | null>((w, p) => (p ? Math.max(w ?? 0, Math.hypot(...p) * k) : w), null));
}

/** A touch-up that moves corners by what they slip on a frame. */
export function touchUpFrom(f: MeasuredFrame, pin: Quad, c: Corrections, by: readonly (Point | null)[], before: Fade, after: Fade): TouchUp {
  const now = correctedPin(pin, c, f.frame), back = inverse(f.homography);
  const offsets = now.map((p, i): Point => {
    const d = by[i];
    if (!d) return [0, 0];
    const at = mapPoint(f.homography, p), to = mapPoint(back, [at[0] + d[0], at[1] + d[1]]);
    return [to[0] - p[0], to[1] - p[1]];
  }) as unknown as Quad;
  return { frame: f.frame, offsets, before, after };
}

function cost(slow: readonly (readonly (Point | null)[])[]): number {
  let sum = 0;
  for (const f of slow) for (const p of f) if (p) sum += p[0] ** 2 + p[1] ** 2;
  return sum;
}

/** @param frames in order, all that were measured */
export function planRepairs(frames: readonly MeasuredFrame[], pin: Quad, now: Corrections, { limit, width, right }: RepairOptions): RepairPlan {
  const k = 1920 / width, planned: TouchUp[] = [], popped: TouchUp[] = [], [first, last] = [frames[0]?.frame ?? 0, frames.at(-1)?.frame ?? 0], allowed = Math.max(LEAST_ALLOWED, Math.floor(frames.length / FRAMES_A_REPAIR));
  const withPlan = (more: readonly TouchUp[]): Corrections => ({ ...now, touchUps: [...(now.touchUps ?? []), ...more] }), before = slowSlips(frames, pin, now);
  let state = before;
  // Pops first: they are one frame's own, and what is left is slow.
  for (const t of rankSlips(frames.map((f) => residualSlip(f, pin, now)), width).troubles) {
    if (t.kind !== 'pop' || t.size <= limit || popped.some((p) => p.frame === t.frame) || right.includes(t.frame)) continue;
    const i = frames.findIndex((f) => f.frame === t.frame), own = state.by[i]!.map((p, c): Point | null => {
      const s = state.slow[i]![c];
      return p && s ? [p[0] - s[0], p[1] - s[1]] : null;
    });
    popped.push(touchUpFrom(frames[i]!, pin, now, own, POP_FADE, POP_FADE));
  }
  state = slowSlips(frames, pin, withPlan(popped));
  while (planned.length < BEYOND * allowed) {
    const worst = worstOf(state.slow, k), taken = new Set([...right, ...planned.map((t) => t.frame)]);
    let at = -1;
    for (const [i, v] of worst.entries()) if (v !== null && v > limit && !taken.has(frames[i]!.frame) && (at < 0 || v > worst[at]!)) at = i;
    if (at < 0) break;
    const n = frames[at]!.frame, anchors = [...taken], c = withPlan([...popped, ...planned]), open = { back: n - first + 1, on: last - n + 1 };
    const b = spanTo(anchors, n, -1, -1), a = spanTo(anchors, n, 1, -1);
    let best: { touchUp: TouchUp; state: typeof state; cost: number } | null = null;
    for (const shape of ['linear', 'eased'] as const) {
      const touchUp = touchUpFrom(frames[at]!, pin, c, state.slow[at]!, b < 0 ? { frames: open.back, shape: 'hold' } : { frames: b, shape }, a < 0 ? { frames: open.on, shape: 'hold' } : { frames: a, shape });
      const next = slowSlips(frames, pin, withPlan([...popped, ...planned, touchUp])), left = cost(next.slow);
      if (!best || left < best.cost) best = { touchUp, state: next, cost: left };
    }
    planned.push(best!.touchUp);
    state = best!.state;
  }
  const tooMany = planned.length > allowed, frames3 = planned.map((t) => t.frame).sort((x, y) => x - y);
  return {
    touchUps: [...planned, ...popped].sort((x, y) => x.frame - y.frame), before: worstOf(before.by, k), after: worstOf(state.by, k), tooMany,
    worstRange: tooMany ? [frames3[Math.floor(frames3.length / 4)]!, frames3[Math.ceil((3 * frames3.length) / 4) - 1]!] : null,
  };
}
