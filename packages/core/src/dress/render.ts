/**
 * The renderer: lays a fill into the plate at a pin. The same code makes the viewer's picture and the delivery. It works
 * in scene-linear light, filters the fill over each pixel's footprint (so that it neither aliases when shrunk nor blurs
 * along the short axis on steep views), covers edge pixels in part, and leaves every pixel outside the pin bit-exact.
 * Source of the filter: J. McCormack et al., Feline: Fast Elliptical Lines for Anisotropic Texture Mapping, 1999.
 */
import { inverse } from '../geometry/matrix3';
import { unitSquareToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { assertPin, signedArea } from '../geometry/quad';
import { boundsOf } from '../geometry/polygon';
import type { Raster } from '../image/image';
import { maxOf } from '../image/image';
import type { FillPyramid, LinearPicture } from './fill-pyramid';
import { decodingTable, encode, encodingTable } from './transfer';

/** Rectangle of whole pixels that a render changed. */
export interface Touched {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const MOST_TAPS = 8;

/** Half-planes of the four sides: a x + b y + c is the signed distance in px, positive inside. */
function sides(q: Quad): Float64Array {
  const out = new Float64Array(12), turn = signedArea(q) > 0 ? 1 : -1;
  for (let i = 0; i < 4; i++) {
    const [x0, y0] = q[i]!, [x1, y1] = q[(i + 1) % 4]!, l = turn / Math.hypot(x1 - x0, y1 - y0);
    out[i * 3] = -(y1 - y0) * l;
    out[i * 3 + 1] = (x1 - x0) * l;
    out[i * 3 + 2] = -(out[i * 3]! * x0 + out[i * 3 + 1]! * y0);
  }
  return out;
}

/** Adds a bilinear sample of `level` at (u, v) in its px, times `weight`, to `sum`; borders repeat. */
function addSample(level: LinearPicture, u: number, v: number, weight: number, sum: Float64Array): void {
  const { width, height, data } = level;
  const x = Math.min(Math.max(u - 0.5, 0), width - 1), y = Math.min(Math.max(v - 0.5, 0), height - 1);
  const ix = Math.min(x | 0, Math.max(0, width - 2)), iy = Math.min(y | 0, Math.max(0, height - 2)), fx = x - ix, fy = y - iy;
  const right = width > 1 ? 4 : 0, down = height > 1 ? width * 4 : 0, k = (iy * width + ix) * 4;
  const w00 = (1 - fx) * (1 - fy) * weight, w10 = fx * (1 - fy) * weight, w01 = (1 - fx) * fy * weight, w11 = fx * fy * weight;
  for (let c = 0; c < 4; c++)
    sum[c]! += w00 * data[k + c]! + w10 * data[k + right + c]! + w01 * data[k + down + c]! + w11 * data[k + down + right + c]!;
}

/** Filters the fill over the parallelogram (du, dv per px right; eu, ev per px down) around (u, v), all in fill px. */
function filter(fill: FillPyramid, u: number, v: number, du: number, dv: number, eu: number, ev: number, sum: Float64Array): void {
  sum.fill(0);
  const a = Math.hypot(du, dv), b = Math.hypot(eu, ev), major = Math.max(a, b);
  const minor = Math.max(Math.abs(du * ev - dv * eu) / Math.max(major, 1e-9), major / MOST_TAPS, 1);
  const taps = Math.min(MOST_TAPS, Math.max(1, Math.ceil(major / minor - 0.1)));
  const lod = Math.min(Math.log2(minor), fill.length - 1), low = Math.floor(lod), t = lod - low;
  const su = a >= b ? du : eu, sv = a >= b ? dv : ev;
  const base = fill[0]!;
  for (let l = low; l <= low + (t > 0.01 ? 1 : 0) && l < fill.length; l++) {
    const level = fill[l]!, kx = level.width / base.width, ky = level.height / base.height;
    const weight = (l === low ? 1 - (t > 0.01 ? t : 0) : t) / taps;
    for (let i = 0; i < taps; i++) {
      const o = (i + 0.5) / taps - 0.5;
      addSample(level, (u + o * su) * kx, (v + o * sv) * ky, weight, sum);
    }
  }
}

interface RowTask {
  readonly plate: Raster;
  readonly out: Raster['data'];
  readonly fill: FillPyramid;
  readonly toFill: readonly number[];
  readonly edge: Float64Array;
  readonly decode: Float32Array;
  readonly encodeTable: Float32Array;
  readonly sum: Float64Array;
}

/** Share of the pixel centred at (x, y) that lies inside the four sides. */
function coverage(edge: Float64Array, x: number, y: number): number {
  let c = 1;
  for (let i = 0; i < 12; i += 3) {
    const d = edge[i]! * x + edge[i + 1]! * y + edge[i + 2]! + 0.5;
    if (d <= 0) return 0;
    if (d < 1) c *= d;
  }
  return c;
}

function renderRow(t: RowTask, y: number, x0: number, x1: number): void {
  const { plate, out, toFill: m, sum, decode, encodeTable } = t;
  const channels = plate.channels, max = decode.length - 1, yc = y + 0.5;
  for (let x = x0; x < x1; x++) {
    const xc = x + 0.5, cover = coverage(t.edge, xc, yc);
    if (cover === 0) continue;
    const w = 1 / (m[6]! * xc + m[7]! * yc + m[8]!);
    const u = (m[0]! * xc + m[1]! * yc + m[2]!) * w, v = (m[3]! * xc + m[4]! * yc + m[5]!) * w;
    filter(t.fill, u, v, (m[0]! - u * m[6]!) * w, (m[3]! - v * m[6]!) * w, (m[1]! - u * m[7]!) * w, (m[4]! - v * m[7]!) * w, sum);
    const at = (y * plate.width + x) * channels, through = 1 - cover * sum[3]!;
    for (let c = 0; c < 3; c++) out[at + c] = encode(encodeTable, cover * sum[c]! + through * decode[plate.data[at + c]!]!);
    if (channels === 4) out[at + 3] = Math.round(max * (cover * sum[3]! + (through * plate.data[at + 3]!) / max));
  }
}

export class Renderer {
  private readonly tables = new Map<255 | 65535, { decode: Float32Array; encodeTable: Float32Array }>();

  /**
   * Lays `fill` over `plate` into the pin; `out` (a copy of the plate's data, or the plate's own) receives the result.
   * @param corners TL, TR, BR, BL in plate px; the fill is stretched to them
   * @returns the rectangle that may have changed, null when the pin lies outside the picture
   * @throws CoreError `degenerate` for a pin that no rectangle can look like
   */
  over(plate: Raster, fill: FillPyramid, corners: Quad, out: Raster['data'] = plate.data): Touched | null {
    assertPin(corners);
    const max = maxOf(plate), b = boundsOf(corners), base = fill[0]!;
    const x0 = Math.max(0, Math.floor(b.x0 - 1)), x1 = Math.min(plate.width, Math.ceil(b.x1 + 1));
    const y0 = Math.max(0, Math.floor(b.y0 - 1)), y1 = Math.min(plate.height, Math.ceil(b.y1 + 1));
    if (x0 >= x1 || y0 >= y1) return null;
    let tables = this.tables.get(max);
    if (!tables) this.tables.set(max, (tables = { decode: decodingTable(max), encodeTable: encodingTable(max) }));
    const unit = inverse(unitSquareToQuad(corners));
    const toFill = unit.map((v, i) => (i < 3 ? v * base.width : i < 6 ? v * base.height : v));
    const task: RowTask = { plate, out, fill, toFill, edge: sides(corners), sum: new Float64Array(4), ...tables };
    for (let y = y0; y < y1; y++) renderRow(task, y, x0, x1);
    return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
  }
}
