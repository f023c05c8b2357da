/**
 * Settings of following as they hold on the frame shown, and how far a change of them reaches: from this frame on, over
 * the working range, over the section that the frame lies in, or over the whole shot.
 */
import { computed, ref } from 'vue';
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import { withSettings, withoutSettings } from '@yarlop/core/follow/outline/section-list';
import { sectionOn } from '@yarlop/core/follow/memory/sections';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';
import { useRecipe } from './use-recipe';

export type Section = NonNullable<Recipe['sections']>[number];
/** Settings that may differ from section to section. */
export type Ways = NonNullable<Section['over']>;
export type Reach = 'on' | 'range' | 'section' | 'shot';

const reach = ref<Reach>('on');

/** A recipe with other sections; without any where none are left. */
export function withSections(recipe: Recipe, list: readonly Section[]): Recipe {
  const { sections: _sections, ...plain } = recipe;
  return { ...plain, ...(list.length > 0 ? { sections: [...list] } : {}) };
}

/** A recipe whose settings differ on a span; over the whole shot where that is null. */
export function withWays(recipe: Recipe, span: FrameSpan | null, part: Ways): Recipe {
  const sections = recipe.sections ?? [];
  const names = Object.keys(part) as (keyof Ways)[];
  const list = span
    ? withSettings<Section>(sections, span, (now) => ({ ...now, ...part }))
    : withoutSettings<Section>(sections, names);
  return withSections(span ? recipe : { ...recipe, ...part }, list);
}

export function useWays() {
  const store = useShot();
  const playhead = usePlayhead();
  const { recipe, track } = useRecipe();
  const sections = computed(() => recipe.value?.sections ?? []);
  const section = computed(() => sectionOn(sections.value, playhead.frame));
  /** the Screen's settings with what holds on the frame shown */
  const here = computed((): Ways => {
    const own = { ...recipe.value, ...section.value } as Recipe;
    const { patches, motion, evidence, density, reading, levels, lens, scene } = own;
    const all = { patches, motion, evidence, density, reading, levels, lens, scene };
    return Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined)) as Ways;
  });
  /** the frames that a change holds for; null for the whole shot */
  const span = computed((): FrameSpan | null => {
    const r = recipe.value?.referenceFrame ?? 0;
    const n = playhead.frame;
    if (reach.value === 'shot') return null;
    if (reach.value === 'range') return { from: playhead.from, to: playhead.to };
    if (reach.value === 'section' && section.value) return { from: section.value.from, to: section.value.to };
    // Nothing to keep: what is changed before anything was followed is the Screen's own.
    if (n === r || !track.value?.frames.size) return null;
    return n > r ? { from: n, to: playhead.count - 1 } : { from: 0, to: n };
  });
  /** Puts settings where a change of them is to hold, as one step of undo. */
  function set(name: string, part: Ways): void {
    if (recipe.value) store.edit(name, withWays(recipe.value, span.value, part));
  }
  return { recipe, sections, section, here, span, reach, set };
}
