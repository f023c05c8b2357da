/**
 * Keys belong to the picture: a control that was used with the pointer gives the focus back to it, so that Space plays and
 * arrows step right after a click or a dragged slider. Who works by keyboard keeps the focus where it is, and so do fields
 * that one types into.
 */
import { useEventListener } from '@vueuse/core';

/** Controls that a pointer is done with once it is let go. */
const DONE_AT_ONCE =
  'button, summary, a, input[type=range], input[type=checkbox], input[type=radio], input[type=color]';

/** Marks the element that has the keys. */
export const PICTURE = '[data-keys="picture"]';

function giveBack(control: Element): void {
  // What the press opened may have taken the focus by now: a menu, a dialog, a field.
  if (document.activeElement !== control && document.activeElement !== document.body) return;
  document.querySelector<HTMLElement>(PICTURE)?.focus({ preventScroll: true });
}

export function useFocusReturn(): void {
  let byPointer = false;
  const settle = (target: EventTarget | null, controls: string): void => {
    const control = (target as Element | null)?.closest?.(controls);
    if (control && !control.closest('[role=dialog]')) setTimeout(() => giveBack(control));
  };
  useEventListener(window, 'pointerdown', () => (byPointer = true), { capture: true });
  useEventListener(window, 'keydown', () => (byPointer = false), { capture: true });
  // A press by key counts no clicks.
  useEventListener(window, 'click', (e) => e.detail > 0 && settle(e.target, DONE_AT_ONCE));
  // A slider that was dragged sends its last change when it is let go; a list, when something was chosen.
  useEventListener(window, 'change', (e) => byPointer && settle(e.target, 'input[type=range], select'));
}
