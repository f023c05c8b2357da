/**
 * The fill ready for the renderer: scene-linear, premultiplied RGBA at halved sizes (L. Williams, Pyramidal
 * Parametrics, 1983).
 */
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { renderKernels } from '../../image/kernels';
import type { Levels, Rgb } from '../colour/levels';
import { gammaAt } from '../colour/levels';
import type { Transfer } from '../colour/transfer';
import { CURVES, decodingTable, fillCurve, transferOf } from '../colour/transfer';
import type { CubeTable } from '../colour/cube-table';
import { throughTable } from '../colour/cube-table';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY } from '../../geometry/matrix3';
import type { Primaries } from '../colour/primaries';
import { primariesMatrix, primariesOf } from '../colour/primaries';
import { MOST_ROWS, ROWS_AT, TABLES_AT } from '../base/kernel-memory';

export interface LinearPicture {
  readonly width: number;
  readonly height: number;
  /** `width*height*4`, scene-linear, premultiplied */
  readonly data: Float32Array;
}

export type FillPyramid = readonly LinearPicture[];

/** px of a side of what shows nothing. */
const NOTHING_SIDE = 4;

/** A fill that shows nothing: the plate stays, with what is done to it. */
export function noFill(): FillPyramid {
  return [{ width: NOTHING_SIDE, height: NOTHING_SIDE, data: new Float32Array(NOTHING_SIDE * NOTHING_SIDE * 4) }];
}

function halveLinear(src: LinearPicture): LinearPicture {
  const width = Math.max(1, src.width >> 1);
  const height = Math.max(1, src.height >> 1);
  const data = new Float32Array(width * height * 4);
  const wasm = renderKernels();
  if (wasm && src.width === 2 * width && src.height === 2 * height && 80 * width <= MOST_ROWS) {
    const row = src.width * 4;
    const from = ROWS_AT / 4;
    const to = from + 2 * row;
    for (let y = 0; y < height; y++) {
      wasm.memory.set(src.data.subarray(2 * y * row, 2 * (y + 1) * row), from);
      wasm.run.halveLight(ROWS_AT, ROWS_AT + 4 * row, width, 4 * to);
      data.set(wasm.memory.subarray(to, to + 4 * width), 4 * y * width);
    }
    return { width, height, data };
  }
  const sx = src.width / width;
  const sy = src.height / height;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const x0 = Math.floor(x * sx);
      const x1 = Math.max(x0 + 1, Math.floor((x + 1) * sx));
      const y0 = Math.floor(y * sy);
      const y1 = Math.max(y0 + 1, Math.floor((y + 1) * sy));
      const n = 1 / ((x1 - x0) * (y1 - y0));
      for (let j = y0; j < y1; j++)
        for (let i = x0; i < x1; i++)
          for (let c = 0; c < 4; c++) data[(y * width + x) * 4 + c]! += n * src.data[(j * src.width + i) * 4 + c]!;
    }
  return { width, height, data };
}

/**
 * How a fill's code values become light: through its own table, its curve (see `fillCurve`), into the plate's
 * primaries, and bent by the gamma of its levels.
 */
export interface FillReading {
  readonly table?: CubeTable | undefined;
  readonly curve?: Transfer;
  /** scene-linear, from the fill's primaries to the plate's */
  readonly primaries?: Matrix3;
  readonly gamma?: Rgb;
}

/** What a file says of its colour, as media probes tell it. */
export interface Tagged {
  readonly transfer: string | null;
  readonly primaries: string | null;
}

/** What the person set of a fill's colour, before its tags. */
export interface FillColour {
  readonly transfer?: Transfer | 'auto' | undefined;
  readonly primaries?: Primaries | 'auto' | undefined;
}

/** How a fill is read on a frame, alike for view and delivery. */
export function readingOf(
  levels: Levels | undefined,
  frame: number,
  fill: Tagged,
  set: FillColour,
  plate: Tagged,
): FillReading {
  const primaries = primariesMatrix(primariesOf(fill.primaries, set.primaries), primariesOf(plate.primaries));
  return {
    curve: fillCurve(transferOf(fill.transfer, set.transfer), transferOf(plate.transfer)),
    gamma: gammaAt(levels ?? {}, frame),
    ...(primaries === IDENTITY ? {} : { primaries }),
  };
}

