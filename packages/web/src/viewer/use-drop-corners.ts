/** Dropping four rough corners: a new Screen, or a new pin for the chosen one, is made with the fourth. */
import { useEventListener } from '@vueuse/core';
import { computed, ref } from 'vue';
import { assertPin } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import { sentence } from '../api';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';

export function useDropCorners() {
  const view = useView(), store = useShot(), playhead = usePlayhead();
  const points = ref<[number, number][]>([]), problem = ref('');
  const asks = computed(() => ['top left', 'top right', 'bottom right', 'bottom left'][points.value.length] ?? '');

  function leave(): void {
    points.value = [];
    view.tool = { kind: 'select' };
  }
  useEventListener(window, 'keydown', (e) => {
    if (view.tool.kind !== 'drop-corners') return;
    if (e.key === 'Escape') leave();
    if (e.key === 'Backspace') points.value.pop();
  });

  async function add(p: [number, number]): Promise<void> {
    problem.value = '';
    points.value.push(p);
    if (points.value.length < 4) return;
    const pin = points.value as unknown as Quad;
    leave();
    try {
      assertPin(pin);
      const number = store.screens.length + 1, names = new Set(store.screens.map((s) => s.recipe.name));
      let name = `Screen ${number}`;
      while (names.has(name)) name += "'";
      await store.addScreen({ format: 'yarlop-screen', version: 1, name, device: 'phone', referenceFrame: playhead.frame, pin: pin as never, patches: [], motion: 'perspective', evidence: 'auto' });
    } catch (e) {
      problem.value = sentence(e);
      setTimeout(() => (problem.value = ''), 6000);
    }
  }
  return { points, asks, problem, add };
}
