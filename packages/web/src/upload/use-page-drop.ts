/** Files and folders that are dropped anywhere on a page. */
import { useEventListener } from '@vueuse/core';
import { fromEvent } from 'file-selector';
import { ref } from 'vue';

const carriesFiles = (e: DragEvent): boolean => e.dataTransfer?.types.includes('Files') ?? false;

/**
 * @param take what was dropped: files, and those of folders at any depth
 * @returns whether something is held over the page
 */
export function usePageDrop(take: (files: readonly File[]) => void) {
  const isOver = ref(false);
  // Entering a part of the page is told before leaving the one before it.
  let depth = 0;
  useEventListener(document, 'dragenter', (e) => {
    if (!carriesFiles(e)) return;
    depth++;
    isOver.value = true;
  });
  useEventListener(document, 'dragover', (e) => {
    if (carriesFiles(e)) e.preventDefault();
  });
  useEventListener(document, 'dragleave', (e) => {
    if (!carriesFiles(e)) return;
    depth = Math.max(0, depth - 1);
    isOver.value = depth > 0;
  });
  useEventListener(document, 'drop', (e) => {
    if (!carriesFiles(e)) return;
    e.preventDefault();
    depth = 0;
    isOver.value = false;
    void fromEvent(e).then((all) => take(all.filter((f): f is File => f instanceof File)));
  });
  return isOver;
}
