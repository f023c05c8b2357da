/** Deleting with a way back: what goes into the bin, what comes out of it, and what was put there last. */
import { ref } from 'vue';
import { api, sentence } from '../api';
import type { Binned, GoesWith } from '../types';

export type BinItem = Pick<Binned, 'kind' | 'key' | 'name'>;

/** The one that was deleted last in this window: it can be taken back at once. */
const last = ref<BinItem | null>(null);
const problem = ref('');

export function useBin() {
  async function tried(work: () => Promise<unknown>): Promise<boolean> {
    problem.value = '';
    try {
      await work();
      return true;
    } catch (e) {
      problem.value = sentence(e);
      return false;
    }
  }
  const goesWith = (item: BinItem): Promise<GoesWith> => api('GET /bin/:kind/:key', item);
  async function put(item: BinItem): Promise<boolean> {
    const isDone = await tried(() => api('PUT /bin/:kind/:key', item));
    if (isDone) last.value = item;
    return isDone;
  }
  async function takeOut(item: BinItem): Promise<boolean> {
    const isDone = await tried(() => api('POST /bin/:kind/:key/out', item));
    if (isDone && last.value?.key === item.key && last.value.kind === item.kind) last.value = null;
    return isDone;
  }
  const remove = (item: BinItem): Promise<boolean> => tried(() => api('DELETE /bin/:kind/:key', item));
  const empty = (): Promise<boolean> => tried(() => api('DELETE /bin'));
  return { last, problem, goesWith, put, takeOut, remove, empty };
}
