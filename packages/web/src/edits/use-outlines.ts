/** Outlines of the chosen Screen's recipe, wherever they stand: where they lie on the frame shown, and how they change. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { RidingOutline } from '@yarlop/core/dress/shape/outline-matte';
import { ledByHandles, withShapeOn } from '@yarlop/core/dress/shape/outline-by-hand';
import type { Outline, Shape } from '@yarlop/core/follow/outline/outlines';
import { shapeOn } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { IDENTITY, inverse, multiply } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { withPart } from './use-dress';
import { useWays, withWays } from '../follow/use-ways';
import type { OutlinePart, OutlineRef } from '../stores/outline-choice';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';

export type Patch = NonNullable<Recipe['patches']>[number];

/** What an outline rides on. */
export type Riding = Pick<RidingOutline, 'plane' | 'onPicture'>;

/** An outline as it lies on a frame. */
export interface OutlineHere {
  readonly outline: RidingOutline;
  readonly shape: Shape;
  /** from where its points lie to px of the frame */
  readonly toPicture: Matrix3;
  /** the frame on which its own points hold */
  readonly referenceFrame: number;
}

/** Outlines of a part of the dress; null for what is no outline. */
function inDress(recipe: Recipe, part: 'holdouts' | 'retouches'): (RidingOutline | null)[] {
  const { holdouts = [], retouches = [] } = (recipe.dress ?? {}) as DressRecipe;
  if (part === 'retouches') return [...retouches];
  return holdouts.map((h) => (h.kind === 'outline' ? h : null));
}

export function useOutlines() {
  const store = useShot();
  const playhead = usePlayhead();
  const tracks = useTracks();
  const ways = useWays();

  function all(recipe: Recipe, part: OutlinePart): (RidingOutline | null)[] {
    return part === 'patches' ? [...((ways.here.value.patches ?? []) as Patch[])] : inDress(recipe, part);
  }

  /** The recipe with one outline changed. @param list the outlines of its part as they were when the change began */
  function withOutline(
    recipe: Recipe,
    { part, index }: OutlineRef,
    change: Partial<RidingOutline>,
    list = all(recipe, part),
  ): Recipe {
    if (part === 'patches') {
      const patches = (list as unknown as Patch[]).map((p, k) => (k === index ? ({ ...p, ...change } as Patch) : p));
      return withWays(recipe, ways.span.value, { patches });
    }
    const own = (recipe.dress as DressRecipe)[part]!;
    const changed = own.map((o, k) => (k === index ? { ...o, ...change } : o));
    return withPart(recipe, part, changed);
  }

  /** The plane on which an outline rides, and the frame on which its points hold; null where it is not known. */
  function ride({ plane, onPicture }: Riding, frame: number): Pick<OutlineHere, 'toPicture' | 'referenceFrame'> | null {
    const own = store.chosen;
    const on = plane === undefined ? own : store.screens.find((s) => s.recipe.name === plane);
    if (!own || !on) return null;
    if (onPicture) return { toPicture: IDENTITY, referenceFrame: own.recipe.referenceFrame };
    const toPicture = tracks.plane(on, frame);
    return toPicture && { toPicture, referenceFrame: on.recipe.referenceFrame };
  }

  /** An outline as it lies on the frame shown; null where it is none, or not there. */
  function here(ref: OutlineRef, list = store.chosen ? all(store.chosen.recipe, ref.part) : []): OutlineHere | null {
    const outline = list[ref.index];
    const on = outline && ride(outline, playhead.frame);
    return on ? { ...on, outline, shape: shapeOn(outline, playhead.frame, on.referenceFrame) } : null;
  }

  /** Changes an outline as one step of undo. */
  function change(name: string, ref: OutlineRef, how: (outline: RidingOutline) => Partial<RidingOutline>): void {
    const s = store.chosen;
    const outline = s && all(s.recipe, ref.part)[ref.index];
    if (outline) store.edit(name, withOutline(s.recipe, ref, how(outline)));
  }

  /** Changes the shape on the frame shown as one step of undo. */
  function reshape(name: string, ref: OutlineRef, how: (shape: Shape, at: OutlineHere) => Shape): void {
    const at = here(ref);
    if (at) change(name, ref, (o) => withShapeOn(o, playhead.frame, at.referenceFrame, how(at.shape, at)));
  }

  /** Takes an outline to another plane, or to the picture, so that on the frame shown it stays where it is. */
  function rideOn(ref: OutlineRef, next: Riding): void {
    const at = here(ref);
    const to = at && ride(next, playhead.frame);
    if (!at || !to) return;
    const across = multiply(inverse(to.toPicture), at.toPicture);
    change('Set what outline rides on', ref, (o) => ({
      ...carriedOver(o, across),
      plane: undefined,
      onPicture: undefined,
      ...next,
    }));
  }

  return { all, withOutline, here, change, reshape, rideOn };
}

/** Every shape of an outline through a homography; handles go by where they end. */
function carriedOver(outline: Outline, m: Matrix3): Partial<Outline> {
  const carry = ({ points, handles }: Shape): Shape => ({
    points: points.map((p) => mapPoint(m, p)),
    ...(handles
      ? {
          handles: handles.map(([ix, iy, ox, oy], i) => {
            const [x, y] = points[i]!;
            const [mx, my] = mapPoint(m, [x, y]);
            const end = (dx: number, dy: number): Point => {
              const [ex, ey] = mapPoint(m, [x + dx, y + dy]);
              return [ex - mx, ey - my];
            };
            return [...end(ix, iy), ...end(ox, oy)] as const;
          }),
        }
      : {}),
  });
  const { keys } = outline;
  return { ...carry(outline), ...(keys ? { keys: keys.map((k) => ({ ...k, ...carry(k) })) } : {}) };
}

/** As {@link ledByHandles}, told as a change. */
export function asLed(outline: RidingOutline): Partial<RidingOutline> {
  const { points, handles, keys } = ledByHandles(outline);
  return { points, handles, ...(keys ? { keys } : {}), smooth: undefined };
}
