/** What one Screen has, given to another one of the same shot. */
import { withoutSettings } from '@yarlop/core/follow/outline/section-list';
import { carriedShape } from '@yarlop/core/dress/shape/outline-by-hand';
import type { Outline } from '@yarlop/core/follow/outline/outlines';
import { reshaped } from '@yarlop/core/follow/outline/outlines';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Recipe } from '../types';

type Patch = NonNullable<Recipe['patches']>[number];
type Section = NonNullable<Recipe['sections']>[number];

/** How a Screen is followed, without what belongs to its own place in the picture. */
export function withSettingsOf(target: Recipe, source: Recipe): Recipe {
  const { motion, evidence, density, reading, levels, lens } = source;
  const sections = withoutSettings<Section>(source.sections ?? [], ['patches']).map(
    ({ over, ...s }): Section => (over ? { ...s, over: { ...over, patches: undefined } } : s) as Section,
  );
  const own = {
    motion,
    evidence,
    density,
    reading,
    levels,
    lens,
    sections: sections.length > 0 ? sections : undefined,
  };
  const kept = Object.entries({ ...target, ...own }).filter(([, v]) => v !== undefined);
  return Object.fromEntries(kept) as unknown as Recipe;
}

/** With an outline more, at the same place within the pin as it has within another one. */
export function withOutlineOf(target: Recipe, source: Recipe, patch: Patch): Recipe {
  const h = quadToQuad(source.pin, target.pin);
  const copy = reshaped(patch as Outline, (shape) => carriedShape(shape, h)) as unknown as Patch;
  return { ...target, patches: [...(target.patches ?? []), copy] };
}
