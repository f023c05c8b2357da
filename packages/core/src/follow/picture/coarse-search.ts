/**
 * Finds a lost screen again: the template's coarsest cells are tried at every whole-pixel shift of a window around a
 * guess, scored by their information-weighted correlation (the best half of the cells counts, so covers do no harm).
 */
import type { Matrix3 } from '../../geometry/matrix3';
import { multiply, translation } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import type { Pyramid } from '../../image/pyramid';
import { sampleCell } from '../../image/sample';
import type { Template, TemplateLevel } from './template';

/** Whole px of a level by which the guess is shifted, both ends inclusive. */
interface Shifts {
  readonly x: readonly [number, number];
  readonly y: readonly [number, number];
}

interface Shifted {
  readonly homography: number[];
  /** -1 to 1 */
  readonly score: number;
}

const SEARCH = {
  /** Cells of the Screen's own without which a level is too coarse to search the whole picture on. By trial. */
  leastCells: 8,
  /** Samples, at about 10 ns, that looking over a whole picture may take; fewer cells are looked for where they are more. By trial. */
  mostSamples: 3e7,
  /** Share of a template's cells that must lie in the picture for a place to be scored. By trial. */
  seen: 0.3,
  /** Score that a px of shift on the level costs: of places that are alike the nearer one is taken. By trial. */
  perPx: 0.0005,
} as const;

interface ShiftSearch {
  readonly template: Template;
  /** of the template */
  readonly level: TemplateLevel;
  readonly pyramid: Pyramid;
  /** template px to frame px */
  readonly guess: Matrix3;
  /** @param level of the pyramid */
  readonly shiftsOn: (level: number) => Shifts;
  /** which cells count, by index; all when left out */
  readonly counts?: (cell: number) => boolean;
}

/** Tries every shift of a template's cells on one of its levels. */
function bestShift({ template, level: t, pyramid, guess, shiftsOn, counts = () => true }: ShiftSearch): Shifted | null {
  const level = Math.min(t.level, pyramid.length - 1);
  const image = pyramid[level]!;
  const k = 1 << level;
  const shifts = shiftsOn(level);
  const used = Array.from({ length: t.cells }, (_, c) => c).filter(counts);
  const n = t.side * t.side;
  const samples = new Float32Array(n);
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  const whole = multiply(guess, [s, 0, cx, 0, s, cy, 0, 0, 1]);
  let best: { dx: number; dy: number; score: number } | null = null;
  for (let dy = shifts.y[0]; dy <= shifts.y[1]; dy++)
    for (let dx = shifts.x[0]; dx <= shifts.x[1]; dx++) {
      const m = multiply(translation(dx * k, dy * k), whole).map((v, i) => (i < 6 ? v / k : v));
      const scores: number[] = [];
      for (const c of used) {
        if (!sampleCell(image, m, t.u[c]!, t.v[c]!, t.step, t.side, false, samples)) continue;
        let sum = 0;
        let square = 0;
        let along = 0;
        for (let i = 0; i < n; i++) {
          sum += samples[i]!;
          square += samples[i]! ** 2;
          along += samples[i]! * t.values[c * n + i]!;
        }
        scores.push(along / Math.sqrt(Math.max(1e-6, square - (sum * sum) / n) + n));
      }
      if (scores.length < Math.max(3, SEARCH.seen * used.length)) continue;
      scores.sort((a, b) => b - a);
      const half = Math.ceil(scores.length / 2);
      let score = 0;
      for (let i = 0; i < half; i++) score += scores[i]! / half;
      score -= SEARCH.perPx * Math.hypot(dx, dy);
      if (!best || score > best.score) best = { dx, dy, score };
    }
  return best && { homography: multiply(translation(best.dx * k, best.dy * k), guess), score: best.score };
}

/**
 * @param guess template px to frame px
 * @param radius px of the frame searched to each side
 * @returns the shifted guess with the best score (-1 to 1), or null when nothing could be compared
 */
export function searchShift(template: Template, pyramid: Pyramid, guess: Matrix3, radius: number): Shifted | null {
  const coarsest = template.levels.at(-1);
  if (!coarsest) return null;
  const shiftsOn = (level: number): Shifts => {
    const reach = Math.ceil(radius / (1 << level));
    return { x: [-reach, reach], y: [-reach, reach] };
  };
  return bestShift({ template, level: coarsest, pyramid, guess, shiftsOn });
}

/**
 * The same over the whole picture: every shift that keeps the middle of what is looked for inside it.
 * @param pyramid of the whole picture
 * @param corners of what is looked for under the guess, px of the frame
 */
export function searchPicture(
  template: Template,
  pyramid: Pyramid,
  guess: Matrix3,
  corners: readonly Point[],
): Shifted | null {
  const b = boundsOf(corners);
  const [x, y] = [(b.x0 + b.x1) / 2, (b.y0 + b.y1) / 2];
  const shiftsOn = (level: number): Shifts => {
    const image = pyramid[level]!;
    const k = 1 << level;
    return {
      x: [Math.ceil(-x / k), Math.floor(image.x0 + image.width - x / k)],
      y: [Math.ceil(-y / k), Math.floor(image.y0 + image.height - y / k)],
    };
  };
  // What lies around the Screen, or is mirrored in it, may well be where it was: it tells nothing of the Screen.
  const ownCells = (t: TemplateLevel): number[] => [...t.probation.keys()].filter((c) => !t.probation[c]);
  const level = template.levels.findLast((t) => ownCells(t).length >= SEARCH.leastCells);
  if (!level) return null;
  const shifts = shiftsOn(Math.min(level.level, pyramid.length - 1));
  const places = (shifts.x[1] - shifts.x[0] + 1) * (shifts.y[1] - shifts.y[0] + 1);
  const affordable = Math.floor(SEARCH.mostSamples / (places * level.side ** 2));
  // Cells on fine levels alone are too many places to look at, and too small to be told from each other there.
  if (affordable < SEARCH.leastCells) return null;
  const clearest = ownCells(level).sort((c, d) => level.norm[d]! - level.norm[c]!);
  const used = new Set(clearest.slice(0, affordable));
  return bestShift({ template, level, pyramid, guess, shiftsOn, counts: (c) => used.has(c) });
}
