/** The chosen Screen's recipe, its track, and how a part of the recipe is changed with one step of undo. */
import { computed } from 'vue';
import { useLive } from '../stores/live';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';

export function useRecipe() {
  const store = useShot();
  const tracks = useTracks();
  const live = useLive();
  const recipe = computed(() => store.chosen?.recipe);
  const track = computed(() => (store.chosenId === null ? undefined : tracks.tracks.get(store.chosenId)));
  const job = computed(() => live.jobOf('follow', store.chosenId));
  function change(name: string, part: Partial<Recipe>): void {
    if (recipe.value) store.edit(name, { ...recipe.value, ...part });
  }
  return { recipe, track, job, change };
}
