/**
 * How soft a frame shows the Screen beyond what was remembered: focus that is pulled away and back. Softness is told as
 * the width of a box, px of the frame, whose spread is the same (a disc of radius r spreads like a box of 1.73 r).
 * Remembered pictures and looks are softened by it, so that fine levels agree again and softened edges are not taken
 * for moved ones.
 */
import { lightOf, toGrey } from '../image/light';
import type { PyramidLevel } from '../image/pyramid';
import type { Template, TemplateLevel } from './template';
import { fillCell, levelLike } from './template';

/** px; what is tried, each about half as soft again as the one before: finer steps hardly change a picture. By trial. */
const SOFTNESSES = [0, 1.5, 2.2, 3.3, 5, 7.5, 11, 17] as const;
/** Share by which a softer look must do better to be taken: lines look more alike the softer they are. By trial. */
const SOFTER = 0.015;
/** Share by which a sharper one may do worse. By trial. */
const SHARPER = -0.002;
/** px of a level; less makes no difference there. By trial. */
const WORTHWHILE = 0.8;
/** Ratio of two softnesses that are the same for remembered pictures. By trial. */
const SAME = 1.12;

/** Weights of a box that was averaged twice, of that spread in all. @param width px */
function weightsOf(width: number): Float32Array {
  const one = width / Math.SQRT2;
  const half = Math.max(1, Math.ceil(one));
  const weights = Float32Array.from({ length: 2 * half + 1 }, (_, i) => Math.max(0, one - Math.abs(i - half)));
  const sum = weights.reduce((s, w) => s + w, 0);
  return weights.map((w) => w / sum);
}

/** One pass along rows, written as columns: two passes bring the picture back. */
function averaged(from: Float32Array, width: number, height: number, weights: Float32Array): Float32Array {
  const out = new Float32Array(from.length);
  const half = weights.length >> 1;
  const row = new Float32Array(width + 2 * half);
  for (let y = 0; y < height; y++) {
    row.fill(from[y * width]!, 0, half);
    row.set(from.subarray(y * width, (y + 1) * width), half);
    row.fill(from[(y + 1) * width - 1]!, half + width);
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let k = 0; k < weights.length; k++) sum += weights[k]! * row[x + k]!;
      out[x * height + y] = sum;
    }
  }
  return out;
}

function softenedLevel(image: PyramidLevel, softness: number): PyramidLevel {
  const weights = weightsOf(softness);
  const { width, height } = image;
  const turned = averaged(image.data.map(lightOf), width, height, weights);
  const data = averaged(turned, height, width, weights);
  toGrey(data);
  return { ...image, data };
}

function soften(template: Template, softness: number): Template {
  const pyramid = template.pyramid.map((image, level) =>
    softness / (1 << level) > WORTHWHILE ? softenedLevel(image, softness / (1 << level)) : image,
  );
  const levels = template.levels.map((t): TemplateLevel => {
    const image = pyramid[t.level]!;
    if (image === template.pyramid[t.level]) return t;
    const out = levelLike(t);
    for (const [c, cell] of t.source.entries()) fillCell(out, c, image, cell.x, cell.y);
    return out;
  });
  return { ...template, pyramid, levels };
}

/** Softened pictures of a remembered one that are kept: the frame's own and what is tried beside it. By trial. */
const KEPT = 4;
const made = new WeakMap<Template, Map<number, Template>>();

/** @param softness px of the remembered picture */
export function softened(template: Template, softness: number): Template {
  if (softness <= WORTHWHILE) return template;
  const step = Math.round(Math.log(softness) / Math.log(SAME));
  const own = made.get(template) ?? new Map<number, Template>();
  const now = own.get(step) ?? soften(template, SAME ** step);
  own.delete(step);
  own.set(step, now);
  if (own.size > KEPT) own.delete(own.keys().next().value!);
  made.set(template, own);
  return now;
}

/**
 * The softness of a frame, from that of the one before.
 * @param agreement how well lines agree with what is remembered when that is softened so, 0 or more
 */
export function nextSoftness(now: number, agreement: (softness: number) => number): number {
  let at = SOFTNESSES.indexOf(now as (typeof SOFTNESSES)[number]);
  let best = agreement(now);
  for (const step of [1, -1]) {
    const from = at;
    for (let next = at + step; SOFTNESSES[next] !== undefined; next += step) {
      const value = agreement(SOFTNESSES[next]!);
      if (value < best * (1 + (step > 0 ? SOFTER : SHARPER))) break;
      [best, at] = [value, next];
    }
    if (at !== from) break;
  }
  return SOFTNESSES[at]!;
}