const bent = (l: number, gamma: number): number => (gamma === 1 ? l : Math.max(0, l) ** (1 / gamma));

/** Everything that a reading can ask for, place by place: for floats, tables and other primaries. */
function lineariseFreely(
  fill: Raster,
  { table, curve = 'srgb', primaries: m, gamma = [1, 1, 1] }: FillReading,
): LinearPicture {
  const unit = 1 / maxOf(fill);
  const n = fill.width * fill.height;
  const c = fill.channels;
  const { decode } = CURVES[curve];
  const data = new Float32Array(n * 4);
  const rgb = new Float32Array(3);
  const own = new Float64Array(3);
  for (let i = 0; i < n; i++) {
    const a = c === 4 ? fill.data[i * c + 3]! * unit : 1;
    for (let k = 0; k < 3; k++) rgb[k] = fill.data[i * c + k]! * unit;
    if (table) throughTable(table, rgb[0]!, rgb[1]!, rgb[2]!, rgb);
    const r = decode(rgb[0]!);
    const g = decode(rgb[1]!);
    const b = decode(rgb[2]!);
    own[0] = r;
    own[1] = g;
    own[2] = b;
    for (let k = 0; k < 3; k++) {
      const light = m ? m[3 * k]! * r + m[3 * k + 1]! * g + m[3 * k + 2]! * b : own[k]!;
      data[i * 4 + k] = a * bent(light, gamma[k]!);
    }
    data[i * 4 + 3] = a;
  }
  return { width: fill.width, height: fill.height, data };
}

/** A picture as light, 1 for white, as its reading says it was encoded; premultiplied where it has alpha. */
export function linearise(fill: Raster, reading: FillReading = {}): LinearPicture {
  if (reading.table || reading.primaries || fill.data instanceof Float32Array) return lineariseFreely(fill, reading);
  const { curve, gamma = [1, 1, 1] } = reading;
  const max = maxOf(fill);
  const [red, green, blue] = gamma.map((g) => decodingTable(max, curve, g)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const n = fill.width * fill.height;
  const c = fill.channels;
  const data = new Float32Array(n * 4);
  const wasm = renderKernels();
  const width = fill.width;
  if (wasm && max === 255 && (16 + c) * width + 16 <= MOST_ROWS) {
    const bytes = new Uint8Array(wasm.memory.buffer, ROWS_AT, c * width);
    const to = Math.ceil((ROWS_AT + c * width) / 16) * 4;
    [red, green, blue].forEach((t, k) => wasm.memory.set(t, TABLES_AT / 4 + 256 * k));
    for (let y = 0; y < fill.height; y++) {
      bytes.set(fill.data.subarray(y * c * width, (y + 1) * c * width));
      wasm.run.lineariseRow(ROWS_AT, c, width, TABLES_AT, 4 * to);
      data.set(wasm.memory.subarray(to, to + 4 * width), 4 * y * width);
    }
    return { width, height: fill.height, data };
  }
  for (let i = 0; i < n; i++) {
    const a = c === 4 ? fill.data[i * c + 3]! / max : 1;
    data[i * 4] = red[fill.data[i * c]!]! * a;
    data[i * 4 + 1] = green[fill.data[i * c + 1]!]! * a;
    data[i * 4 + 2] = blue[fill.data[i * c + 2]!]! * a;
    data[i * 4 + 3] = a;
  }
  return { width: fill.width, height: fill.height, data };
}

/** Light that was made elsewhere, bent by the gamma of the fill's levels, in place. */
export function bendLight(picture: LinearPicture, gamma: Rgb): LinearPicture {
  if (gamma.some((g) => g !== 1))
    for (let i = 0; i < picture.data.length; i += 4)
      for (let c = 0; c < 3; c++) picture.data[i + c] = bent(picture.data[i + c]!, gamma[c]!);
  return picture;
}

/** @param smallest level side at which halving ends */
export function pyramidOf(picture: LinearPicture, smallest = 4): FillPyramid {
  const out = [picture];
  while (Math.min(out.at(-1)!.width, out.at(-1)!.height) > smallest) out.push(halveLinear(out.at(-1)!));
  return out;
}

/** A picture as light at halved sizes, for sampling it at any scale. @throws CoreError `invalid` for a picture without pixels */
export function fillPyramid(fill: Raster, reading: FillReading = {}): FillPyramid {
  return pyramidOf(linearise(fill, reading));
}
