const ENDS = ['pointerup', 'pointercancel'];

/** Holds on to the pointer that went down, until it is let go: every drag of the interface begins here. */
export function holdPointer(
  e: PointerEvent,
  target: Element,
  onMove: (m: PointerEvent) => void,
  onEnd: () => void,
): void {
  const move = (m: Event): void => onMove(m as PointerEvent);
  const up = (): void => {
    target.removeEventListener('pointermove', move);
    for (const end of ENDS) target.removeEventListener(end, up);
    onEnd();
  };
  target.setPointerCapture(e.pointerId);
  target.addEventListener('pointermove', move);
  for (const end of ENDS) target.addEventListener(end, up);
}
