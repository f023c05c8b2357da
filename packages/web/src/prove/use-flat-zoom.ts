/** Zoom and pan of the flat view: by the wheel, by dragging, and by the keys that zoom the picture everywhere else. */
import type { FlatArea } from '@yarlop/core/proof/flat-view';
import { computed, reactive } from 'vue';
import type { Ref } from 'vue';
import { provideCommand } from '../commands/use-commands';
import { holdPointer } from '../shared/hold-pointer';
import type { SeenPart } from '../viewer/use-viewport';
import { useViewport, wheelFactor } from '../viewer/use-viewport';

/** CSS px a pixel from which pixels are shown as squares. */
const SQUARES = 2;

/** @param natural px that the Screen laid flat has at 100 % */
export function useFlatZoom(holder: Ref<HTMLElement | null>, natural: Readonly<Ref<FlatArea>>) {
  const seen = reactive<SeenPart>({ zoom: 0, centre: [0, 0] });
  const port = useViewport(
    holder,
    () => natural.value.width,
    () => natural.value.height,
    seen,
  );
  const style = computed(() => ({
    left: `${port.left.value}px`,
    top: `${port.top.value}px`,
    width: `${natural.value.width * port.zoom.value}px`,
    height: `${natural.value.height * port.zoom.value}px`,
  }));
  const isLarge = computed(() => port.zoom.value * window.devicePixelRatio >= SQUARES);
  function zoomTo(pixels: number): void {
    if (seen.zoom === 0) seen.centre = [natural.value.width / 2, natural.value.height / 2];
    seen.zoom = pixels / window.devicePixelRatio;
  }
  provideCommand('zoom-fit', () => (seen.zoom = 0));
  provideCommand('zoom-100', () => zoomTo(1));
  provideCommand('zoom-400', () => zoomTo(4));

  function onWheel(e: WheelEvent): void {
    const box = holder.value!.getBoundingClientRect();
    port.zoomAt(e.clientX - box.left, e.clientY - box.top, wheelFactor(e));
  }
  function pan(e: PointerEvent): void {
    let [x, y] = [e.clientX, e.clientY];
    holdPointer(
      e,
      holder.value!,
      (m) => {
        port.panBy(m.clientX - x, m.clientY - y);
        [x, y] = [m.clientX, m.clientY];
      },
      () => {},
    );
  }
  return { style, isLarge, onWheel, pan };
}
