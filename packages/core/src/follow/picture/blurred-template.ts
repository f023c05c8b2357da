/**
 * What a remembered picture looks like while it moves: each cell averaged along its own path over the open shutter.
 * With that, fine levels agree again with a smeared frame, and the smear's direction stops counting as detail. Source:
 * H. Jin, P. Favaro, R. Cipolla, Visual Tracking in the Presence of Motion Blur, CVPR 2005 (the idea).
 */
import type { Point } from '../../geometry/point';
import { MOST_PATCH, OUT_AT, PATCH_AT, kernels } from '../../image/kernels';
import { toGrey } from '../../image/light';
import { WORTHWHILE, lightOfPiece } from './cell-light';
import type { Template, TemplateLevel } from './template';
import { fillCell, levelLike } from './template';

/** Samples along a path: one a px for the longest smear that is followed. By trial. */
const MOST_TAPS = 40;
/** px of border that a cell's gradients need. */
const BORDER = 1;

/** A square piece of light with what is needed around it to smear it. */
interface Ground {
  readonly data: Float32Array;
  readonly width: number;
  readonly height: number;
  /** px before the square */
  readonly left: number;
  readonly up: number;
}

/** @returns false when the kernels are not there or it is too much */
function smearInKernels(g: Ground, size: number, dx: number, dy: number, taps: number, out: Float32Array): boolean {
  const k = g.data.length <= MOST_PATCH ? kernels() : null;
  if (!k) return false;
  const { memory } = k;
  memory.set(g.data, PATCH_AT / 4);
  k.run.smear(PATCH_AT, g.width, g.left, g.up, size, taps, dx, dy, OUT_AT);
  for (let i = 0, from = OUT_AT / 4; i < size * size; i++) out[i] = memory[from + i]!;
  return true;
}

/** The square of `size` px, averaged along (dx, dy). */
function smear(g: Ground, size: number, dx: number, dy: number, out: Float32Array): void {
  const taps = Math.min(MOST_TAPS, Math.ceil(Math.hypot(dx, dy)) + 1);
  if (smearInKernels(g, size, dx, dy, taps, out)) return;
  const { data, width } = g;
  const f = 1 / taps;
  out.fill(0);
  for (let k = 0; k < taps; k++) {
    const at = taps === 1 ? 0 : k / (taps - 1) - 0.5;
    const sx = g.left + at * dx;
    const sy = g.up + at * dy;
    const bx = Math.floor(sx);
    const by = Math.floor(sy);
    const fx = sx - bx;
    const fy = sy - by;
    const w00 = f * (1 - fx) * (1 - fy);
    const w10 = f * fx * (1 - fy);
    const w01 = f * (1 - fx) * fy;
    const w11 = f * fx * fy;
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const p = (by + y) * width + bx + x;
        out[y * size + x]! += w00 * data[p]! + w10 * data[p + 1]! + w01 * data[p + width]! + w11 * data[p + width + 1]!;
      }
  }
}

/** Fills the cells of a level, each averaged along its own path, px of the level. */
function fillSmeared(out: TemplateLevel, template: Template, paths: readonly Point[]): void {
  const size = out.side + 2 * BORDER;
  const patch = new Float32Array(size * size);
  for (const [c, cell] of out.source.entries()) {
    const [dx, dy] = paths[c]!;
    const left = Math.ceil(Math.abs(dx) / 2) + 1;
    const up = Math.ceil(Math.abs(dy) / 2) + 1;
    const width = size + 2 * left + 2;
    const height = size + 2 * up + 2;
    const piece = { x: cell.x - BORDER - left, y: cell.y - BORDER - up, width, height };
    const data = lightOfPiece(template, out.level, piece);
    smear({ data, width, height, left, up }, size, dx, dy, patch);
    toGrey(patch);
    fillCell(out, c, { data: patch, width: size }, BORDER, BORDER);
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
    fillSmeared(out, template, paths);
    return out;
  });
  return { ...template, levels };
}
