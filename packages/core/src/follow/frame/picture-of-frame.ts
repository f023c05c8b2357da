/** A frame's picture from one start: the remembered picture that is nearest in view, softened and smeared as the frame is. */
import { mapPoint, normaliseHomography, scaleAt } from '../../geometry/homography';
import { distort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse, multiply } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import { blurTemplate } from '../picture/blurred-template';
import type { EdgeFit } from '../edges/edge-solver';
import { edgesAsEvidence } from '../edges/edge-solver';
import type { FrameContext } from '../memory/frame-context';
import { FLOOR, beside, plausible, smearAt } from '../memory/frame-context';
import type { KeyPicture } from '../picture/key-pictures';
import { smearOfKey } from '../picture/key-pictures';
import type { Smear } from '../timing/shutter';
import { isSameSmear, smearBeyond } from '../timing/shutter';
import { softened } from '../picture/softness';
import type { Template } from '../picture/template';
import type { Alignment } from '../picture/texture-alignment';
import { alignTexture } from '../picture/texture-alignment';
import type { AlignmentOptions, OtherEvidence } from '../picture/texture-level';
import type { Hypothesis } from '../evidence/verdict';

const PICTURE = {
  /** px; softness that a picture seen smaller than remembered shows by itself. By trial. */
  usualSoftness: 2.2,
  /** px; smear that is worth predicting. By trial. */
  smear: 1.5,
  /** px of a level that a smear may span there for the level to be told. By trial. */
  smearOfLevel: 3,
} as const;

export interface PictureStart {
  readonly start: Matrix3;
  /** solved together with the picture */
  readonly edges: EdgeFit | null;
  readonly coarsest: number;
  /** px of level 0 that a cell may slip by, where the start is known well */
  readonly slipLimit?: number | undefined;
  /** what it is aligned to; of the picture that is shown, the nearest view when left out */
  readonly key?: KeyPicture;
}

export interface Aligned {
  readonly alignment: Alignment;
  /** reference frame to frame */
  readonly homography: number[];
  readonly corners: Quad;
  readonly key: KeyPicture;
  readonly smear: Smear;
}

/** One pass of alignment: the remembered picture that it takes, from where, with which smear. */
interface Pass {
  readonly key: KeyPicture;
  readonly template: Template;
  /** the remembered picture to the frame */
  readonly from: Matrix3;
  /** corners there */
  readonly corners: Quad;
  readonly coarsest: number;
  readonly smear: Smear;
}

function asEvidence(edges: EdgeFit, key: KeyPicture, { centre, halfSize }: Template): OtherEvidence {
  return edgesAsEvidence(edges.hits, edges.terms, (p) => {
    const q = mapPoint(key.homography, p);
    return [(q[0] - centre[0]) / halfSize, (q[1] - centre[1]) / halfSize];
  });
}

function optionsOf(c: FrameContext, h: Hypothesis, at: PictureStart, pass: Pass): AlignmentOptions {
  const { key, template } = pass;
  const { sight, followed } = c;
  const toReference = inverse(key.homography);
  const prior = beside(c, h.expected.speed);
  return {
    motion: c.motion,
    ...(c.levels ? { levels: c.levels } : {}),
    frameNoise: h.noise,
    trust: sight.probation.trust,
    proven: sight.probation.proven,
    pin: mapQuad(key.homography, sight.pin),
    expected: h.expected.corners,
    expectedSigma: h.expected.sigma,
    coarsest: pass.coarsest,
    floor: key.sigma.map((s) => Math.hypot(FLOOR, s)),
    ...(at.slipLimit === undefined ? {} : { slipLimit: at.slipLimit }),
    ...(prior ? { prior } : {}),
    offset: c.rows.offsetAt(c.frame, pass.corners, key, pass.from),
    followed: followed ? (p: Point) => followed.picture(distort(sight.lens, mapPoint(toReference, p))) : undefined,
    ...(at.edges ? { other: asEvidence(at.edges, key, template) } : {}),
  };
}

function aligned(c: FrameContext, h: Hypothesis, at: PictureStart, pass: Pass): Aligned | null {
  const { key, template, from, smear } = pass;
  const own = smearOfKey(key, c.sight.pin, c.shutter);
  const used =
    smear.length > PICTURE.smear
      ? blurTemplate(template, pass.coarsest, smearBeyond(smear.inTemplate(from), own.inFrame))
      : template;
  const alignment = alignTexture(used, h.pyramid, from, optionsOf(c, h, at, pass));
  if (!alignment) return null;
  const homography = normaliseHomography(multiply(alignment.homography, key.homography), c.sight.centre);
  const corners = plausible(c, homography);
  return corners && { alignment, homography, corners, key, smear };
}

/** What of a softness remembered pictures do not show by themselves where they are seen smaller, px of the frame. */
export function beyondUsual(softness: number): number {
  return Math.sqrt(Math.max(0, softness ** 2 - PICTURE.usualSoftness ** 2));
}

/** @returns null when the picture does not count, or a screen cannot look as it would have it */
export function alignPicture(c: FrameContext, h: Hypothesis, at: PictureStart): Aligned | null {
  if (!c.usesTexture) return null;
  const key = at.key ?? c.sight.keyFor(at.start, c.frame);
  const from = multiply(at.start, inverse(key.homography));
  const template = softened(key.template, beyondUsual(c.softness) / scaleAt(from, key.template.centre));
  const corners = mapQuad(at.start, c.sight.pin);
  const first = aligned(c, h, at, {
    key,
    template,
    from,
    corners,
    coarsest: at.coarsest,
    smear: smearAt(c, corners),
  });
  if (!first) return null;
  const better = smearAt(c, first.corners);
  if (isSameSmear(better, first.smear)) return first;
  return aligned(c, h, at, {
    key,
    template,
    from: first.alignment.homography,
    corners: first.corners,
    coarsest: Math.max(1, Math.ceil(Math.log2(better.length / PICTURE.smearOfLevel))),
    smear: better,
  });
}
