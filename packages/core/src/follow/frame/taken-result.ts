/** What is told of a frame that is taken: how well its corners are known, with all that the evidence does not show itself. */
import { cornerSigmas, inAll } from '../../geometry/corner-information';
import { scaleAt } from '../../geometry/homography';
import { triangle } from '../../geometry/linear-algebra';
import type { FrameResult } from '../../solve/frame-result';
import { shares } from '../../solve/frame-result';
import { cellMap } from '../evidence/cell-map';
import type { FrameContext } from '../memory/frame-context';
import { contradictsStiffness, pictureScale } from '../memory/frame-context';
import { lensResponse } from '../evidence/lens-response';
import { pictureAsJudge } from '../evidence/picture-judge';
import { smearOfKey } from '../picture/key-pictures';
import { spotShare } from '../spots/spot-evidence';
import { trustOf } from '../evidence/trust';
import type { Found } from '../evidence/verdict';
import { agreesWell, looksOther } from '../evidence/verdict';

const DOUBT = {
  /** px at 1920 wide; what corners may be off by whose sides contradict the stiff screen. By trial. */
  bent: 4,
  /** px at 1920 wide; smear of the reference frame up to which its lines are told apart. By trial. */
  sharp: 6,
  /**
   * px at 1920 wide; what the corners of a side may be off by that has no line of its own, where no picture knows them: what
   * covered it on the reference frame lies beside the plane, and stiffness carries on what it misleads. Of 84 frames of thrown
   * shots that were told with trust over 0.9 there, 34 were over a px off, of 1,159 others 4.
   */
  withoutLine: 0.6,
  /** px at 1920 wide; a picture that knows the corners so well by itself knows them there too. By trial. */
  pictured: 0.3,
  /** px a px of smear beyond that by which the lines of a smeared reference frame may be off. By trial. */
  perSmear: 0.25,
} as const;

export interface Known {
  /** 8x8, px^-2 */
  readonly information: Float64Array;
  /** per corner, px */
  readonly sigma: readonly number[];
  /** a side may be its neighbour's line */
  readonly isBent: boolean;
  /** how it would lie behind another lens, see `lens-response.ts`; null where it is not told */
  readonly response: readonly number[] | null;
}

/** px that rivals of what was chosen add to its sigma; a picture that agrees knows better than lines. */
function rivalDoubt({ alignment, certainty, rival }: Found): number {
  return agreesWell(alignment) ? 0 : rival * Math.sqrt(certainty * (1 - certainty));
}

/**
 * px by which the reference frame's own smear leaves its lines in doubt, as large as they are seen here: bezel and glass
 * edge smear into one another there, and any of them may be taken for what the pin lies on.
 */
function referenceDoubt({ sight, shutter }: FrameContext, f: Found, scale: number): number {
  const smear = smearOfKey(sight.keys[0]!, sight.pin, shutter).length - DOUBT.sharp * scale;
  return DOUBT.perSmear * Math.max(0, smear) * scaleAt(f.homography, sight.centre);
}

/** px by which each corner may be off beside a side of which no line is known. */
function openDoubts({ sight }: FrameContext, f: Found, scale: number): number[] {
  const none = [0, 0, 0, 0];
  if (sight.sides === 0 || sight.sides === 4) return none;
  const picture = pictureAsJudge(f, scale);
  if (picture && picture.sigma < DOUBT.pictured * scale) return none;
  const hasLine = none.map((_, side) => sight.rails.some((r) => r.side === side));
  // Side k lies between corners k and k + 1.
  return none.map((_, k) => (hasLine[k] && hasLine[(k + 3) % 4] ? 0 : DOUBT.withoutLine * scale));
}

/** How well the corners of what was found are known, px, with what the model leaves out. */
export function knownOf(c: FrameContext, f: Found): Known {
  const velocity = f.stopped ? [] : c.path.velocityOf(c.frame, f.corners);
  const information = inAll(f.information, velocity);
  const isBent = contradictsStiffness(c, f.edges, f.corners, c.expected.speed) || looksOther(f);
  const scale = pictureScale(c);
  const doubt = Math.hypot(isBent ? DOUBT.bent * scale : 0, rivalDoubt(f), referenceDoubt(c, f, scale));
  const open = openDoubts(c, f, scale);
  const sigma = cornerSigmas(information, c.expected.sigma).map((s, k) => Math.hypot(s, doubt, open[k]!));
  const response = c.sight.responseToLens(f.edges, f.alignment && { alignment: f.alignment, key: f.key });
  return { information, sigma, isBent, response };
}

/** A frame's result as it stands before the frame is remembered. */
export function takenResult(c: FrameContext, f: Found, { information, sigma, response }: Known): FrameResult {
  const { texture, edges } = f.alignment?.shares ?? { texture: 0, edges: 1 };
  const spots = spotShare(c.spotted, c.sight.pin, f.homography, f.information);
  return {
    frame: c.frame,
    homography: c.sight.delivered(c.rows.seen(c.frame, f.corners)),
    lens: c.sight.lens.radial,
    bow: response && lensResponse(f.homography, c.sight.pin, c.sight.lens, response),
    sigma,
    information: triangle(information),
    blur: f.smear.length,
    trust: trustOf(sigma, f.support, c.sight.lens.width),
    cells: cellMap(f.alignment, f.key, f.edges),
    evidence: shares({
      texture: (1 - spots) * texture,
      edges: (1 - spots) * edges,
      spots: spots * (texture + edges),
    }),
    reason: null,
  };
}
