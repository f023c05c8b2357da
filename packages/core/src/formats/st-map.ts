/**
 * ST maps: pictures that say where a picture's content comes from. Forward: a pixel of the plate holds the place of the content that lies there,
 * red from its left edge, green from its *bottom* edge, 0 to 1 inside the pin and going on outside it; alpha is the pin's coverage, and
 * coordinates are never multiplied by it. Inverse: a pixel of the content holds its place in the plate, in the same way.
 */
import type { Lens } from '../geometry/lens';
import { distort, undistort } from '../geometry/lens';
import { unitSquareToQuad } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { edgeAt, coverageAt } from '../dress/edge';

/** Pixels that a map covers: a piece of the plate, or more than all of it. */
export interface MapArea {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Half floats end here, and beyond the plane's horizon there is no place at all. */
const FARTHEST = 65504;
const PLAIN = edgeAt({}, 0, 1, 1);
const bounded = (v: number): number => (Number.isFinite(v) ? Math.min(FARTHEST, Math.max(-FARTHEST, v)) : FARTHEST);

/**
 * Where the content of every pixel comes from.
 * @param area of the plate, in px of it times `scale`
 * @returns RGBA, `width*height*4`; blue is 0
 */
export function stMap(corners: Quad, area: MapArea, lens: Lens | null = null): Float32Array {
  const flat = lens ? (corners.map((c) => undistort(lens, c)) as unknown as Quad) : corners, raw = inverse(unitSquareToQuad(flat));
  const facing = flat.reduce((s, c) => s + raw[6]! * c[0] + raw[7]! * c[1] + raw[8]!, 0) < 0 ? raw.map((v) => -v) : raw, out = new Float32Array(area.width * area.height * 4), here = new Float64Array(3), right = new Float64Array(3), down = new Float64Array(3);
  const slot = (px: number, py: number, to: Float64Array): void => {
    const [x, y] = lens ? undistort(lens, [px, py]) : [px, py], w = facing[6]! * x + facing[7]! * y + facing[8]!;
    to[0] = (facing[0]! * x + facing[1]! * y + facing[2]!) / w;
    to[1] = (facing[3]! * x + facing[4]! * y + facing[5]!) / w;
    to[2] = w;
  };
  for (let j = 0, k = 0; j < area.height; j++)
    for (let i = 0; i < area.width; i++, k += 4) {
      const px = area.x + i + 0.5, py = area.y + j + 0.5;
      slot(px, py, here);
      out[k] = bounded(here[0]!);
      out[k + 1] = bounded(1 - here[1]!);
      if (here[2]! <= 0 || here[0]! < -1 || here[0]! > 2 || here[1]! < -1 || here[1]! > 2) continue;
      slot(px + 1, py, right);
      slot(px, py + 1, down);
      out[k + 3] = coverageAt(PLAIN, 1, here[0]!, here[1]!, right[0]! - here[0]!, down[0]! - here[0]!, right[1]! - here[1]!, down[1]! - here[1]!);
    }
  return out;
}

/** Where in the plate every pixel of the content lies; alpha is 1 inside the plate's picture. */
export function inverseStMap(corners: Quad, content: { readonly width: number; readonly height: number }, plate: { readonly width: number; readonly height: number }, lens: Lens | null = null): Float32Array {
  const flat = lens ? (corners.map((c) => undistort(lens, c)) as unknown as Quad) : corners, h = unitSquareToQuad(flat), out = new Float32Array(content.width * content.height * 4);
  for (let j = 0, k = 0; j < content.height; j++)
    for (let i = 0; i < content.width; i++, k += 4) {
      const s = (i + 0.5) / content.width, t = (j + 0.5) / content.height, w = h[6]! * s + h[7]! * t + h[8]!, [x, y] = (lens ? (p: readonly [number, number]) => distort(lens, p) : (p: readonly [number, number]) => p)([(h[0]! * s + h[1]! * t + h[2]!) / w, (h[3]! * s + h[4]! * t + h[5]!) / w]);
      out[k] = bounded(x / plate.width);
      out[k + 1] = bounded(1 - y / plate.height);
      out[k + 3] = x >= 0 && y >= 0 && x <= plate.width && y <= plate.height ? 1 : 0;
    }
  return out;
}

/** The pin's corners from a forward map: the homography of its covered places, by least squares. `null` for a map that covers nothing. */
export function pairsOfMap(map: Float32Array, area: MapArea): { readonly content: (readonly [number, number])[]; readonly plate: (readonly [number, number])[] } {
  const content: (readonly [number, number])[] = [], plate: (readonly [number, number])[] = [], covered: number[] = [];
  for (let i = 0; i < area.width * area.height; i++) if (map[i * 4 + 3]! >= 0.999) covered.push(i);
  const step = Math.max(1, Math.floor(covered.length / 4000));
  for (let n = 0; n < covered.length; n += step) {
    const i = covered[n]!;
    content.push([map[i * 4]!, 1 - map[i * 4 + 1]!]);
    plate.push([area.x + (i % area.width) + 0.5, area.y + Math.floor(i / area.width) + 0.5]);
  }
  return { content, plate };
}
