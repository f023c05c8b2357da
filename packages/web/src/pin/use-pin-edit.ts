/** Moving the pin's corners on whatever frame is shown: the edit is carried back to the reference frame by the plane. */
import { inverse } from '@yarlop/core/geometry/matrix3';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe, Screen } from '../types';

export function usePinEdit() {
  const store = useShot(), tracks = useTracks();

  function toReference(screen: Screen, frame: number, p: Point): Point | null {
    if (frame === screen.recipe.referenceFrame) return p;
    const f = tracks.tracks.get(screen.id)?.frames.get(frame);
    return f ? mapPoint(inverse(f.homography), p) : null;
  }
  function withCorner(recipe: Recipe, i: number, [x, y]: Point): Recipe {
    const pin = recipe.pin.map((p, k) => (k === i ? [x, y] : p)) as unknown as Recipe['pin'];
    return { ...recipe, pin };
  }
  /** A drag: previews while it goes on, one step of undo when it ends. */
  function begin(screen: Screen, frame: number, i: number) {
    const before = screen.recipe;
    let after = before;
    return {
      to(p: Point): void {
        const q = toReference(screen, frame, p);
        if (!q || !q.every(Number.isFinite)) return;
        after = withCorner(before, i, q);
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
    const corners = tracks.corners(s.id, frame, s.recipe.pin, s.recipe.referenceFrame), p = corners?.[i];
    const q = p && toReference(s, frame, [p[0] + dx, p[1] + dy]);
    if (q) store.edit(`Nudge corner ${CORNER_NAMES[i]}`, withCorner(s.recipe, i, q));
  }
  function set(i: number, p: Point): void {
    const s = store.chosen;
    if (s) store.edit(`Type corner ${CORNER_NAMES[i]}`, withCorner(s.recipe, i, p));
  }
  return { begin, nudge, set };
}
