/** The shot's deliveries, and how one is asked for. */
import { onUnmounted, ref, watch } from 'vue';
import { api, sentence } from '../api';
import { useLive } from '../stores/live';
import { useShot } from '../stores/shot';
import type { DeliverSettings, Delivery } from '../types';

const list = ref<readonly Delivery[]>([]);
const problem = ref('');

export function useDeliveries() {
  const store = useShot();
  const live = useLive();
  async function load(): Promise<void> {
    if (store.shot) list.value = await api('GET /shots/:id/deliveries', { id: store.shot.id });
  }
  async function tried(work: () => Promise<void>): Promise<void> {
    problem.value = '';
    await work().catch((e: unknown) => (problem.value = sentence(e)));
  }
  const deliver = (settings: DeliverSettings): Promise<void> =>
    tried(async () => {
      await store.save();
      await api('POST /shots/:id/deliveries', { id: store.shot!.id }, settings);
      await load();
    });
  /** Track data as text. @throws ApiFailure */
  async function text(settings: DeliverSettings): Promise<string> {
    await store.save();
    return (await api('POST /shots/:id/text', { id: store.shot!.id }, settings)).text;
  }
  /** Loads the list while the caller is on the page, and keeps it up to date. */
  function watched(): void {
    const off = live.on('deliveries', (e) => e.shotId === store.shot?.id && void load());
    // The page may be there before its shot is.
    watch(
      () => store.shot?.id,
      () => {
        list.value = [];
        void tried(load);
      },
      { immediate: true },
    );
    const offBin = live.on('bin', () => void load().catch(() => {}));
    onUnmounted(() => {
      off();
      offBin();
    });
  }
  return { list, problem, deliver, text, tried, watched };
}
