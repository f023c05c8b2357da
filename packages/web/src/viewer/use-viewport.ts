/** Zoom and pan: the one place where plate px become CSS px. */
import { clamp } from '@yarlop/core/clamp';
import { useElementSize } from '@vueuse/core';
import { computed } from 'vue';
import type { Ref } from 'vue';

/** CSS px a plate px; the smallest zoom. */
const LEAST = 0.05;
/** CSS px a plate px; the largest zoom. */
const MOST = 32;
/** CSS px about a picture that is fitted. */
const MARGIN = 12;

/** Share by which a turn of the wheel zooms, as a factor. */
export function wheelFactor(e: WheelEvent): number {
  return Math.exp(-e.deltaY * (e.ctrlKey ? 0.01 : 0.0016));
}

/** What of a picture is seen, and how large: the page's picture keeps it in the view's store, others have their own. */
export interface SeenPart {
  /** CSS px per px of the picture; 0 fits */
  zoom: number;
  /** px of the picture in the middle of the view */
  centre: [number, number];
}

/** @param view is changed by what zooms and pans */
export function useViewport(
  element: Ref<HTMLElement | null>,
  width: () => number,
  height: () => number,
  view: SeenPart,
) {
  const { width: w, height: h } = useElementSize(element);
  const fitZoom = computed(() =>
    Math.max(LEAST, Math.min((w.value - MARGIN) / width(), (h.value - MARGIN) / height())),
  );
  const zoom = computed(() => view.zoom || fitZoom.value);
  const centre = computed<[number, number]>(() => (view.zoom === 0 ? [width() / 2, height() / 2] : view.centre));
  const left = computed(() => w.value / 2 - centre.value[0] * zoom.value);
  const top = computed(() => h.value / 2 - centre.value[1] * zoom.value);

  function toView([x, y]: readonly [number, number]): [number, number] {
    return [x * zoom.value + left.value, y * zoom.value + top.value];
  }
  function toPlate(x: number, y: number): [number, number] {
    return [(x - left.value) / zoom.value, (y - top.value) / zoom.value];
  }
  /** Zooms so that the plate position under (x, y) stays there. */
  function zoomAt(x: number, y: number, factor: number): void {
    const z = clamp(zoom.value * factor, LEAST, MOST);
    const [px, py] = toPlate(x, y);
    view.centre = [px - (x - w.value / 2) / z, py - (y - h.value / 2) / z];
    view.zoom = z;
  }
  function panBy(dx: number, dy: number): void {
    const z = zoom.value;
    const [cx, cy] = centre.value;
    view.zoom = z;
    view.centre = [cx - dx / z, cy - dy / z];
  }
  return { w, h, zoom, left, top, toView, toPlate, zoomAt, panBy };
}
