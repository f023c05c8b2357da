/**
 * Moving corners on whatever frame is shown. Where the pin is set, the edit is carried back to the reference frame by
 * the plane; where it is proved, it is a touch-up of the frame.
 */
import { inverse } from '@yarlop/core/geometry/matrix3';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { correctionAt } from '@yarlop/core/solve/touch-up';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { touchedTo } from './touch-up-edit';
import type { Recipe, Screen } from '../types';

export function usePinEdit() {
  const store = useShot();
  const tracks = useTracks();
  const view = useView();

  function toReference(screen: Screen, frame: number, p: Point): Point | null {
    const h = tracks.plane(screen, frame);
    return h ? mapPoint(inverse(h), p) : null;
  }
  /** What corrections have moved a corner of the pin by on a frame, px of the reference frame. */
  function correction(screen: Screen, i: number, frame: number): Point {
    return correctionAt(screen.recipe, frame)?.[i] ?? [0, 0];
  }
  const moved = (q: Recipe['pin'], i: number, [x, y]: Point): Recipe['pin'] =>
    q.map((p, k) => (k === i ? [x, y] : p)) as unknown as Recipe['pin'];
  /**
   * A corner that is put somewhere on a frame: where the pin was placed by hand there, its own; else the reference's.
   */
  function withCorner(screen: Screen, recipe: Recipe, i: number, p: Point, frame: number): Recipe | null {
    const h = tracks.plane(screen, frame);
    if (view.moves === 'touch-up')
      return (
        h &&
        touchedTo(
          recipe,
          frame,
          h,
          [0, 1, 2, 3].map((k) => (k === i ? p : null)),
        )
      );
    const hand = recipe.hand?.find((k) => k.frame === frame);
    if (hand && frame !== recipe.referenceFrame)
      return { ...recipe, hand: recipe.hand!.map((k) => (k === hand ? { ...k, corners: moved(k.corners, i, p) } : k)) };
    const q = toReference(screen, frame, p);
    const c = correction(screen, i, frame);
    return q?.every(Number.isFinite) ? { ...recipe, pin: moved(recipe.pin, i, [q[0] - c[0], q[1] - c[1]]) } : null;
  }
  /** A drag: previews while it goes on, one step of undo when it ends. */
  function begin(screen: Screen, frame: number, i: number) {
    const before = screen.recipe;
    let after = before;
    return {
      to(p: Point): void {
        const next = withCorner(screen, before, i, p, frame);
        if (!next) return;
        after = next;
        store.preview(screen.id, after);
      },
      end(): void {
        if (after !== before) store.edit(`Move corner ${CORNER_NAMES[i]}`, after, before);
      },
    };
  }
  function nudge(i: number, dx: number, dy: number, frame: number): void {
    const s = store.chosen;
    if (!s) return;
    const corners = tracks.corners(s, frame);
    const p = corners?.[i];
    const after = p && withCorner(s, s.recipe, i, [p[0] + dx, p[1] + dy], frame);
    if (after) store.edit(`Nudge corner ${CORNER_NAMES[i]}`, after);
  }
  /** All four corners put somewhere on a frame, as one step of undo. */
  function place(name: string, corners: Quad, frame: number): void {
    const s = store.chosen;
    if (!s) return;
    const after = corners.reduce<Recipe | null>((r, p, i) => r && withCorner(s, r, i, p, frame), s.recipe);
    if (after) store.edit(name, after);
  }
  function set(i: number, p: Point): void {
    const s = store.chosen;
    if (s) store.edit(`Type corner ${CORNER_NAMES[i]}`, { ...s.recipe, pin: moved(s.recipe.pin, i, p) });
  }
  return { begin, nudge, place, set };
}
