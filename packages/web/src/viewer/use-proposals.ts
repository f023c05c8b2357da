/** Screens that Yarlop sees on a shot that has none yet: looked for on the frame shown, offered, and made by one click. */
import type { ComputedRef, Ref } from 'vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useTimeoutFn } from '@vueuse/core';
import type { Quad } from '@yarlop/core/geometry/quad';
import { api } from '../api';
import type { AnswerOf } from '@yarlop/contracts/routes';
import { provideCommand } from '../commands/use-commands';
import { newScreen } from '../edits/new-screen';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { Stage } from '../stages';

/** Stages in which a Screen is begun. */
const STAGES: readonly Stage[] = ['plate', 'follow', 'pin'];
/** Ms that a frame stands before it is looked at. */
const STANDS = 400;

type Proposal = AnswerOf<'GET /shots/:id/proposals/:frame'>['proposals'][number];

/** Whether a person may be about to begin a Screen here. @param passed the shot whose proposals were waved aside */
function useIsAsked(stage: () => Stage, passed: Readonly<Ref<number | null>>): ComputedRef<boolean> {
  const store = useShot();
  const playhead = usePlayhead();
  const view = useView();
  return computed(
    () =>
      store.shot?.mediaState === 'ready' &&
      store.proper.length === 0 &&
      passed.value !== store.shot.id &&
      STAGES.includes(stage()) &&
      view.tool.kind === 'select' &&
      !view.alone &&
      !playhead.playing,
  );
}

export function useProposals(stage: () => Stage) {
  const store = useShot();
  const playhead = usePlayhead();
  /** on the frame shown */
  const found = shallowRef<readonly Proposal[]>([]);
  const lit = ref(0);
  /** the shot whose proposals were waved aside */
  const passed = ref<number | null>(null);

  const isAsked = useIsAsked(stage, passed);
  let isLooking = false;
  /** One frame at a time: what is looked for must not hold up the pictures that are stepped through meanwhile. */
  async function look(): Promise<void> {
    const shot = store.shot?.id;
    const { frame } = playhead;
    if (shot === undefined || !isAsked.value || isLooking) return;
    isLooking = true;
    const told = await api('GET /shots/:id/proposals/:frame', { id: shot, frame }).catch(() => null);
    isLooking = false;
    if (shot !== store.shot?.id || frame !== playhead.frame) return start();
    if (told) found.value = told.proposals;
  }
  const { start, stop } = useTimeoutFn(() => void look(), STANDS, { immediate: false });
  watch(
    () => (isAsked.value ? `${store.shot!.id} ${playhead.frame}` : ''),
    (asked) => {
      found.value = [];
      lit.value = 0;
      if (asked) start();
      else stop();
    },
    { immediate: true },
  );
  const list = computed(() => (isAsked.value ? found.value : []));
  async function take(i: number): Promise<void> {
    const chosen = list.value[i];
    if (!chosen || !store.shot) return;
    await store.addScreen({
      ...newScreen(chosen.corners as unknown as Quad, playhead.frame, store.shot, store.screens),
      device: chosen.device,
    });
  }
  provideCommand(
    'take-proposal',
    () => take(lit.value),
    () => list.value.length > 0,
  );
  const pass = (): void => void (passed.value = store.shot?.id ?? null);
  return { list, lit, take, pass };
}
