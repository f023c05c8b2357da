/** A box that is drawn on the picture with the pointer. */
import { ref } from 'vue';
import { holdPointer } from '../shared/hold-pointer';

/** CSS px of the overlay. */
export interface DrawnBox {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** Where on the overlay an event is, CSS px. */
export function onOverlay(e: PointerEvent, svg: SVGElement): [number, number] {
  const r = svg.getBoundingClientRect();
  return [e.clientX - r.left, e.clientY - r.top];
}

export function useDrawnBox() {
  const box = ref<DrawnBox | null>(null);
  /** @param take is told the box when the pointer is let go; not for a press that did not move */
  function begin(e: PointerEvent, take: (b: DrawnBox) => void): void {
    const svg = (e.currentTarget as SVGElement).ownerSVGElement!;
    const [x, y] = onOverlay(e, svg);
    holdPointer(
      e,
      e.currentTarget as Element,
      (m) => {
        const [u, v] = onOverlay(m, svg);
        box.value = { left: Math.min(x, u), top: Math.min(y, v), right: Math.max(x, u), bottom: Math.max(y, v) };
      },
      () => {
        const drawn = box.value;
        box.value = null;
        if (drawn) take(drawn);
      },
    );
  }
  return { box, begin };
}
