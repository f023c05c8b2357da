/** Riding: a place of the Screen stands still on the page while the picture moves under it, in full pixels. */
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { perspectiveCentre } from '@yarlop/core/geometry/quad';
import { defineStore } from 'pinia';
import { ref, watch } from 'vue';
import type { OutlineRef } from './outline-choice';
import { usePlayhead } from './playhead';
import { useShot } from './shot';
import { useTracks } from './tracks';

/** Corners and sides as they are named on the page, clockwise from the top left. */
export const RIDE_ON = ['middle', 'TL', 'TR', 'BR', 'BL', 'top', 'right', 'bottom', 'left'] as const;
export type RideOn = (typeof RIDE_ON)[number];

/** CSS px a plate px from which riding begins, where the picture is smaller. */
export const RIDE_ZOOM = 4;

/** Where the place that is ridden on lies in a pin. */
export function placeIn(q: Quad, on: RideOn): Point {
  if (on === 'middle') return perspectiveCentre(q);
  const corner = (['TL', 'TR', 'BR', 'BL'] as const).findIndex((c) => c === on);
  if (corner >= 0) return q[corner]!;
  const side = (['top', 'right', 'bottom', 'left'] as const).findIndex((s) => s === on);
  const [a, b] = [q[side]!, q[(side + 1) % 4]!];
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
}

export const useRide = defineStore('ride', () => {
  const store = useShot();
  const tracks = useTracks();
  const playhead = usePlayhead();
  const on = ref<RideOn | 'outline' | null>(null);
  /** the outline that is ridden on, where it is one */
  const outline = ref<OutlineRef | null>(null);
  /** seconds to each side of where it was asked for that are played round and round; null for the working range */
  const around = ref<number | null>(null);

  /** Where a place of the Screen lies on a frame, plate px; null where it is not known, and for an outline. */
  function placeAt(frame: number): Point | null {
    const screen = store.chosen;
    if (!screen || on.value === null || on.value === 'outline') return null;
    const corners = tracks.corners(screen, frame);
    return corners && placeIn(corners, on.value);
  }
  watch([around, on], () => {
    const reach = around.value;
    if (on.value === null || reach === null) return void (playhead.span = null);
    const n = Math.round(reach * playhead.rate);
    playhead.span = [Math.max(0, playhead.frame - n), Math.min(playhead.count - 1, playhead.frame + n)];
  });
  watch(
    () => store.shot?.id,
    () => ([on.value, around.value, outline.value] = [null, null, null]),
  );
  return { on, outline, around, placeAt };
});
