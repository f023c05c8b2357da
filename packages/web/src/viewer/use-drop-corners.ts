/** Dropping four rough corners: a new Screen, or a new pin for the chosen one, is made with the fourth. */
import { clamp } from '@yarlop/core/clamp';
import { useEventListener } from '@vueuse/core';
import { computed, ref } from 'vue';
import { assertPin } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import { sentence } from '../api';
import { newScreen } from '../edits/new-screen';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';

export function useDropCorners() {
  const view = useView();
  const store = useShot();
  const playhead = usePlayhead();
  const points = ref<[number, number][]>([]);
  const problem = ref('');
  /** where the keys have brought the mark, plate px; null until a key moves it */
  const mark = ref<[number, number] | null>(null);
  /** four were dropped just now */
  const dropped = ref(false);
  const asks = computed(() => ['top left', 'top right', 'bottom right', 'bottom left'][points.value.length] ?? '');

  function leave(): void {
    points.value = [];
    mark.value = null;
    view.tool = { kind: 'select' };
  }
  const STEPS: Readonly<Record<string, readonly [number, number]>> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  // Before the page's own keys: here arrows move the mark, not the frame.
  useEventListener(
    window,
    'keydown',
    (e) => {
      if (view.tool.kind !== 'drop-corners') return;
      const step = STEPS[e.key];
      const size = store.shot?.probe;
      if (e.key === 'Escape') leave();
      if (e.key === 'Backspace') points.value.pop();
      if ((!step && e.key !== 'Enter') || !size) return;
      e.preventDefault();
      e.stopImmediatePropagation();
      const [x, y] = mark.value ?? [Math.round(size.width / 2), Math.round(size.height / 2)];
      const far = e.shiftKey ? 1 : 10;
      if (step) mark.value = [clamp(x + far * step[0], 0, size.width), clamp(y + far * step[1], 0, size.height)];
      else if (mark.value) void add([x, y]);
    },
    { capture: true },
  );

  async function add(p: [number, number]): Promise<void> {
    problem.value = '';
    points.value.push(p);
    if (points.value.length < 4) return;
    const pin = points.value as unknown as Quad;
    leave();
    try {
      assertPin(pin);
      await store.addScreen(newScreen(pin, playhead.frame, store.shot!, store.screens));
      dropped.value = true;
    } catch (e) {
      problem.value = sentence(e);
      setTimeout(() => (problem.value = ''), 6000);
    }
  }
  return { points, mark, asks, problem, dropped, add };
}
