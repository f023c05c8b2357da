/** What becomes of an outline that was drawn: a patch, a holdout, a region, the cut of a laid fill, a Screen's own. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { Shape } from '@yarlop/core/follow/outline/outlines';
import { handledOutline } from '@yarlop/core/geometry/curve';
import type { Point } from '@yarlop/core/geometry/point';
import { carriedOutline } from './carried-outline';
import { withPart } from './use-dress';
import type { Patch } from './use-outlines';
import { useWays } from './use-ways';
import { useOutlineChoice } from '../stores/outline-choice';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Tool } from '../stores/view';
import type { Recipe, Screen } from '../types';

export type DrawnKind = Extract<Tool, { kind: 'draw-patch' }>['patch'];
/** px of the picture, or of a plane */
export type Drawn = Shape;

/** Edge of what is drawn by hand, px: pictures are never sharp to the px. By eye. */
const SOFT = 2;

/** As many straight pieces as stand for its curves. */
function straight({ points, handles }: Shape): readonly Point[] {
  return handles ? handledOutline(points, handles) : points;
}

/** What a drawn outline adds to a dress, and the step's name; null for what is no part of it. */
function inDress(what: DrawnKind, { holdouts = [], retouches = [], placement }: DressRecipe, shape: Shape) {
  if (what === 'holdout')
    return ['Draw holdout', 'holdouts', [...holdouts, { kind: 'outline', ...shape, softness: SOFT }]] as const;
  if (what === 'grade')
    return ['Draw region', 'retouches', [...retouches, { kind: 'grade', ...shape, softness: 2 * SOFT }]] as const;
  if (what === 'paint-out')
    return [
      'Paint out',
      'retouches',
      [...retouches, { kind: 'paint-out', from: 'around', ...shape, softness: SOFT }],
    ] as const;
  if (what === 'cut')
    return ['Cut fill to outline', 'placement', { ...placement, lay: 'plate', cut: straight(shape) }] as const;
  return null;
}

export function useDrawnOutline() {
  const store = useShot();
  const playhead = usePlayhead();
  const ways = useWays();
  const choice = useOutlineChoice();

  function intoDress(what: DrawnKind, s: Screen, shape: Shape): boolean {
    const dress = (s.recipe.dress ?? {}) as DressRecipe;
    const made = inDress(what, dress, shape);
    if (!made) return false;
    const [name, part, value] = made;
    store.edit(name, withPart(s.recipe, part, value) as Recipe);
    if (part !== 'placement') choice.choose({ part, index: value.length - 1 });
    return true;
  }

  /** @param onPicture px of the frame shown @param onPlane px of the chosen Screen's plane */
  return (what: DrawnKind, s: Screen, onPicture: Drawn, onPlane: Drawn): void => {
    if (what === 'carried') return void store.addScreen(carriedOutline(onPicture, playhead.frame, store.screens));
    if (intoDress(what, s, onPlane)) return;
    const patches = (ways.here.value.patches ?? []) as Patch[];
    ways.set(`Draw ${what} patch`, { patches: [...patches, { kind: what, ...onPlane } as Patch] });
    choice.choose({ part: 'patches', index: patches.length });
  };
}
