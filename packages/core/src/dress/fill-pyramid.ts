/** The fill ready for the renderer: scene-linear, premultiplied RGBA at halved sizes (L. Williams, Pyramidal Parametrics, 1983). */
import type { Raster } from '../image/image';
import { maxOf } from '../image/image';
import type { Levels, Rgb } from './levels';
import { gammaAt } from './levels';
import type { Transfer } from './transfer';
import { decodingTable, fillCurve, transferOf } from './transfer';

export interface LinearPicture {
  readonly width: number;
  readonly height: number;
  /** `width*height*4`, scene-linear, premultiplied */
  readonly data: Float32Array;
}

export type FillPyramid = readonly LinearPicture[];

function halveLinear(src: LinearPicture): LinearPicture {
  const width = Math.max(1, src.width >> 1), height = Math.max(1, src.height >> 1);
  const data = new Float32Array(width * height * 4);
  const sx = src.width / width, sy = src.height / height;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const x0 = Math.floor(x * sx), x1 = Math.max(x0 + 1, Math.floor((x + 1) * sx));
      const y0 = Math.floor(y * sy), y1 = Math.max(y0 + 1, Math.floor((y + 1) * sy));
      const n = 1 / ((x1 - x0) * (y1 - y0));
      for (let j = y0; j < y1; j++)
        for (let i = x0; i < x1; i++)
          for (let c = 0; c < 4; c++) data[(y * width + x) * 4 + c]! += n * src.data[(j * src.width + i) * 4 + c]!;
    }
  return { width, height, data };
}

/** How a fill's code values become light: its curve (see `fillCurve`), and the gamma of its levels. */
export interface FillReading {
  readonly curve?: Transfer;
  readonly gamma?: Rgb;
}

/**
 * How a fill is read on a frame, alike for view and delivery.
 * @param fill its tag, and what was set by hand; `plate` the plate's tag
 */
export function readingOf(levels: Levels | undefined, frame: number, fill: { readonly tag: string | null; readonly set?: Transfer | 'auto' | undefined }, plate: string | null): FillReading {
  return { curve: fillCurve(transferOf(fill.tag, fill.set), transferOf(plate)), gamma: gammaAt(levels ?? {}, frame) };
}

export function linearise(fill: Raster, { curve, gamma = [1, 1, 1] }: FillReading = {}): LinearPicture {
  const max = maxOf(fill), [red, green, blue] = gamma.map((g) => decodingTable(max, curve, g)) as [Float32Array, Float32Array, Float32Array], n = fill.width * fill.height, c = fill.channels;
  const data = new Float32Array(n * 4);
  for (let i = 0; i < n; i++) {
    const a = c === 4 ? fill.data[i * c + 3]! / max : 1;
    data[i * 4] = red[fill.data[i * c]!]! * a;
    data[i * 4 + 1] = green[fill.data[i * c + 1]!]! * a;
    data[i * 4 + 2] = blue[fill.data[i * c + 2]!]! * a;
    data[i * 4 + 3] = a;
  }
  return { width: fill.width, height: fill.height, data };
}

/** @param smallest level side at which halving ends */
export function fillPyramid(fill: Raster, reading: FillReading = {}, smallest = 4): FillPyramid {
  const out = [linearise(fill, reading)];
  while (Math.min(out.at(-1)!.width, out.at(-1)!.height) > smallest) out.push(halveLinear(out.at(-1)!));
  return out;
}
