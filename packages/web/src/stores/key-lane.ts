/** Which keys of the chosen Screen's dress are taken, and of which value the curve is shown. */
import type { ChosenKey, KeyTrack } from '@yarlop/core/dress/base/key-edit';
import { keyTracks, pathId } from '@yarlop/core/dress/base/key-edit';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { useShot } from './shot';

export const useKeyLane = defineStore('key-lane', () => {
  const shot = useShot();
  const tracks = computed((): readonly KeyTrack[] => {
    const recipe = shot.chosen?.recipe;
    return recipe ? keyTracks({ dress: recipe.dress, fill: recipe.fill }) : [];
  });
  /** path of the value whose curve was asked for */
  const asked = ref<string | null>(null);
  /** the value whose curve is shown: the one that was asked for, else the first of all */
  const shown = computed(() => tracks.value.find((t) => pathId(t.path) === asked.value) ?? tracks.value[0] ?? null);
  const wasTaken = shallowRef<readonly ChosenKey[]>([]);
  const isThere = ({ path, frame }: ChosenKey): boolean =>
    tracks.value.some((t) => pathId(t.path) === pathId(path) && t.keys.some((k) => k.frame === frame));
  /** as far as they are there: a step back may have taken some */
  const taken = computed({
    get: () => wasTaken.value.filter(isThere),
    set: (keys: readonly ChosenKey[]) => (wasTaken.value = keys),
  });
  watch(
    () => shot.chosenId,
    () => {
      wasTaken.value = [];
      asked.value = null;
    },
  );
  const isTaken = (path: KeyTrack['path'], frame: number): boolean =>
    taken.value.some((k) => k.frame === frame && pathId(k.path) === pathId(path));
  /** The keys on a frame, of all values. */
  const keysOn = (frame: number): ChosenKey[] =>
    tracks.value.filter((t) => t.keys.some((k) => k.frame === frame)).map(({ path }) => ({ path, frame }));
  return { tracks, asked, shown, taken, isTaken, keysOn };
});
