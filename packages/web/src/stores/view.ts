/** How the picture is looked at: never what is computed from it. */
import { useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { ref } from 'vue';

/** What the pointer does on the picture. */
export type Tool = { readonly kind: 'select' } | { readonly kind: 'drop-corners' } | { readonly kind: 'draw-patch'; readonly patch: 'follow' | 'ignore' } | { readonly kind: 'add-spot' };

export const useView = defineStore('view', () => {
  /** CSS px per plate px; 0 fits */
  const zoom = ref(0);
  /** plate position in the middle of the view */
  const centre = ref<[number, number]>([0, 0]);
  const brighten = ref(1);
  /** canvas px per plate px in the close-ups */
  const closeUp = ref(useStorage('yarlop.close-up', 8));
  const ruling = ref(useStorage('yarlop.ruling', false));
  const surround = ref(useStorage('yarlop.surround', 10));
  const theme = ref(useStorage<'dark' | 'light'>('yarlop.theme', 'dark'));
  /** what the frame was followed by, on the picture */
  const cells = ref(useStorage('yarlop.cells', true));
  const spot = ref<number | null>(null);
  const alone = ref(false);
  const plateOnly = ref(false);
  const tool = ref<Tool>({ kind: 'select' });
  /** corner that arrow keys nudge; null lets them step frames */
  const armed = ref<number | null>(null);
  const helpOpen = ref(false);
  const pointer = ref<{ x: number; y: number; rgb: [number, number, number] | null } | null>(null);
  return { zoom, centre, closeUp, brighten, ruling, cells, spot, surround, theme, alone, plateOnly, tool, armed, helpOpen, pointer };
});
