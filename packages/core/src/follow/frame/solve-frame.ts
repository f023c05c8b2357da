/**
 * What a hypothesis of where a frame's Screen is comes to. Edges first, since they belong to the plane for certain; then
 * the picture, judged by them; then both together. A function of the frame's context and the hypothesis: nothing is
 * remembered here.
 */
import { cornerSigmas } from '../../geometry/corner-information';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import { farthest, mapQuad } from '../../geometry/quad';
import { addRigidInformation } from '../../solve/rigid-screen';
import type { EdgeFit } from '../edges/edge-solver';
import { acrossSides, edgeSigma, edgesFrom, expectedAt, likeliestSides, withStiffness } from './edges-of-frame';
import type { FrameContext } from '../memory/frame-context';
import { apart, carriesScreen, helpingStiffness, pictureScale, plausible, smearAt } from '../memory/frame-context';
import type { Aligned } from './picture-of-frame';
import { alignPicture } from './picture-of-frame';
import type { Chosen } from '../edges/side-rivals';
import type { Smear } from '../timing/shutter';
import { addSpotInformation } from '../spots/spot-evidence';
import type { Alignment } from '../picture/texture-alignment';
import type { Found, Hypothesis } from '../evidence/verdict';
import { LEAST_AGREEING, whyNot } from '../evidence/verdict';

const SOLVE = {
  /** Share of the edges below which those that carry nothing are left out. By trial. */
  leastOfEdges: 0.25,
  /** px; slip of a cell against sure edges that is tolerated beyond what the edges know. By trial. */
  slip: 0.6,
  /** px that are added to it a px of the edges' own sigma. By trial. */
  slipPerSigma: 3,
  /** px; where cells may slip no more than this, they are at home on the second level already. By trial. */
  fineSlip: 2,
  /** That level. */
  fineCoarsest: 1,
  /** px; how far cells may pull the corners from where sure edges have them, beyond some of their sigma. By trial. */
  pull: 0.5,
  /** px a px of that sigma. By trial. */
  pullPerSigma: 1.5,
  /** px; edges that know the corners this well judge the cells. By trial. */
  judges: 2,
  /** Share of the edges that must be found around what the picture tells. By trial. */
  foundByPicture: 0.3,
  /** px in which they are looked for there, and sigma of that place. By trial. */
  byPicture: { reach: 2, sigma: 3 },
  /** The same where the picture contradicts the edges and agrees with itself. By trial. */
  byPictureAlone: { reach: 1.5, sigma: 2 },
  /** Support from which a picture that contradicts the edges is believed instead of them. By trial. */
  mostly: 0.7,
  /** Cells that must agree for that, and that make a picture count in full. By trial. */
  many: 40,
  /** Score of edges that are all found, against that of a picture that agrees as a whole. By trial. */
  edgeScore: 1.5,
  /** Share of that score that edges have whose light and dark lie the other way round. By trial. */
  turned: 0.3,
  /** Score that a unit of misfit across the sides costs. By trial. */
  perMisfit: 0.08,
  /** px at 1920 wide; edges found no farther than this from those of another start lead where that one led. By trial. */
  same: 0.3,
} as const;

/** What is said of a fit that has no rivals. */
const UNRIVALLED = { certainty: 1, rival: 0, misfit: 0, across: null, first: null };

/** The evidence of a frame that is to be taken together. */
interface Evidence {
  readonly edges: EdgeFit | null;
  readonly picture: Aligned | null;
  /** cells and sure edges put the corners apart, and the edges are believed */
  readonly contradicts: boolean;
}

/** Where edges that carry the frame were found around a start, whatever came of it. */
export interface Tried {
  readonly edges: Quad;
  /** coarsest level that its picture was looked for on */
  readonly coarsest: number;
}

/** Coarsest level on which the picture was looked for, or would be from elsewhere: edges that judge it leave few. */
export function coarsestOf(f: Found, h: Hypothesis): number {
  const isFine = SOLVE.slip + SOLVE.slipPerSigma * f.edgeSigma < SOLVE.fineSlip;
  return isFine ? Infinity : h.coarsest;
}

function isTried(c: FrameContext, h: Hypothesis, edges: Quad, tried: readonly Tried[]): boolean {
  if (h.stopped) return false;
  return tried.some((t) => t.coarsest >= h.coarsest && farthest(t.edges, edges) < SOLVE.same * pictureScale(c));
}

/**
 * @param tried what came of earlier starts on this frame; one that leads to the same edges is not gone into again
 * @returns null when nothing is found around the hypothesis
 */
