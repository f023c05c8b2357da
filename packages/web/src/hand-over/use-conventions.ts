/** How coordinates are written: remembered in the browser. */
import { useStorage } from '@vueuse/core';

const conventions = useStorage('yarlop.conventions', { origin: 'top-left', units: 'pixels', pixelOrigin: 'corner' });

export function useConventions() {
  return { conventions };
}
