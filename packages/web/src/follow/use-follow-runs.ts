/** Runs of following as the person starts them: of the chosen Screen, or of all of a shot. */
import { computed, ref } from 'vue';
import { api, sentence } from '../api';
import { forAll } from '../shared/for-all';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { inRunOrder } from './run-order';

/** What a run is to follow. */
export interface Order {
  readonly from: number;
  readonly to: number;
  readonly direction?: 'both' | 'forwards' | 'backwards';
  /** the solved frame after which it begins */
  readonly start?: number;
}

/** Go on past frames that cannot be vouched for: chosen once for runs of all kinds. */
const keepLooking = ref(false);

export function useFollowRuns() {
  const store = useShot();
  const playhead = usePlayhead();
  const live = useLive();
  const problem = ref('');
  async function startOf(screenId: number, order: Order): Promise<void> {
    const started = await api(
      'POST /screens/:id/follow',
      { id: screenId },
      { ...order, keepLooking: keepLooking.value },
    );
    live.jobs.set(started.id, started);
  }
  async function start(order: Order): Promise<void> {
    problem.value = '';
    await store.save();
    try {
      await startOf(store.chosenId!, order);
    } catch (e) {
      problem.value = sentence(e);
    }
  }
  /** The working range with a reference frame in it. */
  const around = (reference: number): Pick<Order, 'from' | 'to'> => ({
    from: Math.min(playhead.from, reference),
    to: Math.max(playhead.to, reference),
  });
  const idle = computed(() => inRunOrder(store.screens.filter((s) => !live.jobOf('follow', s.id))));
  /** Those that cannot be followed are named; the others are. */
  async function followAll(): Promise<void> {
    await store.save();
    problem.value = await forAll(idle.value, ({ id, recipe }) =>
      startOf(id, { ...around(recipe.referenceFrame), direction: 'both' }),
    );
  }
  return { problem, keepLooking, start, followAll, idle, around };
}
