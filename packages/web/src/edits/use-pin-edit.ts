/**
 * Moving corners on whatever frame is shown. Where the pin is set, the edit is carried back to the reference frame by
 * the plane; where it is proved, it is a touch-up of the frame.
 */
import { inverse } from '@yarlop/core/geometry/matrix3';
import { mapPoint, quadToQuad } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { CORNER_NAMES, mapQuad } from '@yarlop/core/geometry/quad';
import { correctionAt } from '@yarlop/core/solve/touch-up';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import { touchedTo } from './touch-up-edit';
import type { Recipe, Screen } from '../types';

/** A recipe with another pin: where it was placed by hand, the plane stays what it was and carries the new one. */
export function withPin(recipe: Recipe, pin: Recipe['pin']): Recipe {
  if (!recipe.hand) return { ...recipe, pin };
  const hand = recipe.hand.map((k) => ({ ...k, corners: mapQuad(quadToQuad(recipe.pin, k.corners), pin) }));
  return { ...recipe, pin, hand: hand as NonNullable<Recipe['hand']> };
}

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
  /**
   * Corners that are put somewhere on a frame: as a touch-up, where the pin is proved; where it was placed by hand there,
   * its own; else the reference's.
   * @param places px of the frame; corners left out stay
   */
  function withCorners(
    screen: Screen,
    recipe: Recipe,
    places: readonly (Point | null)[],
    frame: number,
  ): Recipe | null {
    const h = tracks.plane(screen, frame);
    if (view.moves === 'touch-up') return h && touchedTo(recipe, frame, h, places);
    const hand = recipe.hand?.find((k) => k.frame === frame);
    if (hand && frame !== recipe.referenceFrame) {
      const corners = hand.corners.map((p, i) => places[i] ?? p) as unknown as Recipe['pin'];
      return { ...recipe, hand: recipe.hand!.map((k) => (k === hand ? { ...k, corners } : k)) };
    }
    const pin = recipe.pin.map((p, i): Point => {
      const at = places[i];
      if (!at) return p;
      const q = toReference(screen, frame, at) ?? [NaN, NaN];
      const c = correction(screen, i, frame);
      return [q[0] - c[0], q[1] - c[1]];
    });
    return pin.flat().every(Number.isFinite) ? withPin(recipe, pin as unknown as Recipe['pin']) : null;
  }
  const alone = (i: number, p: Point): (Point | null)[] => [0, 1, 2, 3].map((k) => (k === i ? p : null));
  /**
   * A drag: previews while it goes on, one step of undo when it ends.
   * @param made the recipe after a place was dragged to
   */
  function dragged(screen: Screen, name: string, made: (before: Recipe, to: Point) => Recipe | null) {
    const before = screen.recipe;
    let after = before;
    return {
      to(p: Point): void {
        const next = made(before, p);
        if (!next) return;
        after = next;
        store.preview(screen.id, after);
      },
      end(): void {
        if (after !== before) store.edit(name, after, before);
      },
    };
  }
  const begin = (screen: Screen, frame: number, i: number) =>
    dragged(screen, `Move corner ${CORNER_NAMES[i]}`, (before, p) => withCorners(screen, before, alone(i, p), frame));
  /** The whole pin dragged. @param moved its corners after a place was dragged to */
  const beginWhole = (screen: Screen, frame: number, name: string, moved: (to: Point) => Quad) =>
    dragged(screen, name, (before, p) => withCorners(screen, before, moved(p), frame));
  /** The whole pin moved by a key. */
  function nudgeWhole(name: string, moved: (corners: Quad) => Quad, frame: number): void {
    const s = store.chosen;
    const corners = s && tracks.corners(s, frame);
    const after = corners && withCorners(s, s.recipe, moved(corners), frame);
    if (after) store.edit(`Nudge: ${name}`, after);
  }
  function nudge(i: number, dx: number, dy: number, frame: number): void {
    const s = store.chosen;
    if (!s) return;
    const corners = tracks.corners(s, frame);
    const p = corners?.[i];
    const after = p && withCorners(s, s.recipe, alone(i, [p[0] + dx, p[1] + dy]), frame);
    if (after) store.edit(`Nudge corner ${CORNER_NAMES[i]}`, after);
  }
  /** All four corners put somewhere on a frame, as one step of undo. */
  function place(name: string, corners: Quad, frame: number): void {
    const s = store.chosen;
    if (!s) return;
    const after = withCorners(s, s.recipe, corners, frame);
    if (after) store.edit(name, after);
  }
  function set(i: number, p: Point): void {
    const s = store.chosen;
    if (!s) return;
    const pin = s.recipe.pin.map((q, k) => (k === i ? p : q)) as unknown as Recipe['pin'];
    store.edit(`Type corner ${CORNER_NAMES[i]}`, withPin(s.recipe, pin));
  }
  return { begin, beginWhole, nudge, nudgeWhole, place, set };
}
