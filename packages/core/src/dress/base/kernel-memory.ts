/**
 * Where in the memory of the rendering's kernels lies what they are told beside the pictures, and what of it stays from
 * frame to frame.
 */
import type { Kernels } from '../../image/kernels';

/** Bytes. */
const KB = 1024;
/** Byte addresses below the pictures: what the loops are told beside them. */
export const CODES_AT = 64 * KB;
export const DECODE_AT = 324 * KB;
export const NORMALS_AT = 584 * KB;
export const STRENGTH_AT = 652 * KB;
export const MAPS_AT = 656 * KB;
export const SIZES_AT = 672 * KB;
export const WEIGHTS_AT = 688 * KB;
export const CELLS_AT = 752 * KB;
/** Floats that {@link CELLS_AT} has room for. */
export const MOST_CELLS = 60_000;
/**
 * In the same place, since a fill is read before it is rendered: its tables, and rows on their way in and out, so many
 * bytes.
 */
export const TABLES_AT = CELLS_AT;
export const ROWS_AT = CELLS_AT + 4 * KB;
export const MOST_ROWS = 4 * MOST_CELLS - 4 * KB;

/** Bytes that the loops over kernels need (see `blur` there). @param row floats of a row */
export function blurScratch(row: number, channels: number, half: number): number {
  return 4 * (row * (half + 2) + 2 * half * channels) + 16 * half + 64;
}

let codesHeld: Float32Array | null = null;
let decodeHeld: Float32Array | null = null;
let normalsHeld = false;

/** Puts an encoding table where the kernels read it. */
export function holdCodes(kernels: Kernels, codes: Float32Array): void {
  if (codesHeld !== codes) kernels.memory.set(codes, CODES_AT / 4);
  codesHeld = codes;
}

/** Puts a decoding table where the kernels read it. */
export function holdDecoding(kernels: Kernels, table: Float32Array): void {
  if (decodeHeld !== table) kernels.memory.set(table, DECODE_AT / 4);
  decodeHeld = table;
}

/** Puts the table of normal values where the kernels read it. */
export function holdNormals(kernels: Kernels, table: Float32Array): void {
  if (!normalsHeld) kernels.memory.set(table, NORMALS_AT / 4);
  normalsHeld = true;
}
