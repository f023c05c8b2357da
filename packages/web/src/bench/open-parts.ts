/** Which parts of the benches are open; the browser remembers what was opened and folded by hand. */
import { useStorage } from '@vueuse/core';
import type { WritableComputedRef } from 'vue';
import { computed } from 'vue';

const byHand = useStorage<Record<string, boolean>>('yarlop.parts', {});

/** @param byDefault whether it is open as long as nobody opened or folded it */
export function useOpen(title: () => string, byDefault: () => boolean): WritableComputedRef<boolean> {
  return computed({
    get: () => byHand.value[title()] ?? byDefault(),
    set: (open) => openPart(title(), open),
  });
}

export function openPart(title: string, open = true): void {
  byHand.value = { ...byHand.value, [title]: open };
}
