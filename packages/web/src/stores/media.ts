import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { api } from '../api';
import type { Media } from '../types';

/** The media library. */
export const useMedia = defineStore('media', () => {
  const all = shallowRef<readonly Media[]>([]);
  const byHash = computed(() => new Map(all.value.map((m) => [m.hash, m])));
  async function load(): Promise<void> {
    all.value = await api('GET /media');
  }
  return { all, byHash, load };
});
