/** How like a remembered picture a frame looks when that is softened or smeared in some way: what tells which way is right. */
import { inverse, multiply } from '../../geometry/matrix3';
import type { Motion } from '../../geometry/motion';
import { mapQuad } from '../../geometry/quad';
import type { Pyramid } from '../../image/pyramid';
import type { FrameContext } from '../memory/frame-context';
import { FLOORS } from '../memory/frame-context';
import type { Template } from '../picture/template';
import { alignTexture } from '../picture/texture-alignment';
import type { Found } from '../evidence/verdict';

/** Levels that tell: softness and smear hardly change coarser ones. By trial. */
export const LIKENESS_LEVELS = 2;

export interface Trial {
  /** the remembered picture of the frame, changed */
  readonly template: Template;
  /** in which it may move to where it fits best */
  readonly motion: Motion;
  /** px that it may move by */
  readonly sigma: number;
}

/** Where a Screen lies on a frame, and the remembered picture that it is compared with. */
export type Lying = Pick<Found, 'homography' | 'corners' | 'key'>;

/** Mean correlation of the cells that are anything like it, 0 to 1; 0 where none is. */
export function likenessOf({ sight }: FrameContext, f: Lying, pyramid: Pyramid, trial: Trial): number {
  const { key, homography } = f;
  const seen = alignTexture(trial.template, pyramid, multiply(homography, inverse(key.homography)), {
    motion: trial.motion,
    frameNoise: 1,
    trust: sight.probation.trust,
    proven: sight.probation.proven,
    pin: mapQuad(key.homography, sight.pin),
    expected: f.corners,
    expectedSigma: trial.sigma,
    coarsest: LIKENESS_LEVELS - 1,
    floor: FLOORS,
  });
  const told = [...(seen?.sensors.correlation ?? [])].filter((r) => r > 0);
  return told.reduce((s, r) => s + r, 0) / Math.max(1, told.length);
}
