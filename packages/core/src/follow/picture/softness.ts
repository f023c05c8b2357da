/**
 * How soft a frame shows the Screen beyond what was remembered: focus that is pulled away and back. Softness is told as
 * the width of a box, px of the frame, whose spread is the same (a disc of radius r spreads like a box of 1.73 r).
 * Remembered pictures and looks are softened by it, so that fine levels agree again and softened edges are not taken
 * for moved ones.
 */
import { LRUCache } from 'lru-cache';
import { toGrey } from '../../image/light';
import { WORTHWHILE, lightOfPiece, softnessOfLevel } from './cell-light';
import type { Template, TemplateLevel } from './template';
import { fillCell, levelLike } from './template';

/** px; what is tried, each about half as soft again as the one before: finer steps hardly change a picture. By trial. */
const SOFTNESSES = [0, 1.5, 2.2, 3.3, 5, 7.5, 11, 17] as const;
/** Share by which a softer look must do better to be taken: lines look more alike the softer they are. By trial. */
const SOFTER = 0.015;
/** Share by which a sharper one may do worse. By trial. */
const SHARPER = -0.002;
/** Ratio of two softnesses that are the same for remembered pictures. By trial. */
const SAME = 1.12;

/** px of border that a cell's gradients need. */
const BORDER = 1;

function soften(template: Template, softness: number): Template {
  const soft = { ...template, softness };
  const levels = template.levels.map((t): TemplateLevel => {
    if (softnessOfLevel(soft, t.level) === 0) return t;
    const out = levelLike(t);
    const size = t.side + 2 * BORDER;
    for (const [c, cell] of t.source.entries()) {
      const piece = { x: cell.x - BORDER, y: cell.y - BORDER, width: size, height: size };
      const data = lightOfPiece(soft, t.level, piece);
      toGrey(data);
      fillCell(out, c, { data, width: size }, BORDER, BORDER);
    }
    return out;
  });
  return { ...soft, levels };
}

/** Softened pictures of a remembered one that are kept: the frame's own and what is tried beside it. By trial. */
const KEPT = 4;
const made = new WeakMap<Template, LRUCache<number, Template>>();

/** @param softness px of the remembered picture */
export function softened(template: Template, softness: number): Template {
  if (softness <= WORTHWHILE) return template;
  const step = Math.round(Math.log(softness) / Math.log(SAME));
  const own = made.get(template) ?? new LRUCache<number, Template>({ max: KEPT });
  made.set(template, own);
  const before = own.get(step);
  if (before) return before;
  const now = soften(template, SAME ** step);
  own.set(step, now);
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
