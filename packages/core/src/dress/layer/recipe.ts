/**
 * Everything that makes a fill sit in the plate, as a Screen's recipe holds it. All parts may be missing: then nothing
 * is done.
 */
import type { AddedLight } from '../light/added-light';
import type { Bend } from '../shape/bend';
import type { BlendMode } from '../colour/blend';
import type { Edge } from '../shape/edge';
import type { Glare } from '../light/glare';
import type { Grain } from '../light/grain';
import type { Holdout } from '../holdout/holdout';
import type { Levels } from '../colour/levels';
import type { DisplayLook } from '../light/display-look';
import type { MotionBlur } from '../shape/motion-blur';
import type { Placement } from '../shape/placement';
import type { Rim } from '../shape/rim';
import type { Softness } from '../shape/softness';
import type { Spill } from '../light/spill';

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
