/** What one Screen has, given to another one of the same shot. */
import { withoutSettings } from '@yarlop/core/follow/outline/section-list';
import { mapPoint, quadToQuad } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
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
  const move = (l: readonly (readonly [number, number])[]): Patch['points'] =>
    l.map((q) => mapPoint(h, q as Point)) as unknown as Patch['points'];
  const copy: Patch = {
    ...patch,
    points: move(patch.points),
    ...(patch.keys ? { keys: patch.keys.map((k) => ({ ...k, points: move(k.points) })) } : {}),
  };
  return { ...target, patches: [...(target.patches ?? []), copy] };
}
