/** The light of a region: from code values, and means of it. */
import type { Raster } from '../../image/image';
import { kernelsFor } from '../../image/kernels';
import type { FillPyramid } from './fill-pyramid';
import { DECODE_AT, holdDecoding } from '../base/kernel-memory';
import type { Rgb } from '../colour/levels';
import type { Region } from '../base/region';
import type { EncodingTable, Transfer } from '../colour/transfer';
import { decodingTable, encodingTable } from '../colour/transfer';

/** RGB of a region, each value through a table by its code, or through a curve where the picture holds floats. */
export function valuesOfRegion(
  picture: Raster,
  region: Region,
  table: Float32Array,
  curve: (v: number) => number,
  out: Float32Array = new Float32Array(region.width * region.height * 3),
): Float32Array {
  const { channels, data, width } = picture;
  const float = data instanceof Float32Array;
  const n = region.width * channels;
  const wasm = float ? null : kernelsFor(out);
  const at = channels === 3 ? (wasm?.scratch(n * data.BYTES_PER_ELEMENT) ?? null) : null;
  if (wasm && at !== null) {
    const row =
      data instanceof Uint16Array
        ? new Uint16Array(wasm.memory.buffer, at, n)
        : new Uint8Array(wasm.memory.buffer, at, n);
    holdDecoding(wasm, table);
    for (let y = 0; y < region.height; y++) {
      const from = ((y + region.y) * width + region.x) * channels;
      row.set(data.subarray(from, from + n));
      wasm.run.decodeRow(at, data.BYTES_PER_ELEMENT, n, DECODE_AT, out.byteOffset + 4 * y * n);
    }
    return out;
  }
  for (let y = 0, o = 0; y < region.height; y++)
    for (let x = 0, k = ((y + region.y) * width + region.x) * channels; x < region.width; x++, k += channels)
      for (let c = 0; c < 3; c++) out[o++] = float ? curve(data[k + c]!) : table[data[k + c]!]!;
  return out;
}

/** Mean of a region's light. */
export function meanLight(light: Float32Array): Rgb {
  const sum = [0, 0, 0];
  for (let i = 0; i < light.length; i++) sum[i % 3]! += (3 * light[i]!) / light.length;
  return sum as unknown as Rgb;
}

/** Mean of the fill, scene-linear, by its coarsest size. */
export function meanOf(fill: FillPyramid): Rgb {
  const { width, height, data } = fill.at(-1)!;
  const sum = [0, 0, 0];
  for (let k = 0; k < data.length; k += 4) for (let c = 0; c < 3; c++) sum[c]! += data[k + c]! / (width * height);
  return sum as unknown as Rgb;
}

interface Tables {
  readonly decode: Float32Array;
  /** code values as shares of the range */
  readonly shares: Float32Array;
  readonly table: EncodingTable;
}

/** Tables of every kind of picture met so far: a few, and never changed. */
const allTables = new Map<string, Tables>();

/**
 * Tables between code values and light.
 * @param max largest code value
 */
export function tablesFor(max: number, transfer: Transfer): Tables {
  const key = `${max} ${transfer}`;
  const known = allTables.get(key);
  if (known) return known;
  const made = {
    decode: decodingTable(max, transfer),
    shares: Float32Array.from({ length: max + 1 }, (_, i) => i / max),
    table: encodingTable(max, transfer),
  };
  allTables.set(key, made);
  return made;
}
