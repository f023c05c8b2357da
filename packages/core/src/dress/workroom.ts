/**
 * Room for the pictures of a layer while it is rendered: in the memory of the rendering's kernels where there are any and it fits,
 * else in arrays of their own. What it gave for the layer before is given up.
 */
import type { Kernels } from '../image/kernels';
import { renderKernels } from '../image/kernels';
import type { FillPyramid } from './fill-pyramid';
import type { Region } from './region';

const KB = 1024;
/** Byte addresses below the pictures: what the loops are told beside them. */
export const CODES_AT = 64 * KB, NORMALS_AT = 512 * KB, STRENGTH_AT = 640 * KB, MAPS_AT = 656 * KB, SIZES_AT = 672 * KB, WEIGHTS_AT = 688 * KB;
/** Larger regions are worked without kernels, so that their memory, which never shrinks, stays bounded. */
const MOST_BYTES = 256 * KB * KB;
/** Floats and bytes that a px of a row takes while the element is drawn: six doubles and a float. */
const PLACE_BYTES = 52;

/** Bytes that the loops over kernels need (see `blur` there). @param row floats of a row */
export function blurScratch(row: number, channels: number, half: number): number {
  return 4 * (row * (half + 2) + 2 * half * channels) + 16 * half + 64;
}

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
}

export interface WorkroomNeeds {
  /** `under` is another picture than `seen` */
  readonly under: boolean;
  /** floats of the noise */
  readonly field: number;
  /** widest kernel, px to one side */
  readonly reach: number;
}

let fillHeld: { readonly fill: WeakRef<FillPyramid>; readonly low: number; readonly high: number } | null = null, codesHeld: Float32Array | null = null, normalsHeld = false;

/** @param low and `high` bound the sizes of the fill that will be filtered */
export function workroom(region: Region, fill: FillPyramid, low: number, high: number, { under, field, reach }: WorkroomNeeds): Workroom {
  const n = region.width * region.height, sizes = [4 * n, 4 * n, 3 * n, under ? 3 * n : 0, field], kernels = renderKernels(), levels = fill.slice(low, high + 1), floats = [...levels.map((l) => l.data.length), ...sizes];
  const scratch = Math.max(PLACE_BYTES * (region.width + 2), blurScratch(4 * region.width, 4, reach), blurScratch(3 * (region.width + 2 * reach), 3, reach));
  if (!kernels || 4 * floats.reduce((s, v) => s + v, 0) + scratch > MOST_BYTES) {
    const [element, spare, seen, own, noise] = sizes.map((v) => new Float32Array(v)) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array];
    return { element, spare, seen, under: under ? own : seen, field: noise };
  }
  const { pictures } = kernels.room(0, floats, scratch), [element, spare, seen, own, noise] = pictures.slice(levels.length) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array];
  if (fillHeld?.fill.deref() !== fill || fillHeld.low !== low || fillHeld.high !== high) {
    const base = fill[0]!, table = new Float64Array(kernels.memory.buffer, SIZES_AT, 5 * (high + 1));
    levels.forEach((l, i) => {
      pictures[i]!.set(l.data);
      table.set([pictures[i]!.byteOffset, l.width, l.height, l.width / base.width, l.height / base.height], 5 * (low + i));
    });
    fillHeld = { fill: new WeakRef(fill), low, high };
  }
  element.fill(0);
  return { element, spare, seen, under: under ? own : seen, field: noise };
}

/** The sizes of a fill that {@link workroom} put into the kernels' memory. */
export function heldSizes(fill: FillPyramid): { readonly low: number; readonly high: number } | null {
  return fillHeld?.fill.deref() === fill ? fillHeld : null;
}

/** Puts an encoding table where the kernels read it. */
export function holdCodes(kernels: Kernels, codes: Float32Array): void {
  if (codesHeld !== codes) kernels.memory.set(codes, CODES_AT / 4);
  codesHeld = codes;
}

/** Puts the table of normal values where the kernels read it. */
export function holdNormals(kernels: Kernels, table: Float32Array): void {
  if (!normalsHeld) kernels.memory.set(table, NORMALS_AT / 4);
  normalsHeld = true;
}
