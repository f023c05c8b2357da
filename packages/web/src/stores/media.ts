import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { api } from '../api';
import type { Media } from '../types';

/** The media library. */
export const useMedia = defineStore('media', () => {
  const all = shallowRef<readonly Media[]>([]);
  /** hashes of a production's own files */
  const own = shallowRef<ReadonlySet<string>>(new Set());
  const byHash = computed(() => new Map(all.value.map((m) => [m.hash, m])));
  let current: number | undefined;
  /** @param production whose own files are told apart; that of the last time when left out */
  async function load(production = current): Promise<void> {
    current = production;
    all.value = await api('GET /media');
    if (production === undefined) return;
    own.value = new Set((await api('GET /productions/:id/library', { id: production })).map((m) => m.hash));
  }
  return { all, own, byHash, load };
});
