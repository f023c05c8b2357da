/** Laying a pin onto the edges of the glass, as they are found about it on a frame. */
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Snapped } from '@yarlop/core/pin/snap-to-glass';
import { ref } from 'vue';
import { api, sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { usePinEdit } from './use-pin-edit';

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
  async function snap(from: Quad, exclude: readonly boolean[] = []): Promise<Snapped | null> {
    const s = store.chosen;
    const { frame } = playhead;
    if (!s) return null;
    busy.value = true;
    problem.value = '';
    try {
      const left = exclude.length > 0 ? { exclude } : {};
      const got = await api<Snapped>('POST', `/screens/${s.id}/snap`, { frame, corners: from, ...left });
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
