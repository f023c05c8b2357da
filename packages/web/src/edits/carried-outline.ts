/** Outlines of what passes in front: drawn on a frame, followed by a run of their own, without a pin. */
import type { Shape } from '@yarlop/core/follow/outline/outlines';
import { boundsOf } from '@yarlop/core/geometry/polygon';
import type { OutlineHoldout } from '@yarlop/core/dress/holdout/holdout';
import type { Recipe, Screen } from '../types';

/** A name that no Screen of the shot has yet. */
export function freeName(base: string, screens: readonly Screen[]): string {
  const names = new Set(screens.map((s) => s.recipe.name));
  let name = base;
  while (names.has(name)) name += "'";
  return name;
}

/** @param shape px of the frame on which it was drawn */
export function carriedOutline({ points, handles }: Shape, frame: number, screens: readonly Screen[]): Recipe {
  const { x0, y0, x1, y1 } = boundsOf(points);
  const number = screens.filter((s) => s.recipe.carried).length + 1;
  return {
    format: 'yarlop-screen',
    version: 1,
    name: freeName(`outline ${number}`, screens),
    device: 'other',
    carried: true,
    referenceFrame: frame,
    pin: [
      [x0, y0],
      [x1, y0],
      [x1, y1],
      [x0, y1],
    ],
    patches: [{ kind: 'follow', points, ...(handles ? { handles } : {}) }],
    // What passes in front is seldom flat: its own turning and growing is followed, and no more.
    motion: 'affine',
    evidence: ['texture'],
  } as unknown as Recipe;
}

/** What holds it out of the dress of another Screen. */
export function holdoutOf({ name, patches }: Recipe): OutlineHoldout | null {
  const patch = patches?.find((p) => p.kind === 'follow');
  if (!patch) return null;
  const { kind: _kind, ...outline } = patch;
  return { kind: 'outline', ...outline, plane: name, softness: 2 } as OutlineHoldout;
}
