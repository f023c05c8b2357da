/** A solved frame as it lies behind a lens that is told after following. */
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { mapQuad, perspectiveCentre } from '../geometry/quad';
import type { FrameResult } from './frame-result';

/** What a frame tells of the lens. */
export interface OfLens {
  /** the radial term behind which it was solved; null where it was not kept */
  readonly lens?: FrameResult['lens'];
  readonly bow?: FrameResult['bow'];
}

/** Radial terms that differ by less move nothing that could be seen: 0.001 px at 1920 wide. */
const SAME = 1e-6;

/**
 * Reference frame to frame behind a lens of this radial term, to first order in its change (see `lens-response.ts`).
 * @param h the same as it was solved
 * @param area the corners that are followed, on the reference frame
 * @returns null where the frame does not tell how it would lie
 */
export function behindLens(
  h: readonly number[],
  { lens, bow }: OfLens,
  area: Quad,
  radial: number,
): readonly number[] | null {
  if (lens === undefined || lens === null) return null;
  const change = radial - lens;
  if (Math.abs(change) < SAME) return h;
  if (!bow || bow.length !== 8) return null;
  const corners = mapQuad(h, area).map(([x, y], i) => [x + change * bow[2 * i]!, y + change * bow[2 * i + 1]!]);
  return normaliseHomography(quadToQuad(area, corners as unknown as Quad), perspectiveCentre(area));
}
