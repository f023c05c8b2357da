/**
 * Finds a lost screen again: the template's coarsest cells are tried at every whole-pixel shift of a window around a
 * guess, scored by their information-weighted correlation (the best half of the cells counts, so covers do no harm).
 */
import type { Matrix3 } from '../geometry/matrix3';
import { multiply, translation } from '../geometry/matrix3';
import type { Pyramid } from '../image/pyramid';
import { sampleCell } from '../image/sample';
import type { Template } from './template';

/**
 * @param guess template px to frame px
 * @param radius px of the frame searched to each side
 * @returns the shifted guess with the best score (-1 to 1), or null when nothing could be compared
 */
export function searchShift(
  template: Template,
  pyramid: Pyramid,
  guess: Matrix3,
  radius: number,
): { homography: number[]; score: number } | null {
  const t = template.levels.at(-1);
  if (!t) return null;
  const level = Math.min(t.level, pyramid.length - 1);
  const image = pyramid[level]!;
  const k = 1 << level;
  const reach = Math.ceil(radius / k);
  const n = t.side * t.side;
  const samples = new Float32Array(n);
  const s = template.halfSize;
  const [cx, cy] = template.centre;
  let best: { dx: number; dy: number; score: number } | null = null;
  for (let dy = -reach; dy <= reach; dy++)
    for (let dx = -reach; dx <= reach; dx++) {
      const m = multiply(translation(dx * k, dy * k), multiply(guess, [s, 0, cx, 0, s, cy, 0, 0, 1])).map((v, i) =>
        i < 6 ? v / k : v,
      );
      const scores: number[] = [];
      for (let c = 0; c < t.cells; c++) {
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
      if (scores.length < Math.max(3, 0.3 * t.cells)) continue;
      scores.sort((a, b) => b - a);
      const half = Math.ceil(scores.length / 2);
      let score = 0;
      for (let i = 0; i < half; i++) score += scores[i]! / half;
      score -= 0.0005 * Math.hypot(dx, dy);
      if (!best || score > best.score) best = { dx, dy, score };
    }
  return best && { homography: multiply(translation(best.dx * k, best.dy * k), guess), score: best.score };
}
