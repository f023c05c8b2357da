/** Of all ways of following a frame, the best: one start after another until one is sure. */
import type { RawLuma } from '../../image/image';
import { farthest } from '../../geometry/quad';
import type { FrameContext } from '../memory/frame-context';
import { apart, carriesScreen, pictureScale, smearAt } from '../memory/frame-context';
import { earlierHypotheses, farHypotheses, nearHypotheses } from './hypotheses';
import type { Seen } from './open-side';
import { withOpenSide } from './open-side';
import type { Tried } from './solve-frame';
import { coarsestOf, solveFrame } from './solve-frame';
import type { Found, Hypothesis } from '../evidence/verdict';
import { agreesWell, isSure, looksOther } from '../evidence/verdict';

const BEST = {
  /** Support from which nothing better is looked for after the Screen was lost: textures repeat themselves. By trial. */
  foundAgain: 0.9,
  /** px at 1920 wide; how near to the expectation a Screen that was lost may be taken up again by three sides. By trial. */
  comesBack: 6,
  /** px at 1920 wide; the same where the screen's stiffness was learnt. By trial. */
  comesBackStiff: 20,
  /** px at 1920 wide; how well three sides must know the corners for that. By trial. */
  stiff: 1,
  /** Share of the edges whose light and dark must lie as remembered for that. By trial. */
  alike: 0.8,
  /** Share of the edges that must be found where three sides are all that can be seen, wherever that is. By trial. */
  whole: 0.85,
  /** Misfit of what lies across them up to which they are the device's. By trial. */
  wholeMisfit: 5,
  /** Score; by how much a way of following must beat the best so far. By trial. */
  better: 0.05,
  /** Score; by how much it must beat one that is sure. By trial. */
  clearly: 0.3,
  /** px at 1920 wide; how far from a sure one it must lie to be another. By trial. */
  elsewhere: 6,
  /** Standard deviations beyond which a Screen would have had to leap. By trial. */
  leap: 5,
  /** px at 1920 wide below which it never did. By trial. */
  farOff: 24,
  /** Share by which a picture that carried the last frames is asked for again. By trial. */
  pictured: 0.5,
  /** Share of the cells' weight by which a picture that agrees less than lately, or than elsewhere, is doubted. By trial. */
  lessSupport: 0.15,
  /** Share of the cells' weight that must agree for a picture to speak for a way. By trial. */
  backing: 0.5,
  /** Share of the edges by which fewer of them may have light and dark as remembered there. By trial. */
  lessAlike: 0.2,
  /** Share of the edges that must be found as well where the picture agrees better. By trial. */
  edgesAsWell: 0.7,
  /** Cells that must agree for that. By trial. */
  many: 40,
} as const;

/** Whether a picture agrees clearly better with one way than with another, while the edges are there as well. */
function isBackedByPicture(f: Found, other: Found): boolean {
  if (!f.alignment || !f.edges || f.alignment.agreeing < BEST.many || f.alignment.sensors.level.level > 0) return false;
  if (f.alignment.support < BEST.backing || f.edges.alike < (other.edges?.alike ?? 0) - BEST.lessAlike) return false;
  return (
    f.alignment.support > (other.alignment?.support ?? 0) + BEST.lessSupport &&
    f.edges.found > BEST.edgesAsWell * (other.edges?.found ?? 0)
  );
}

/** Whether nothing better need be looked for. */
export function isSureOf(c: FrameContext, f: Found): boolean {
  const { rails, sides, hasPicture } = c.sight;
  return isSure(f, { rails: rails.length, sides, hasPicture, sigma: f.edgeSigma / pictureScale(c) });
}

/**
 * Sure edges that the picture does not follow, though it carried the frames before: they may be lines of something
 * else.
 */
function isDoubted(c: FrameContext, f: Found): boolean {
  if (!c.sight.hasPicture || c.pictured <= BEST.pictured) return false;
  return !agreesWell(f.alignment) || f.alignment.support < c.support - BEST.lessSupport;
}

/** A picture that is as sharp as one that stands, where it may have come to stand: it has not gone on as before. */
function canHaveStopped(c: FrameContext, f: Found): boolean {
  const { path, expected } = c;
  const isNearer = farthest(f.corners, path.last.corners) < farthest(f.corners, expected.corners);
  return agreesWell(f.alignment) && (isNearer || path.lost > 0);
}

