/** How far each rail keeps to the plane, as a frame that was taken tells it. */
import type { Motion } from '../../geometry/motion';
import { updateSpread } from '../edges/edge-solver';
import { isCarried, pictureAsJudge } from '../evidence/picture-judge';
import type { Found } from '../evidence/verdict';
import type { Sight } from './sight';

const RAILS = {
  /** px; smear up to which a frame tells of it, whatever carries it. By trial. */
  mostBlur: 6,
  /**
   * px a frame at 1920 wide; what moves faster may be bowed by its readout, and its edges are to tell of that before a
   * picture judges them. By trial.
   */
  untimed: 12,
} as const;

/** How the frame moved, and what is known of it. */
export interface RailsSeen {
  readonly motion: Motion;
  /** of the fastest corner, px a frame */
  readonly speed: number;
  /** whether the rows' own times are known */
  readonly knowsRows: boolean;
}

/**
 * Lets a frame that was taken tell how far each rail keeps to the plane; `sight.railSpread` is changed in place. A smeared frame
 * that no picture carries knows too little to judge a line: one whip made a shot's best lines useless for good. So does a
 * frame that a few cells carry, where a side was not found: they drift, and took their say from the sides that could have held
 * the Screen.
 */
export function learnRails(sight: Sight, f: Found, { motion, speed, knowsRows }: RailsSeen): void {
  const isSmeared = f.smear.length > RAILS.mostBlur;
  if (!f.edges || (isSmeared && !isCarried(f))) return;
  const scale = sight.lens.width / 1920;
  const isOfEdges = f.edges.sides === 4;
  const isTimed = speed < RAILS.untimed * scale || knowsRows;
  updateSpread(sight.railSpread, sight.rails, f.edges, {
    plane: isOfEdges ? f.edges.homography : f.homography,
    judgesGlass: isOfEdges || (isCarried(f) && !isSmeared),
    picture: isTimed && sight.hasPicture ? pictureAsJudge(f, scale) : null,
    pin: sight.pin,
    motion,
  });
}
