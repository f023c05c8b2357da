/** What of the plate a Screen laid flat is made from. */
import { clamp } from '@yarlop/core/clamp';
import { boundsOf } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { FlatArea } from '@yarlop/core/proof/flat-view';
import { fromFlat } from '@yarlop/core/proof/flat-view';
import type { Rectangle } from '../shared/picture-request';

/** px about it, so that what is drawn between pixels has neighbours. */
const AROUND = 2;

/**
 * @param corners of the Screen, plate px
 * @returns whole px of the plate; null where nothing of it is in the picture
 */
export function windowOf(area: FlatArea, corners: Quad, [width, height]: readonly [number, number]): Rectangle | null {
  const h = fromFlat(area, corners);
  const ends: Quad = [
    [0, 0],
    [area.width, 0],
    [area.width, area.height],
    [0, area.height],
  ];
  // Seen very steeply, a margin may lie behind the lens: then all that there is is looked at.
  const isBefore = ends.every(([x, y]) => h[6]! * x + h[7]! * y + h[8]! > 0);
  if (!isBefore) return { x: 0, y: 0, width, height };
  const b = boundsOf(mapQuad(h, ends));
  const x = clamp(Math.floor(b.x0) - AROUND, 0, width);
  const y = clamp(Math.floor(b.y0) - AROUND, 0, height);
  const right = clamp(Math.ceil(b.x1) + AROUND, 0, width);
  const bottom = clamp(Math.ceil(b.y1) + AROUND, 0, height);
  return right > x && bottom > y ? { x, y, width: right - x, height: bottom - y } : null;
}
