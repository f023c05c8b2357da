/** Which outline of the chosen Screen is shaped, and which of its points. */
import { defineStore } from 'pinia';
import { ref, watch } from 'vue';
import { useShot } from './shot';

/** Lists of a recipe that hold outlines. */
export type OutlinePart = 'patches' | 'holdouts' | 'retouches';

export interface OutlineRef {
  readonly part: OutlinePart;
  readonly index: number;
}

export const useOutlineChoice = defineStore('outline-choice', () => {
  const shot = useShot();
  const chosen = ref<OutlineRef | null>(null);
  const point = ref<number | null>(null);
  /** arrow keys move it: whoever shapes by mouse steps from frame to frame with them */
  const taken = ref(false);
  function choose(of: OutlineRef | null, which: number | null = null, byKeys = false): void {
    [chosen.value, point.value, taken.value] = [of, which, byKeys];
  }
  const isChosen = (part: OutlinePart, index: number): boolean =>
    chosen.value?.part === part && chosen.value.index === index;
  watch(
    () => shot.chosenId,
    () => choose(null),
  );
  return { chosen, point, taken, choose, isChosen };
});
