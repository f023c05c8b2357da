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
import type { Retouch } from '../retouch/retouch';
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
  /** of the plate, in the order in which it is done */
  readonly retouches?: readonly Retouch[];
  readonly spill?: Spill;
  readonly rim?: Rim;
  readonly look?: DisplayLook;
  readonly grain?: Grain;
}

/** Names of the planes beside its own that outlines of a dress ride on. */
export function planesRiddenOn({ holdouts = [], retouches = [] }: DressRecipe): Set<string> {
  const outlines = [...holdouts.filter((h) => h.kind === 'outline'), ...retouches];
  return new Set(outlines.flatMap((o) => (o.plane !== undefined && !o.onPicture ? [o.plane] : [])));
}

/** Whether a dress changes the plate itself, whatever is in the slot. */
export function changesPlate({ retouches = [] }: DressRecipe): boolean {
  return retouches.some((r) => !r.off);
}

/** Frames of the plate from which marks are painted out. */
export function stillFrames({ retouches = [] }: DressRecipe): number[] {
  const frames = retouches.flatMap((r) =>
    r.kind === 'paint-out' && r.from === 'frame' && !r.off && r.frame !== undefined ? [r.frame] : [],
  );
  return [...new Set(frames)];
}
