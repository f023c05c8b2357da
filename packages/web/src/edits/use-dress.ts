/**
 * The chosen Screen's dress, and how one value of it is changed: seen while it is dragged, one step of undo when it is
 * let go.
 */
import type { Animated, Key } from '@yarlop/core/dress/base/keys';
import { valueAt, withKey, withoutKey } from '@yarlop/core/dress/base/keys';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { computed } from 'vue';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';

export type Part = keyof DressRecipe;

const emptied = (o: object): boolean => Object.values(o).every((v) => v === undefined);

/** The recipe with a part of its dress replaced; parts and members that are undefined go. */
export function withPart(recipe: Recipe, part: Part, value: object | undefined): Recipe {
  const { [part]: old, ...others } = (recipe.dress ?? {}) as DressRecipe;
  const { dress, ...rest } = recipe;
  void old;
  void dress;
  const clean =
    value && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).filter(([, v]) => v !== undefined))
      : value;
  const next =
    clean && !(Array.isArray(clean) ? clean.length === 0 : emptied(clean)) ? { ...others, [part]: clean } : others;
  return (Object.keys(next).length > 0 ? { ...rest, dress: next } : rest) as Recipe;
}

/** A value set on a frame: a key there where it has keys, else steady. */
export function putValue(now: Animated | undefined, frame: number, value: number): Animated {
  return Array.isArray(now)
    ? withKey(now as Animated, { ...(now as readonly Key[]).find((k) => k.frame === frame), frame, value })
    : value;
}

/**
 * What the control of an animated value needs. @param write undefined takes it back to where nothing is done; `final`
 * is false while it is dragged
 */
export function controlOf(
  now: Animated | undefined,
  frame: number,
  base: number,
  write: (v: Animated | undefined, final: boolean) => void,
) {
  const keyed = Array.isArray(now) && (now as readonly Key[]).some((k) => k.frame === frame);
  return {
    value: valueAt(now, frame, base),
    base,
    keyed,
    animated: Array.isArray(now),
    changed: now !== undefined,
    onPut: (v: number, final: boolean) => write(putValue(now, frame, v), final),
    onKey: () =>
      write(keyed ? withoutKey(now, frame) : withKey(now, { frame, value: valueAt(now, frame, base) }), true),
    onPlain: () => write(undefined, true),
  };
}

export function useDress() {
  const store = useShot();
  const playhead = usePlayhead();
  const recipe = computed(() => store.told?.recipe);
  const dress = computed(() => (recipe.value?.dress ?? {}) as DressRecipe);
  let before: Recipe | null = null;

  /** @param final false while it is being dragged */
  function put(name: string, part: Part, value: object | undefined, final = true): void {
    const s = store.chosen;
    if (!s) return;
    before ??= s.recipe;
    const after = withPart(before, part, value);
    if (!final) return store.preview(s.id, after, true);
    store.edit(name, after, before);
    before = null;
  }
  function set(name: string, part: Part, members: object): void {
    put(name, part, { ...(dress.value[part] as object | undefined), ...members });
  }
  /** What an animated control of one member needs. */
  function bind(part: Exclude<Part, 'holdouts' | 'lights'>, field: string, base: number) {
    const owner = dress.value[part] as Readonly<Record<string, Animated | undefined>> | undefined;
    const now = owner?.[field];
    const { frame } = playhead;
    const write = (v: Animated | undefined, final: boolean): void =>
      put(`Set ${field.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)}`, part, { ...owner, [field]: v }, final);
    return controlOf(now, frame, base, write);
  }
  return { recipe, dress, put, set, bind };
}
