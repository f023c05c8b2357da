/** How much of a Screen what was found to stand before it covers. */
import { CellField } from './cell-field';
import { maskOf } from './cell-mask';
import type { FoundFronts } from './front-search';

export interface FrontCover {
  /** frames on which anything stands before it */
  readonly frames: number;
  /** first and last of them */
  readonly from: number;
  readonly to: number;
  /** share of the glass that is covered at the most */
  readonly most: number;
}

/** Of all frames. */
export function coverOf(found: FoundFronts): FrontCover {
  const field = new CellField(found);
  const shares = found.masks.map((text) => (text === '' ? 0 : field.share(maskOf(text, field.count))));
  const covered = shares.flatMap((s, i) => (s > 0 ? [found.from + i] : []));
  return {
    frames: covered.length,
    from: covered[0] ?? found.from,
    to: covered.at(-1) ?? found.from,
    most: Math.max(0, ...shares),
  };
}
