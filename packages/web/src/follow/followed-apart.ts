/** What is followed of a Screen, apart from its pin. */
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { signedArea } from '@yarlop/core/geometry/quad';
import type { ScreenTrackState } from '../stores/tracks';
import type { Recipe } from '../types';

/** Share of the pin's size within which what is followed lies where the pin does: nobody sees them apart. By trial. */
const SAME = 0.02;

/**
 * The outline that is followed, px of the reference frame; null where it is the pin, or where nothing was followed yet.
 */
export function followedApart(recipe: Recipe, track: ScreenTrackState | undefined): readonly Point[] | null {
  const area = recipe.area ?? (track?.outdated ? null : track?.area);
  if (!area) return null;
  const pin = recipe.pin as Quad;
  const limit = SAME * Math.sqrt(Math.abs(signedArea(pin)));
  const isPin = area.length === 4 && area.every((p, i) => distance(p, pin[i]!) <= limit);
  return isPin ? null : area;
}
