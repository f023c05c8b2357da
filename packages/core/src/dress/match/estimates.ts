/** All that is estimated of a dress, in the order in which it is proposed: a new estimate is one line here. */
import { edge, motionBlur, softness } from './edges';
import type { Estimate } from './evidence';
import { holdouts, spill } from './key';
import { levels } from './levels';
import { glare, grain, rim } from './surface';

export const ESTIMATES: readonly Estimate[] = [levels, softness, motionBlur, edge, grain, glare, rim, holdouts, spill];
