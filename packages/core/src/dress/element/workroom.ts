/**
 * Room for the pictures of a layer while it is rendered: in the memory of the rendering's kernels where there are any
 * and it fits, else in arrays of their own. What it gave for the layer before is given up.
 */
import { renderKernels } from '../../image/kernels';
import type { FillPyramid } from '../fill/fill-pyramid';
import { SIZES_AT, blurScratch } from '../base/kernel-memory';
import type { Region } from '../base/region';

/**
 * Bytes; larger regions are worked without kernels, so that their memory, which never shrinks, stays bounded. By
 * trial.
 */
const MOST_BYTES = 256 * 1024 * 1024;
/** Bytes that a px of a row takes while the element is drawn: six doubles and a float. */
export const PLACE_BYTES = 52;
/** The same of its place in the slot behind a lens, and of that of the px below. */
export const SLOT_BYTES = 32;

export interface Workroom {
  /** RGBA, nothing yet */
  readonly element: Float32Array;
  /** RGBA, holds anything */
  readonly spare: Float32Array;
  /** RGB */
  readonly seen: Float32Array;
  /** RGB; `seen` itself unless another was asked for */
  readonly under: Float32Array;
  readonly field: Float32Array;
  /** RGB, holds anything; empty unless asked for */
  readonly glare: Float32Array;
}

export interface WorkroomNeeds {
  /** `under` is another picture than `seen` */
  readonly under: boolean;
  readonly glare: boolean;
  /** floats of the noise */
  readonly field: number;
  /** widest kernel, px to one side */
  readonly reach: number;
}

let fillHeld: { readonly fill: WeakRef<FillPyramid>; readonly low: number; readonly high: number } | null = null;

/** Sizes of a fill, the largest first. */
interface Sizes {
  readonly low: number;
  readonly high: number;
}

/**
 * The sizes of a fill that are to be held: those that are there already where they are enough, since a Screen whose size
 * changes from frame to frame would have its fill copied anew each time.
 */
function sizesHeld(fill: FillPyramid, { low, high }: Sizes): Sizes {
  const held = heldSizes(fill);
  return held && held.low <= low && held.high >= high ? held : { low, high };
}

/** @param needed sizes of the fill that will be filtered */
export function workroom(
  region: Region,
  fill: FillPyramid,
  needed: Sizes,
  { under, field, glare, reach }: WorkroomNeeds,
): Workroom {
  const n = region.width * region.height;
  const sizes = [4 * n, 4 * n, 3 * n, under ? 3 * n : 0, field, glare ? 3 * n : 0];
  const kernels = renderKernels();
  const { low, high } = sizesHeld(fill, needed);
  const levels = fill.slice(low, high + 1);
  const floats = [...levels.map((l) => l.data.length), ...sizes];
  const scratch = Math.max(
    (PLACE_BYTES + SLOT_BYTES) * (region.width + 2),
    blurScratch(4 * region.width, 4, reach),
    blurScratch(3 * (region.width + 2 * reach), 3, reach),
  );
  if (!kernels || 4 * floats.reduce((s, v) => s + v, 0) + scratch > MOST_BYTES) {
    return roomOf(
      sizes.map((v) => new Float32Array(v)),
      under,
    );
  }
  const { pictures } = kernels.room(0, floats, scratch);
  const room = roomOf(pictures.slice(levels.length), under);
  if (fillHeld?.fill.deref() !== fill || fillHeld.low !== low || fillHeld.high !== high) {
    const base = fill[0]!;
    const table = new Float64Array(kernels.memory.buffer, SIZES_AT, 5 * (high + 1));
    levels.forEach((l, i) => {
      pictures[i]!.set(l.data);
      table.set(
        [pictures[i]!.byteOffset, l.width, l.height, l.width / base.width, l.height / base.height],
        5 * (low + i),
      );
    });
    fillHeld = { fill: new WeakRef(fill), low, high };
  }
  room.element.fill(0);
  return room;
}

function roomOf(pictures: readonly Float32Array[], under: boolean): Workroom {
  const [element, spare, seen, own, field, glare] = pictures as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  return { element, spare, seen, under: under ? own : seen, field, glare };
}

/** The sizes of a fill that {@link workroom} put into the kernels' memory. */
export function heldSizes(fill: FillPyramid): Sizes | null {
  return fillHeld?.fill.deref() === fill ? fillHeld : null;
}
