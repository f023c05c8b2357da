import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { api } from '../api';
import type { Media } from '../types';

/** The media library. */
export const useMedia = defineStore('media', () => {
  const all = ref<Media[]>([]);
  const byHash = computed(() => new Map(all.value.map((m) => [m.hash, m])));
  async function load(): Promise<void> {
    all.value = await api<Media[]>('GET', '/media');
  }
  return { all, byHash, load };
});
