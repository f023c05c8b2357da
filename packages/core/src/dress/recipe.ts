/**
 * Everything that makes a fill sit in the plate, as a Screen's recipe holds it. All parts may be missing: then nothing
 * is done.
 */
import type { AddedLight } from './added-light';
import type { Bend } from './bend';
import type { BlendMode } from './blend';
import type { Edge } from './edge';
import type { Glare } from './glare';
import type { Grain } from './grain';
import type { Holdout } from './holdout';
import type { Levels } from './levels';
import type { DisplayLook } from './display-look';
import type { MotionBlur } from './motion-blur';
import type { Placement } from './placement';
import type { Rim } from './rim';
import type { Softness } from './softness';
import type { Spill } from './spill';

export interface DressRecipe {
  readonly placement?: Placement;
  readonly levels?: Levels;
  readonly softness?: Softness;
  readonly motionBlur?: MotionBlur;
  readonly edge?: Edge;
  readonly bend?: Bend;
  readonly blend?: { readonly mode?: BlendMode; readonly space?: 'light' | 'display' };
  readonly glare?: Glare;
  readonly lights?: readonly AddedLight[];
  readonly holdouts?: readonly Holdout[];
  readonly spill?: Spill;
  readonly rim?: Rim;
  readonly look?: DisplayLook;
  readonly grain?: Grain;
}
