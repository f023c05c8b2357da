/** Deleting with a way back: what goes into the bin, what comes out of it, and what was put there last. */
import { ref } from 'vue';
import { api, sentence } from '../api';

export type BinKind = 'production' | 'shot' | 'delivery' | 'media' | 'table';

export interface BinItem {
  readonly kind: BinKind;
  readonly key: number | string;
  readonly name: string;
}

/** Something in the bin. */
export interface Binned extends BinItem {
  /** what it was part of */
  readonly place: string;
  readonly binned: string;
  readonly bytes: number;
}

/** What goes with something that is deleted. */
export interface GoesWith {
  readonly shots: number;
  readonly screens: number;
  readonly deliveries: number;
  readonly bytes: number;
}

/** The one that was deleted last in this window: it can be taken back at once. */
const last = ref<BinItem | null>(null);
const problem = ref('');

const address = ({ kind, key }: BinItem): string => `/bin/${kind}/${key}`;

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
  const goesWith = (item: BinItem): Promise<GoesWith> => api<GoesWith>('GET', address(item));
  async function put(item: BinItem): Promise<boolean> {
    const isDone = await tried(() => api('PUT', address(item)));
    if (isDone) last.value = item;
    return isDone;
  }
  async function takeOut(item: BinItem): Promise<boolean> {
    const isDone = await tried(() => api('POST', `${address(item)}/out`));
    if (isDone && last.value?.key === item.key && last.value.kind === item.kind) last.value = null;
    return isDone;
  }
  const remove = (item: BinItem): Promise<boolean> => tried(() => api('DELETE', address(item)));
  const empty = (): Promise<boolean> => tried(() => api('DELETE', '/bin'));
  return { last, problem, goesWith, put, takeOut, remove, empty };
}
