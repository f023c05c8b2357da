/**
 * A Screen of which too little can be seen to say where it is, while it goes on as it did: somebody passes before it, and
 * one or two of its sides still show. Those hold the forecast where they are; along the others it goes on as it is.
 */
import { clamp } from '../../clamp';
import { quadToQuad } from '../../geometry/homography';
import { farthest } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import { acrossSides, edgesFrom, likenessAcross } from './edges-of-frame';
import type { FrameContext } from '../memory/frame-context';
import { pictureScale, plausible, smearAt } from '../memory/frame-context';
import { noiseOf } from './hypotheses';
import type { Found, Hypothesis } from '../evidence/verdict';

const HELD = {
  /** px at 1920 wide; sigma of a forecast that still tells which line is which. By trial. */
  mostSigma: 30,
  /** Frames in a row that are held on to so. By trial. */
  mostFrames: 24,
  /** px at 1920 wide in which the sides are looked for, at the least and at the most. By trial. */
  reach: [2, 6],
  /** Share of what can be seen of the edges that must be found. By trial. */
  found: 0.12,
  /** Share of those whose light and dark must lie as remembered. By trial. */
  alike: 0.8,
  /** Misfit of what lies across them up to which they are the device's. By trial. */
  misfit: 2.5,
  /** px at 1920 wide by which what is held may be off: so little does not tell one line from another. By trial. */
  doubt: 1.5,
  /** Standard deviations by which they may lie off the forecast. By trial. */
  off: 2,
} as const;

/** What is found of the sides around the forecast; null where it does not hold the Screen. */
export function heldOn(c: FrameContext, luma: RawLuma): Found | null {
  const { sight, expected, path } = c;
  const scale = pictureScale(c);
  if (sight.rails.length === 0 || path.lost >= HELD.mostFrames) return null;
  const sigma = Math.min(expected.sigma, HELD.mostSigma * scale);
  const start = quadToQuad(sight.pin, expected.corners);
  const pyramid = sight.pyramidFor(luma, start, 40);
  const reach = clamp(sigma / scale, ...HELD.reach) * scale;
  const h: Hypothesis = { pyramid, noise: noiseOf(pyramid), start, expected, reach, coarsest: 1 };
  const edges = edgesFrom({ ...c, leansOnStiffness: true }, h, { start, expected, reach });
  if (!edges || edges.sides < 1 || edges.found < HELD.found || edges.alike < HELD.alike) return null;
  const corners = plausible(c, edges.homography);
  if (!corners || farthest(corners, expected.corners) > HELD.off * sigma) return null;
  const across = acrossSides(c, h, edges);
  const { misfit } = likenessAcross(c, edges, across);
  if (misfit > HELD.misfit) return null;
  return {
    homography: edges.homography,
    corners,
    information: edges.information,
    alignment: null,
    key: sight.keyFor(edges.homography, c.frame),
    edges,
    edgeSigma: Infinity,
    smear: smearAt(c, corners),
    support: edges.found,
    score: 0,
    freeSigma: Infinity,
    stopped: false,
    // As if a rival were just as likely.
    certainty: 0.5,
    rival: 2 * HELD.doubt * scale,
    misfit,
    across,
    first: null,
    reason: null,
  };
}