/** After a loss: at least three sides where the screen was to come back. */
function isAsExpected(c: FrameContext, f: Found): boolean {
  const off = farthest(f.corners, c.expected.corners);
  const scale = pictureScale(c);
  const near = f.edgeSigma < BEST.stiff * scale ? BEST.comesBackStiff : BEST.comesBack;
  return carriesScreen(c, f.edges) && f.edges.alike > BEST.alike && off < Math.min(c.expected.sigma, near * scale);
}

function isBetter(c: FrameContext, f: Found, best: Found): boolean {
  if ((f.reason === null) !== (best.reason === null)) return f.reason === null;
  if (isBackedByPicture(f, best)) return true;
  if (isBackedByPicture(best, f)) return false;
  if (!isSureOf(c, best)) return f.score > best.score + BEST.better;
  return (
    f.score > best.score + BEST.clearly && apart(c, f.homography, best.homography) > BEST.elsewhere * pictureScale(c)
  );
}

/** Whether the search may end with this one. */
function willDo(c: FrameContext, best: Found): boolean {
  if (best.reason !== null || !isSureOf(c, best) || isDoubted(c, best)) return false;
  return c.path.lost === 0 || best.support > BEST.foundAgain;
}

/** Doubt alone is not worth searching far and wide, nor is a side that is covered while the others lie as expected. */
function isWorthFar(c: FrameContext, best: Found | null): boolean {
  if (c.path.lost > 0 || best === null || best.reason !== null) return true;
  return !isSureOf(c, best) && (looksOther(best) || !isAsExpected(c, best));
}

/** The starts of a frame and what they came to so far. */
class Trial {
  best: Found | null = null;
  private readonly tried: Tried[] = [];
  constructor(private readonly c: FrameContext) {}

  /** @returns whether the search may end */
  isEndedBy(h: Hypothesis): boolean {
    const f = solveFrame(this.c, h, this.tried);
    if (f?.first && !h.stopped) this.tried.push({ edges: f.first, coarsest: coarsestOf(f, h) });
    if (!f || (f.stopped && !canHaveStopped(this.c, f))) return false;
    if (!this.best || isBetter(this.c, f, this.best)) this.best = f;
    return willDo(this.c, this.best);
  }
}

/**
 * Tries one start after another until most of what can be seen agrees with one.
 * @param isFar whether starts far from where the Screen is expected are worth trying
 */
export function bestWay(c: FrameContext, luma: RawLuma, isFar = true): Found | null {
  const searched = { ...c, luma, smear: smearAt(c, c.expected.corners).length };
  const trial = new Trial(c);
  let seen: Seen | null = null;
  for (const h of nearHypotheses(searched)) {
    if (trial.isEndedBy(h)) return trial.best;
    seen = { luma, pyramid: h.pyramid, noise: h.noise };
  }
  if (!seen) return null;
  for (const h of earlierHypotheses(searched, seen.noise)) {
    if (trial.isEndedBy(h)) return trial.best;
  }
  trial.best = withOpenSide(c, seen, trial.best);
  if (trial.best && willDo(c, trial.best)) return trial.best;
  if (!isFar || !isWorthFar(c, trial.best)) return trial.best;
  for (const h of farHypotheses(searched, seen.noise)) {
    if (trial.isEndedBy(h) || !isWorthFar(c, trial.best)) return trial.best;
  }
  return trial.best;
}

/** After a loss, anywhere: all that can be seen of at least three sides, and it looks like the device. */
function isWhole(c: FrameContext, { edges, misfit }: Found): boolean {
  if (!carriesScreen(c, edges) || edges.sides < edges.available) return false;
  return edges.found > BEST.whole && edges.alike > BEST.whole && misfit < BEST.wholeMisfit;
}

/** Whether what was found where nothing was known before is to be believed. */
export function isToBeTrusted(c: FrameContext, f: Found): boolean {
  return isSureOf(c, f) || isAsExpected(c, f) || isWhole(c, f);
}

/** Whether a Screen would have had to leap there. */
function isElsewhere(c: FrameContext, f: Found): boolean {
  const off = farthest(f.corners, c.expected.corners);
  return off > Math.max(BEST.leap * c.expected.sigma, BEST.farOff * pictureScale(c));
}

/** Why a frame counts as lost, without its full stop; null when it is taken. */
export function whyLost(c: FrameContext, found: Found | null): string | null {
  if (!found) return 'Nothing in the picture matches what the screen looked like';
  if (found.reason) return found.reason;
  const isUnsure = (c.path.lost > 0 || isElsewhere(c, found)) && !isToBeTrusted(c, found);
  return isUnsure ? 'What was found again is too little to be sure of' : null;
}
