/**
 * Touch-ups of a recipe: made and changed by moving corners on a frame. Plain functions, so that they can be tested by
 * themselves.
 */
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Fade, TouchUp } from '@yarlop/core/solve/touch-up';
import { offsetsFor, spanTo } from '@yarlop/core/solve/touch-up';
import type { Recipe } from '../types';

/** Frames over which a touch-up fades when nothing nearer ends it. */
const USUAL_FADE = 24;

const sorted = (list: readonly TouchUp[]): TouchUp[] => [...list].sort((a, b) => a.frame - b.frame);
const asRecipe = (r: Recipe, touchUps: readonly TouchUp[]): Recipe => ({
  ...r,
  touchUps: sorted(touchUps) as unknown as NonNullable<Recipe['touchUps']>,
});
export const touchUpsOf = (r: Recipe): readonly TouchUp[] => (r.touchUps ?? []) as unknown as readonly TouchUp[];
export const touchUpAt = (r: Recipe, frame: number): TouchUp | undefined =>
  touchUpsOf(r).find((t) => t.frame === frame && !t.muted);

/**
 * Fades of a new touch-up: to the nearest frame that is settled (touched up, placed by hand, the reference), or the
 * usual.
 */
export function fadesFor(r: Recipe, frame: number): { before: Fade; after: Fade } {
  const anchors = [
    r.referenceFrame,
    ...(r.hand ?? []).map((k) => k.frame),
    ...touchUpsOf(r)
      .filter((t) => !t.muted)
      .map((t) => t.frame),
  ];
  const fade = (side: -1 | 1): Fade => ({
    frames: Math.min(USUAL_FADE, spanTo(anchors, frame, side, USUAL_FADE)),
    shape: 'eased',
  });
  return { before: fade(-1), after: fade(1) };
}

const added = (a: Quad, b: Quad): Quad => a.map((p, i): Point => [p[0] + b[i]![0], p[1] + b[i]![1]]) as unknown as Quad;

/**
 * The recipe in which corners lie elsewhere on a frame, by a touch-up there.
 * @param h reference frame to frame, as followed
 * @param wanted px of the frame; corners left out stay
 */
export function touchedTo(
  r: Recipe,
  frame: number,
  h: Matrix3,
  wanted: readonly (Point | null)[],
  fades = fadesFor(r, frame),
): Recipe {
  const more = offsetsFor(h, r.pin, r, frame, wanted);
  const own = touchUpAt(r, frame);
  if (!more.every((p) => p.every(Number.isFinite))) return r;
  if (own)
    return asRecipe(
      r,
      touchUpsOf(r).map((t) => (t === own ? { ...t, offsets: added(t.offsets, more) } : t)),
    );
  return asRecipe(r, [...touchUpsOf(r), { frame, offsets: more, ...fades }]);
}

export function changed(r: Recipe, index: number, part: Partial<TouchUp>): Recipe {
  return asRecipe(
    r,
    touchUpsOf(r).map((t, i) => (i === index ? { ...t, ...part } : t)),
  );
}

export function without(r: Recipe, index: number): Recipe {
  return asRecipe(
    r,
    touchUpsOf(r).filter((_, i) => i !== index),
  );
}

export function withMore(r: Recipe, more: readonly TouchUp[]): Recipe {
  return asRecipe(r, [...touchUpsOf(r), ...more]);
}
