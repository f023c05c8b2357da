/** Outlines of the chosen Screen's recipe, wherever they stand: where they lie on the frame shown, and how they change. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { RidingOutline } from '@yarlop/core/dress/shape/outline-matte';
import { carriedShape, withShapeOn } from '@yarlop/core/dress/shape/outline-by-hand';
import type { Shape } from '@yarlop/core/follow/outline/outlines';
import { reshaped, shapeOn } from '@yarlop/core/follow/outline/outlines';
import { mapPoint, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { IDENTITY, inverse, multiply, scaling } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import { withPart } from './use-dress';
import { useWays, withWays } from './use-ways';
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
  /** to its points from where it is scaled and turned: along the Screen's sides, or the picture's */
  readonly axes: Matrix3;
}

type Ridden = Pick<OutlineHere, 'toPicture' | 'referenceFrame' | 'axes'>;

/** Outlines of a part of the dress; null for what is no outline. */
function inDress(recipe: Recipe, part: 'holdouts' | 'retouches'): (RidingOutline | null)[] {
  const { holdouts = [], retouches = [] } = (recipe.dress ?? {}) as DressRecipe;
  if (part === 'retouches') return [...retouches];
  return holdouts.map((h) => (h.kind === 'outline' ? h : null));
}

/** Outlines of a part of the recipe, as settings hold on the frame shown; null for what is no outline. */
function outlinesIn(recipe: Recipe, part: OutlinePart, { patches }: Pick<Recipe, 'patches'>): (RidingOutline | null)[] {
  return part === 'patches' ? [...((patches ?? []) as Patch[])] : inDress(recipe, part);
}

/** The plane on which an outline rides, and the frame on which its points hold; null where it is not known. */
function rideOf({ plane, onPicture }: Riding, frame: number): Ridden | null {
  const store = useShot();
  const own = store.chosen;
  const on = plane === undefined ? own : store.screens.find((s) => s.recipe.name === plane);
  if (!own || !on) return null;
  if (onPicture) return { toPicture: IDENTITY, referenceFrame: own.recipe.referenceFrame, axes: IDENTITY };
  const toPicture = useTracks().plane(on, frame);
  const pin = on.recipe.pin as Quad;
  const axes = multiply(unitSquareToQuad(pin), scaling(1 / slotAspect(pin), 1));
  return toPicture && { toPicture, referenceFrame: on.recipe.referenceFrame, axes };
}

/** The dress with one of its outlines changed. */
function withInDress(
  recipe: Recipe,
  part: 'holdouts' | 'retouches',
  index: number,
  change: Partial<RidingOutline>,
): Recipe {
  const own = (recipe.dress as DressRecipe)[part]!;
  const changed = own.map((o, k) => (k === index ? { ...o, ...change } : o));
  return withPart(recipe, part, changed);
}

/** Where the middle of an outline's points lies, plate px. */
export function middleOf({ shape, toPicture }: OutlineHere): Point {
  const points = shape.points.map((p) => mapPoint(toPicture, p));
  const mean = (k: 0 | 1): number => points.reduce((sum, p) => sum + p[k], 0) / points.length;
  return [mean(0), mean(1)];
}

export function useOutlines() {
  const store = useShot();
  const playhead = usePlayhead();
  const ways = useWays();
  const all = (recipe: Recipe, part: OutlinePart) => outlinesIn(recipe, part, ways.here.value as Recipe);

  /** The recipe with one outline changed. @param list the outlines of its part as they were when the change began */
  function withOutline(
    recipe: Recipe,
    { part, index }: OutlineRef,
    change: Partial<RidingOutline>,
    list = all(recipe, part),
  ): Recipe {
    if (part !== 'patches') return withInDress(recipe, part, index, change);
    const patches = (list as unknown as Patch[]).map((p, k) => (k === index ? ({ ...p, ...change } as Patch) : p));
    return withWays(recipe, ways.span.value, { patches });
  }

  /** An outline as it lies on a frame, the one shown unless another is named; null where it is none, or not there. */
  function here(
    ref: OutlineRef,
    list = store.chosen ? all(store.chosen.recipe, ref.part) : [],
    frame = playhead.frame,
  ): OutlineHere | null {
    const outline = list[ref.index];
    const on = outline && rideOf(outline, frame);
    return on ? { ...on, outline, shape: shapeOn(outline, frame, on.referenceFrame) } : null;
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
    const to = at && rideOf(next, playhead.frame);
    if (!at || !to) return;
    const across = multiply(inverse(to.toPicture), at.toPicture);
    change('Set what outline rides on', ref, (o) => ({
      ...reshaped(o, (shape) => carriedShape(shape, across)),
      plane: undefined,
      onPicture: undefined,
      ...next,
    }));
  }

  return { all, withOutline, here, change, reshape, rideOn };
}
