/**
 * What a remembered picture looks like while it moves: each cell averaged along its own path over the open shutter.
 * With that, fine levels agree again with a smeared frame, and the smear's direction stops counting as detail. Source:
 * H. Jin, P. Favaro, R. Cipolla, Visual Tracking in the Presence of Motion Blur, CVPR 2005 (the idea).
 */
import type { Point } from '../geometry/point';
import { MOST_PATCH, OUT_AT, PATCH_AT, kernels } from '../image/kernels';
import { lightOf, toGrey } from '../image/light';
import type { PyramidLevel } from '../image/pyramid';
import type { Template, TemplateLevel } from './template';
import { fillCell, levelLike } from './template';

/** px of a level; shorter paths are left sharp there. By trial. */
const WORTHWHILE = 0.8;
/** Samples along a path: one a px for the longest smear that is followed. By trial. */
const MOST_TAPS = 40;

/**
 * Copies what the smear needs, borders repeated, and leaves the sum to the kernels. @returns false when they are not
 * there or it is too much
 */
function smearInKernels(
  image: PyramidLevel,
  x0: number,
  y0: number,
  size: number,
  dx: number,
  dy: number,
  taps: number,
  out: Float32Array,
): boolean {
  const { data, width, height } = image;
  const left = Math.ceil(Math.abs(dx) / 2) + 1;
  const up = Math.ceil(Math.abs(dy) / 2) + 1;
  const wide = size + 2 * left + 2;
  const high = size + 2 * up + 2;
  const k = wide * high <= MOST_PATCH ? kernels() : null;
  if (!k) return false;
  const { memory } = k;
  const fx = x0 - left;
  const fy = y0 - up;
  for (let y = 0, to = PATCH_AT / 4; y < high; y++, to += wide) {
    const row = Math.min(Math.max(fy + y, 0), height - 1) * width;
    if (fx >= 0 && fx + wide <= width) memory.set(data.subarray(row + fx, row + fx + wide), to);
    else for (let x = 0; x < wide; x++) memory[to + x] = data[row + Math.min(Math.max(fx + x, 0), width - 1)]!;
  }
  k.run.smear(PATCH_AT, wide, left, up, size, taps, dx, dy, OUT_AT);
  for (let i = 0, from = OUT_AT / 4; i < size * size; i++) out[i] = memory[from + i]!;
  return true;
}

/** Levels of remembered pictures as light, made once each. */
const lights = new WeakMap<PyramidLevel, PyramidLevel>();

function inLight(image: PyramidLevel): PyramidLevel {
  const before = lights.get(image);
  if (before) return before;
  const light = { ...image, data: image.data.map(lightOf) };
  lights.set(image, light);
  return light;
}

/** Cell `c` of `image` with one px of border, averaged along (dx, dy). */
function smear(
  image: PyramidLevel,
  x0: number,
  y0: number,
  size: number,
  dx: number,
  dy: number,
  out: PyramidLevel,
): void {
  const { data, width, height } = image;
  const taps = Math.min(MOST_TAPS, Math.ceil(Math.hypot(dx, dy)) + 1);
  const f = 1 / taps;
  if (smearInKernels(image, x0, y0, size, dx, dy, taps, out.data)) return;
  out.data.fill(0);
  for (let k = 0; k < taps; k++) {
    const at = taps === 1 ? 0 : k / (taps - 1) - 0.5;
    const sx = x0 + at * dx;
    const sy = y0 + at * dy;
    const bx = Math.floor(sx);
    const by = Math.floor(sy);
    const fx = sx - bx;
    const fy = sy - by;
    const w00 = f * (1 - fx) * (1 - fy);
    const w10 = f * fx * (1 - fy);
    const w01 = f * (1 - fx) * fy;
    const w11 = f * fx * fy;
    for (let y = 0; y < size; y++) {
      const ya = Math.min(Math.max(by + y, 0), height - 1) * width;
      const yb = Math.min(Math.max(by + y + 1, 0), height - 1) * width;
      for (let x = 0; x < size; x++) {
        const xa = Math.min(Math.max(bx + x, 0), width - 1);
        const xb = Math.min(Math.max(bx + x + 1, 0), width - 1);
        out.data[y * size + x]! +=
          w00 * data[ya + xa]! + w10 * data[ya + xb]! + w01 * data[yb + xa]! + w11 * data[yb + xb]!;
      }
    }
  }
}

/**
 * @param coarsest levels above it are left sharp
 * @param path how far a point of the remembered frame moves while the shutter is open, in px of that frame
 */
export function blurTemplate(template: Template, coarsest: number, path: (at: Point) => Point): Template {
  const [cx, cy] = template.centre;
  const half = template.halfSize;
  const levels = template.levels.map((t): TemplateLevel => {
    if (t.level > coarsest) return t;
    const scale = 1 << t.level;
    const paths = t.source.map((_, c): Point => {
      const middle = (t.side / 2) * t.step;
      const p = path([cx + half * (t.u[c]! + middle), cy + half * (t.v[c]! + middle)]);
      return [p[0] / scale, p[1] / scale];
    });
    if (!paths.some((p) => Math.hypot(p[0], p[1]) > WORTHWHILE)) return t;
    const out = levelLike(t);
    const light = inLight(template.pyramid[t.level]!);
    const size = t.side + 2;
    const patch: PyramidLevel = { width: size, height: size, data: new Float32Array(size * size), x0: 0, y0: 0 };
    for (const [c, cell] of t.source.entries()) {
      smear(light, cell.x - 1, cell.y - 1, size, paths[c]![0], paths[c]![1], patch);
      toGrey(patch.data);
      fillCell(out, c, patch, 1, 1);
    }
    return out;
  });
  return { ...template, levels };
}
