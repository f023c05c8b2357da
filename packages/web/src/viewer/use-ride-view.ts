/** Keeps the place that is ridden on where it stands in the view, from frame to frame. */
import type { Point } from '@yarlop/core/geometry/point';
import { ref, watch } from 'vue';
import type { Rectangle } from '../shared/picture-request';
import { middleOf, useOutlines } from '../edits/use-outlines';
import { RIDE_ZOOM, useRide } from '../stores/ride';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import { windowAbout } from '../pictures/ride-window';

/** Parts of a px to which the view's place is kept: the same place must give the same window. */
const PARTS = 16;
const exactly = (v: number): number => Math.round(v * PARTS) / PARTS;

/**
 * @param shown the frame that stands in the view
 * @param size of the view, plate px
 */
export function useRideView(
  shown: () => number,
  size: () => readonly [number, number],
  plate: () => readonly [number, number],
) {
  const ride = useRide();
  const view = useView();
  const playhead = usePlayhead();
  const store = useShot();
  const outlines = useOutlines();
  /** from the place that is ridden on to the middle of the view, plate px */
  const offset = ref<Point>([0, 0]);
  /** Where the place that is ridden on lies on a frame, plate px. */
  function placeOn(frame: number): Point | null {
    if (ride.on !== 'outline' || !ride.outline) return ride.placeAt(frame);
    const here = outlines.here(ride.outline, undefined, frame);
    return here && middleOf(here);
  }
  const middleOn = (frame: number): Point | null => {
    const p = placeOn(frame);
    return p && [p[0] + offset.value[0], p[1] + offset.value[1]];
  };
  function settle(): void {
    const middle = middleOn(shown() < 0 ? playhead.frame : shown());
    if (middle) view.centre = [...middle];
  }
  watch(
    () => [ride.on, ride.outline, store.chosenId] as const,
    ([on]) => {
      if (on === null) return;
      offset.value = [0, 0];
      if (view.zoom * window.devicePixelRatio < 1) view.zoom = RIDE_ZOOM / window.devicePixelRatio;
      settle();
    },
    { flush: 'sync' },
  );
  watch(shown, settle, { flush: 'sync' });
  watch(
    () => view.centre,
    ([x, y]) => {
      const p = placeOn(shown());
      if (p) offset.value = [exactly(x - p[0]), exactly(y - p[1])];
    },
    { flush: 'sync' },
  );

  /** What of a frame is seen in full pixels while it plays; null where the small picture is enough. */
  function ridden(frame: number): Rectangle | null {
    if (ride.on === null || view.zoom < 1) return null;
    const middle = middleOn(frame);
    return middle && windowAbout(middle, size(), plate());
  }
  return { ridden };
}
