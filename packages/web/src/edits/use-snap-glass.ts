/** Laying a pin onto the edges of the glass, as they are found about it on a frame. */
import type { Quad } from '@yarlop/core/geometry/quad';
import { ref } from 'vue';
import { api, sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Snapped } from '../types';
import { usePinEdit } from './use-pin-edit';

/** One word for each side, from the top clockwise. */
type Sides = readonly [boolean, boolean, boolean, boolean];

export function useSnapGlass() {
  const store = useShot();
  const playhead = usePlayhead();
  const edit = usePinEdit();
  const busy = ref(false);
  const problem = ref('');

  /**
   * @param from the pin as it lies on the frame shown, px
   * @param exclude sides that are left as they are, from the top clockwise
   * @returns what was found of each side; null where that failed, or the person went on to something else meanwhile
   */
  async function snap(from: Quad, exclude?: Sides): Promise<Snapped | null> {
    const s = store.chosen;
    const { frame } = playhead;
    if (!s) return null;
    busy.value = true;
    problem.value = '';
    try {
      const got = await api(
        'POST /screens/:id/snap',
        { id: s.id },
        { frame, corners: from, ...(exclude ? { exclude } : {}) },
      );
      if (store.chosenId !== s.id || playhead.frame !== frame) return null;
      edit.place('Lay the pin onto the glass', got.corners, frame);
      return got;
    } catch (e) {
      problem.value = sentence(e);
      return null;
    } finally {
      busy.value = false;
    }
  }
  return { busy, problem, snap };
}
