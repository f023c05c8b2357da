/** A picture that knows the plane by itself, and so can judge which edges belong to it. */
import { multiply } from '../../geometry/matrix3';
import type { PlaneJudge } from '../edges/edge-solver';
import type { Found } from './verdict';

const JUDGE = {
  /** Share of the cells' weight that must agree. By trial. */
  support: 0.7,
  /** Cells that must agree. By trial. */
  cells: 40,
  /** px at 1920 wide; how well they must know the corners by themselves. By trial. */
  sigma: 0.5,
  /** px at 1920 wide; edges farther off than this are not judged: the picture may have moved on the screen. By trial. */
  most: 3,
} as const;

/**
 * Whether so much of a picture agrees with where a frame was taken that this tells which edges do not belong there; fewer
 * cells drift, and would then take their say from the edges that could hold them.
 */
export function isCarried({ alignment }: Pick<Found, 'alignment'>): boolean {
  return (alignment?.agreeing ?? 0) >= JUDGE.cells;
}

/**
 * The plane as the cells of a frame that was taken have it without its edges.
 * @param scale px of the picture that are one at 1920 wide
 * @returns null where they do not know it well
 */
export function pictureAsJudge({ alignment, key }: Pick<Found, 'alignment' | 'key'>, scale: number): PlaneJudge | null {
  if (!alignment || alignment.sensors.level.level > 0) return null;
  if (alignment.support < JUDGE.support || alignment.agreeing < JUDGE.cells) return null;
  const alone = alignment.alone();
  if (!alone) return null;
  const sigma = Math.max(...alone.sigma);
  if (sigma > JUDGE.sigma * scale) return null;
  return { homography: multiply(alone.homography, key.homography), sigma, most: JUDGE.most * scale };
}