export function solveFrame(context: FrameContext, h: Hypothesis, tried: readonly Tried[] = []): Found | null {
  const c = h.stopped ? { ...context, isStopped: true } : context;
  const first = h.pictureFirst
    ? null
    : edgesFrom(c, h, { start: h.start, expected: h.expected, reach: h.reach, level: h.edgeLevel });
  const firstAt = carriesScreen(c, first) ? mapQuad(first.homography, c.sight.pin) : null;
  if (firstAt && isTried(c, h, firstAt, tried)) return null;
  const chosen = carriesScreen(c, first) ? likeliestSides(c, h, first) : null;
  const edges = chosen?.fit ?? first;
  const found = weighHelped(c, h, edges);
  return found && judged(c, h, found, chosen, firstAt);
}

/** With what the lens and stiffness allow where a side is missing or false. */
function weighHelped(c: FrameContext, h: Hypothesis, edges: EdgeFit | null): Found | null {
  const helped = withStiffness(c, h, edges);
  return helped ? weigh(helped.context, h, helped.edges) : weigh(c, h, edges);
}

/**
 * What was found, with what speaks for and against its sides. Edges that were found from the picture alone may have taken
 * their neighbours' lines as well as any, and are weighed against those here where no picture of its own judges them.
 * @param chosen what the edges that were found first came to against their rivals; null where none carried the frame
 */
function judged(c: FrameContext, h: Hypothesis, found: Found, chosen: Chosen | null, first: Quad | null): Found {
  if (!found.edges) return found;
  if (chosen) return withChosen(c, h, found, chosen, first);
  if (c.sight.hasPicture || !carriesScreen(c, found.edges)) return found;
  const late = likeliestSides(c, h, found.edges);
  const other = late.fit === found.edges ? found : weighHelped(c, h, late.fit);
  return withChosen(c, h, other ?? found, late, null);
}

function withChosen(c: FrameContext, h: Hypothesis, found: Found, chosen: Chosen, first: Quad | null): Found {
  if (!found.edges) return found;
  const { certainty, rival, misfit } = chosen;
  const score = found.score - SOLVE.perMisfit * Math.max(0, misfit - 1);
  return { ...found, score, certainty, rival, misfit, across: acrossSides(c, h, found.edges), first };
}

function weigh(c: FrameContext, h: Hypothesis, edges: EdgeFit | null): Found | null {
  if (carriesScreen(c, edges)) return together(c, h, judgedByEdges(c, h, edges));
  const found = (edges as EdgeFit | null)?.found ?? 0;
  return together(c, h, pictureBefore(c, h, found >= SOLVE.leastOfEdges ? edges : null));
}

/** The picture judged by edges that carry the frame. */
function judgedByEdges(c: FrameContext, h: Hypothesis, edges: EdgeFit): Evidence {
  const sigma = edgeSigma(c, edges, h);
  const isJudge = sigma < SOLVE.judges;
  const slipLimit = isJudge ? SOLVE.slip + SOLVE.slipPerSigma * sigma : undefined;
  const picture = alignPicture(c, h, {
    start: edges.homography,
    edges,
    coarsest: slipLimit !== undefined && slipLimit < SOLVE.fineSlip ? SOLVE.fineCoarsest : h.coarsest,
    slipLimit,
  });
  const contradicts =
    picture !== null &&
    isJudge &&
    apart(c, picture.homography, edges.homography) >= SOLVE.pull + SOLVE.pullPerSigma * sigma;
  const believed = contradicts && isMostOfPicture(c, picture) ? pictureAlone(c, h, picture) : null;
  return believed ?? { edges, picture, contradicts };
}

/**
 * Cells that pull the corners farther than sure edges allow show something else that moves nearly like the screen, unless
 * they are most of a picture.
 */
function isMostOfPicture(c: FrameContext, { alignment }: Aligned): boolean {
  return c.sight.hasPicture && alignment.support >= SOLVE.mostly && alignment.agreeing >= SOLVE.many;
}

/** The picture without the edges that it contradicts, and those looked for again from it; null when it does not hold. */
function pictureAlone(c: FrameContext, h: Hypothesis, picture: Aligned): Evidence | null {
  const alone = alignPicture(c, h, { start: picture.homography, edges: null, coarsest: 0 });
  if (!alone || alone.alignment.support < SOLVE.mostly) return null;
  const again = edgesFrom(c, h, {
    start: alone.homography,
    expected: expectedAt(c, h, alone.homography, SOLVE.byPictureAlone.sigma),
    reach: SOLVE.byPictureAlone.reach,
  });
  const agrees =
    again !== null &&
    apart(c, alone.homography, again.homography) < SOLVE.pull + SOLVE.pullPerSigma * edgeSigma(c, again, h);
  if (!agrees) return { edges: null, picture: alone, contradicts: false };
  const both = alignPicture(c, h, { start: alone.homography, edges: again, coarsest: 0 });
  return { edges: again, picture: both ?? alone, contradicts: false };
}

