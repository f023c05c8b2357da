/** How coordinates are written: remembered in the browser. */
import type { Conventions } from '@yarlop/core/formats/conventions';
import { useStorage } from '@vueuse/core';

const conventions = useStorage<Pick<Conventions, 'origin' | 'units' | 'pixelOrigin'>>('yarlop.conventions', {
  origin: 'top-left',
  units: 'pixels',
  pixelOrigin: 'corner',
});

export function useConventions() {
  return { conventions };
}
