/** By how much the whole picture has shifted from one frame to the next, roughly: every shift of a small copy is tried. */
import type { Luma } from '../image/image';
import type { Pyramid } from '../image/pyramid';
import { halve } from '../image/pyramid';

/** Share of the picture's width and height that it may shift by. By trial. */
const REACH = 0.3;
/** Squared share of the reach by which a far shift must be better than none. By trial. */
const FAR_COSTS = 0.15;

/** Px; width of the copy at the most. By trial. */
const SMALL = 64;

function small(pyramid: Pyramid): { picture: Luma; scale: number } {
  let picture: Luma = pyramid.at(-1)!;
  let scale = 2 ** (pyramid.length - 1);
  while (picture.width > SMALL) {
    picture = halve(picture);
    scale *= 2;
  }
  return { picture, scale };
}

/** 0, 1, -1, 2, -2 ... : a near shift is often the best, and makes the others short. */
const outwards = (most: number): number[] =>
  Array.from({ length: 2 * most + 1 }, (_, i) => (i % 2 === 0 ? -i / 2 : (i + 1) / 2));

/** @returns px of the frames, to the nearest of the small copy's */
export function wholeShift(from: Pyramid, to: Pyramid): { x: number; y: number } {
  const { picture: a, scale } = small(from);
  const { picture: b } = small(to);
  const { width, height } = a;
  const [mx, my] = [Math.floor(width * REACH), Math.floor(height * REACH)];
  let best = { x: 0, y: 0 };
  let least = Infinity;
  for (const dy of outwards(my))
    for (const dx of outwards(mx)) {
      const [x0, x1] = [Math.max(0, -dx), Math.min(width, width - dx)];
      const [y0, y1] = [Math.max(0, -dy), Math.min(height, height - dy)];
      const far = (dx / mx) ** 2 + (dy / my) ** 2;
      const weight = (1 + FAR_COSTS * far) / ((x1 - x0) * (y1 - y0));
      const most = least / weight;
      let sum = 0;
      // A shift that is worse already is worse in the end.
      for (let y = y0; y < y1 && sum < most; y++) {
        const row = y * width;
        const other = (y + dy) * width + dx;
        for (let x = x0; x < x1; x++) sum += Math.abs(a.data[row + x]! - b.data[other + x]!);
      }
      if (sum < most) {
        least = sum * weight;
        best = { x: dx, y: dy };
      }
    }
  return { x: best.x * scale, y: best.y * scale };
}
