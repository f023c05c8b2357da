/** The picture that the dressed one is compared with on a frame that stands: the plate's own, or another version of the Screen. */
import { computed, onScopeDispose, shallowRef, watch } from 'vue';
import type { Stage } from '../stages';
import type { PictureRequest } from '../shared/picture-request';
import { useComparison } from '../stores/comparison';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { fullPicture, layersFor } from './layers';
import { PictureCache, put } from './picture-cache';
import type { Still } from './use-still';
import { useStill } from './use-still';

/** @param frame which one; null for none */
export function useOtherPicture(stage: () => Stage, frame: () => number | null) {
  const comparison = useComparison();
  const store = useShot();
  const view = useView();
  const plate = useStill(() => (comparison.other ? null : frame()));
  let cache: PictureCache | null = null;
  const made = shallowRef<Still | null>(null);

  function request(): PictureRequest | null {
    const n = frame();
    const { shot } = store;
    if (n === null || !shot || !comparison.other) return null;
    return {
      ...fullPicture(shot, n, layersFor(stage(), n, false, comparison.other)),
      show: view.show,
      ...(view.table ? { table: view.table } : {}),
    };
  }
  const wanted = computed(() => JSON.stringify(request()));
  watch(
    wanted,
    async (own) => {
      const r = request();
      if (!r) return void (made.value = null);
      cache ??= new PictureCache();
      const parts = await cache.get(r).catch(() => null);
      if (!parts || wanted.value !== own) return;
      const canvas = new OffscreenCanvas(1, 1);
      put(parts, canvas);
      made.value = { frame: frame()!, bitmap: canvas };
    },
    { immediate: true },
  );
  onScopeDispose(() => cache?.dispose());
  return computed(() => (comparison.other ? made.value : plate.value));
}