/** The picture where no edges carry the frame, and edges looked for again from where it has the Screen. */
function pictureBefore(c: FrameContext, h: Hypothesis, edges: EdgeFit | null): Evidence {
  const picture = alignPicture(c, h, { start: h.start, edges, coarsest: h.coarsest });
  const before = { edges, picture, contradicts: false };
  if (!picture || c.sight.rails.length === 0) return before;
  const better = edgesFrom(c, h, {
    start: picture.homography,
    expected: expectedAt(c, h, picture.homography, SOLVE.byPicture.sigma),
    reach: SOLVE.byPicture.reach,
  });
  if (!better || better.found <= Math.max(SOLVE.foundByPicture, edges?.found ?? 0)) return before;
  const both = alignPicture(c, h, { start: picture.homography, edges: better, coarsest: 0 });
  return { edges: better, picture: both ?? picture, contradicts: false };
}

function scoreOf(alignment: Alignment | null, edges: EdgeFit | null): number {
  const ofPicture = alignment ? (alignment.support * Math.min(alignment.agreeing, SOLVE.many)) / SOLVE.many : 0;
  const ofEdges = edges
    ? (SOLVE.edgeScore * edges.found * (SOLVE.turned + (1 - SOLVE.turned) * edges.alike) * edges.sides) / 4
    : 0;
  return ofPicture + ofEdges;
}

/** What is known of the corners, 8x8 in px^-2: by evidence alone, and with what stiffness adds where it must help. */
function informationOf(
  c: FrameContext,
  h: Hypothesis,
  place: { readonly homography: Matrix3; readonly corners: Quad },
  ofEvidence: Float64Array,
): { readonly information: Float64Array; readonly freeSigma: number } {
  const information = ofEvidence.slice();
  addSpotInformation(information, c.spotted, c.sight.pin, place.homography);
  const freeSigma = Math.max(...cornerSigmas(information, 50));
  const rigid = helpingStiffness(c);
  if (rigid) addRigidInformation(information, rigid, place.corners, h.expected.speed);
  return { information, freeSigma };
}

/** What a frame rests on: where it has the Screen, and what it knows of the corners (8x8, px^-2). */
interface Ground {
  readonly homography: Matrix3;
  readonly alignment: Alignment | null;
  readonly information: Float64Array;
  readonly smear?: Smear;
}

/** The picture where enough of it agrees; else edges that carry the frame; else whatever there is. */
function groundOf(c: FrameContext, { edges, picture, contradicts }: Evidence): Ground | null {
  if (picture && picture.alignment.agreeing >= LEAST_AGREEING && !contradicts)
    return { ...picture, information: picture.alignment.information };
  if (carriesScreen(c, edges)) return { homography: edges.homography, alignment: null, information: edges.information };
  if (!picture) return null;
  const { homography, alignment } = picture;
  return { homography, alignment, information: (edges as EdgeFit | null)?.information ?? alignment.information };
}

/** What edges and picture come to together. */
function together(c: FrameContext, h: Hypothesis, evidence: Evidence): Found | null {
  const { edges, picture } = evidence;
  const ground = groundOf(c, evidence);
  const corners = ground && plausible(c, ground.homography);
  if (!corners) return null;
  const { homography, alignment } = ground;
  const fitting = carriesScreen(c, edges) ? edges : null;
  const found = {
    homography,
    corners,
    ...informationOf(c, h, { homography, corners }, ground.information),
    alignment,
    key: picture?.key ?? c.sight.keyFor(homography, c.frame),
    edges,
    edgeSigma: fitting ? edgeSigma(c, fitting, h) : Infinity,
    smear: ground.smear ?? smearAt(c, corners),
    support: Math.max(alignment?.support ?? 0, fitting?.found ?? 0),
    score: scoreOf(alignment, edges),
    ...UNRIVALLED,
    stopped: c.isStopped,
  };
  const { hasPicture, lens } = c.sight;
  return { ...found, reason: whyNot(found, { carried: fitting !== null, hasPicture, width: lens.width }) };
}
