/**
 * ST maps: pictures that say where a picture's content comes from. Forward: a pixel of the plate holds the place of the
 * content that lies there, red from its left edge, green from its *bottom* edge, 0 to 1 inside the pin and going on
 * outside it; alpha is the pin's coverage, and coordinates are never multiplied by it. Inverse: a pixel of the content
 * holds its place in the plate, in the same way.
 */
import { clamp } from '../clamp';
import type { Lens } from '../geometry/lens';
import { distort, undistort } from '../geometry/lens';
import { unitSquareToQuad } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { edgeAt, coverageAt } from '../dress/shape/edge';

/** Pixels that a map covers: a piece of the plate, or more than all of it. */
export interface MapArea {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Largest number of a half float (IEEE 754, binary16); beyond the plane's horizon there is no place at all. */
const FARTHEST = 65504;
/** Shares of the content beyond its sides where coverage is still looked at. */
const NEAR = 0.5;
const PLAIN = edgeAt({}, 0, 1, 1);
const bounded = (v: number): number => (Number.isFinite(v) ? clamp(v, -FARTHEST, FARTHEST) : FARTHEST);

/** One row of a map without a lens: numerators and denominator go on evenly along it. */
function straightRow(m: readonly number[], area: MapArea, j: number, out: Float32Array): void {
  const py = area.y + j + 0.5;
  const [m0, m1, m2, m3, m4, m5, m6, m7, m8] = m as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  let a = m0 * (area.x + 0.5) + m1 * py + m2;
  let b = m3 * (area.x + 0.5) + m4 * py + m5;
  let w = m6 * (area.x + 0.5) + m7 * py + m8;
  for (let k = j * area.width * 4, end = k + area.width * 4; k < end; k += 4, a += m0, b += m3, w += m6) {
    const r = 1 / w;
    const s = a * r;
    const t = b * r;
    if (s < -FARTHEST) out[k] = -FARTHEST;
    else if (s > FARTHEST || s !== s) out[k] = FARTHEST;
    else out[k] = s;
    if (1 - t < -FARTHEST) out[k + 1] = -FARTHEST;
    else if (1 - t > FARTHEST || t !== t) out[k + 1] = FARTHEST;
    else out[k + 1] = 1 - t;
    if (w <= 0 || s < -NEAR || s > 1 + NEAR || t < -NEAR || t > 1 + NEAR) continue;
    // What a px to the right and down changes: the derivatives of the projective map.
    out[k + 3] = coverageAt(PLAIN, 1, s, t, (m0 - s * m6) * r, (m1 - s * m7) * r, (m3 - t * m6) * r, (m4 - t * m7) * r);
  }
}

function bowedRow(m: readonly number[], lens: Lens, area: MapArea, j: number, out: Float32Array): void {
  const py = area.y + j + 0.5;
  const slot = (x: number, y: number): readonly [number, number, number] => {
    const [u, v] = undistort(lens, [x, y]);
    const w = m[6]! * u + m[7]! * v + m[8]!;
    return [(m[0]! * u + m[1]! * v + m[2]!) / w, (m[3]! * u + m[4]! * v + m[5]!) / w, w];
  };
  for (let i = 0, k = j * area.width * 4; i < area.width; i++, k += 4) {
    const px = area.x + i + 0.5;
    const [s, t, w] = slot(px, py);
    out[k] = bounded(s);
    out[k + 1] = bounded(1 - t);
    if (w <= 0 || s < -NEAR || s > 1 + NEAR || t < -NEAR || t > 1 + NEAR) continue;
    const right = slot(px + 1, py);
    const down = slot(px, py + 1);
    out[k + 3] = coverageAt(PLAIN, 1, s, t, right[0] - s, down[0] - s, right[1] - t, down[1] - t);
  }
}

/**
 * Where the content of every pixel comes from.
 * @param area of the plate, px
 * @returns RGBA, `width*height*4`; blue is 0
 */
export function stMap(corners: Quad, area: MapArea, lens: Lens | null = null): Float32Array {
  const flat = lens ? (corners.map((c) => undistort(lens, c)) as unknown as Quad) : corners;
  const raw = inverse(unitSquareToQuad(flat));
  const facing = flat.reduce((s, c) => s + raw[6]! * c[0] + raw[7]! * c[1] + raw[8]!, 0) < 0 ? raw.map((v) => -v) : raw;
  const out = new Float32Array(area.width * area.height * 4);
  for (let j = 0; j < area.height; j++) {
    if (lens) bowedRow(facing, lens, area, j, out);
    else straightRow(facing, area, j, out);
  }
  return out;
}

/** Where in the plate every pixel of the content lies; alpha is 1 inside the plate's picture. */
export function inverseStMap(
  corners: Quad,
  content: { readonly width: number; readonly height: number },
  plate: { readonly width: number; readonly height: number },
  lens: Lens | null = null,
): Float32Array {
  const flat = lens ? (corners.map((c) => undistort(lens, c)) as unknown as Quad) : corners;
  const h = unitSquareToQuad(flat);
  const out = new Float32Array(content.width * content.height * 4);
  for (let j = 0, k = 0; j < content.height; j++)
    for (let i = 0; i < content.width; i++, k += 4) {
      const s = (i + 0.5) / content.width;
      const t = (j + 0.5) / content.height;
      const w = h[6]! * s + h[7]! * t + h[8]!;
      const [x, y] = (lens ? (p: readonly [number, number]) => distort(lens, p) : (p: readonly [number, number]) => p)([
        (h[0]! * s + h[1]! * t + h[2]!) / w,
        (h[3]! * s + h[4]! * t + h[5]!) / w,
      ]);
      out[k] = bounded(x / plate.width);
      out[k + 1] = bounded(1 - y / plate.height);
      out[k + 3] = x >= 0 && y >= 0 && x <= plate.width && y <= plate.height ? 1 : 0;
    }
  return out;
}

/**
 * A map of the lens alone: with `undistort` where in the plate every pixel of the ideal picture lies, without it where
 * in the ideal picture every pixel of the plate lies; alpha is 1 where that is inside. RGBA, `width*height*4` of the
 * lens's picture, with `overscan` px about it.
 */
export function lensMap(lens: Lens, way: 'undistort' | 'distort', overscan = 0): Float32Array {
  const { width, height } = lens;
  const w = width + 2 * overscan;
  const h = height + 2 * overscan;
  const out = new Float32Array(w * h * 4);
  const through = way === 'undistort' ? distort : undistort;
  for (let j = 0, k = 0; j < h; j++)
    for (let i = 0; i < w; i++, k += 4) {
      const [x, y] = through(lens, [i + 0.5 - overscan, j + 0.5 - overscan]);
      out[k] = bounded(x / width);
      out[k + 1] = bounded(1 - y / height);
      out[k + 3] = x >= 0 && y >= 0 && x <= width && y <= height ? 1 : 0;
    }
  return out;
}

/**
 * The pin's corners from a forward map: the homography of its covered places, by least squares. `null` for a map that
 * covers nothing.
 */
export function pairsOfMap(
  map: Float32Array,
  area: MapArea,
): { readonly content: (readonly [number, number])[]; readonly plate: (readonly [number, number])[] } {
  const content: (readonly [number, number])[] = [];
  const plate: (readonly [number, number])[] = [];
  const covered: number[] = [];
  for (let i = 0; i < area.width * area.height; i++) if (map[i * 4 + 3]! >= 0.999) covered.push(i);
  const step = Math.max(1, Math.floor(covered.length / 4000));
  for (let n = 0; n < covered.length; n += step) {
    const i = covered[n]!;
    content.push([map[i * 4]!, 1 - map[i * 4 + 1]!]);
    plate.push([area.x + (i % area.width) + 0.5, area.y + Math.floor(i / area.width) + 0.5]);
  }
  return { content, plate };
}
