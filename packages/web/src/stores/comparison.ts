/** What the dressed picture is compared with: the bare plate, another fill, or an earlier version of the Screen. */
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import { api } from '../api';
import type { Recipe, Revision } from '../types';
import { useShot } from './shot';

/** A Screen as it was, or as it would be. */
export interface OtherVersion {
  readonly screenId: number;
  readonly recipe: Recipe;
}

/** Earlier versions that are offered, newest first. */
const OFFERED = 30;

export const useComparison = defineStore('comparison', () => {
  const store = useShot();
  /** 'plate', 'fill HASH' or 'version NUMBER' */
  const chosen = ref('plate');
  /** what that stands for; null for the plate */
  const other = shallowRef<OtherVersion | null>(null);
  const versions = shallowRef<readonly Revision[]>([]);

  async function loadVersions(): Promise<void> {
    const id = store.chosenId;
    if (id === null) return;
    const all = await api('GET /screens/:id/revisions', { id });
    if (store.chosenId === id)
      versions.value = all.filter((r) => r.revision !== store.chosen?.revision).slice(0, OFFERED);
  }
  async function versionOf(id: number, what: string): Promise<Recipe | null> {
    const [kind, which] = what.split(' ');
    if (kind === 'version')
      return (await api('GET /screens/:id/revisions/:revision', { id, revision: Number(which) })).recipe;
    const recipe = store.chosen?.recipe;
    return kind === 'fill' && recipe?.fill ? { ...recipe, fill: { ...recipe.fill, media: which! } } : null;
  }
  /** @throws when a version cannot be had; the plate is compared with then */
  async function choose(what: string): Promise<void> {
    const id = store.chosenId;
    [chosen.value, other.value] = [what, null];
    if (what === 'plate' || id === null) return;
    try {
      const recipe = await versionOf(id, what);
      if (store.chosenId === id && chosen.value === what && recipe) other.value = { screenId: id, recipe };
    } catch (e) {
      chosen.value = 'plate';
      throw e;
    }
  }
  watch(
    () => store.chosenId,
    () => {
      versions.value = [];
      void choose('plate');
    },
  );
  return { chosen, other, versions, loadVersions, choose };
});
