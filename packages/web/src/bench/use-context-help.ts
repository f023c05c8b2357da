/** The sentence that explains the control under the pointer, or the one that the keyboard is on. */
import { useEventListener } from '@vueuse/core';
import { ref } from 'vue';

/** A control explains itself by its title; one inside a label, by what the label holds. */
export function explanationOf(element: Element | null): string {
  const own = element?.closest('[title]') ?? element?.closest('label, .form-check')?.querySelector('[title]');
  return own?.getAttribute('title') ?? '';
}

export function useContextHelp() {
  const help = ref('');
  const hear = (e: Event): void => void (help.value = explanationOf(e.target instanceof Element ? e.target : null));
  useEventListener(window, 'pointerover', hear, { passive: true });
  useEventListener(window, 'focusin', hear);
  return help;
}
