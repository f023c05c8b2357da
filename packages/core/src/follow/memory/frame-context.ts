/**
 * What a frame is followed with: all that is remembered, as it stands before the frame, and what a way of following it
 * takes for granted. Solving a frame is a function of this and of a hypothesis; another way is another context.
 */
import type { Matrix3 } from '../../geometry/matrix3';
import type { Motion } from '../../geometry/motion';
import type { Equations } from '../../geometry/motion-equations';
import type { Quad } from '../../geometry/quad';
import { farthest, isConvex, mapQuad, signedArea } from '../../geometry/quad';
import type { RigidScreen } from '../../solve/rigid-screen';
import { addRigid, rigidMisfit } from '../../solve/rigid-screen';
import type { Levels } from '../picture/consensus';
import type { EdgeFit } from '../edges/edge-solver';
import type { Followed } from '../outline/outlines';
import type { Path } from './path';
import type { RowTimes } from './row-times';
import type { Smear } from '../timing/shutter';
import { NO_SMEAR } from '../timing/shutter';
import type { SideLooks } from '../edges/side-looks';
import type { Sight } from './sight';
import type { SpotSight } from '../spots/spot-evidence';
import { addSpots } from '../spots/spot-evidence';
import type { Expectation } from '../evidence/verdict';
import { carries } from '../evidence/verdict';

const CONTEXT = {
  /** Times by which the Screen's area may change from one frame to the next. By trial. */
  areaChange: 2.5,
  /** Share of that exponent that each lost frame adds. By trial. */
  perLost: 0.3,
  /** Lost frames beyond which it grows no more. By trial. */
  mostLost: 6,
  /** Standard deviations by which sides contradict the stiff screen. By trial. */
  contradicts: 2.8,
} as const;

/** px a corner; what no evidence shows of its own error: resampling, compression, the reference's noise. By trial. */
export const FLOOR = 0.03;
export const FLOORS = [FLOOR, FLOOR, FLOOR, FLOOR] as const;

export interface FrameContext {
  readonly frame: number;
  readonly motion: Motion;
  readonly levels: Levels | undefined;
  readonly usesTexture: boolean;
  /** what the Screen looks like, where it was, and how its rows are timed; none of them changes before the frame is taken */
  readonly sight: Sight;
  readonly path: Path;
  readonly rows: RowTimes;
  readonly expected: Expectation;
  /** share of a frame's time that the shutter is open */
  readonly shutter: number;
  /** what is learnt of the screen's stiffness; null where it is not known */
  readonly rigid: RigidScreen | null;
  /** corners of well-known views so far, in ideal px */
  readonly views: readonly Quad[];
  /** what lies across the sides */
  readonly looks: SideLooks;
  /** of the last frames beyond what is remembered, px: see `softness.ts` */
  readonly softness: number;
  /** the last frames were taken for want of anything better: the Screen is looked for wherever it may be */
  readonly isAstray: boolean;
  /** where a first run has the corners, if it was followed there for more than want of anything better */
  readonly earlier: Quad | null;
  /** how far the screen's own picture carried the last frames, 0 to 1 */
  readonly pictured: number;
  /** share of the cells' weight that agreed on the last frames */
  readonly support: number;
  /** what the patches leave on this frame; null when they leave all that the region holds */
  readonly followed: Followed | null;
  /** where the spots are */
  readonly spotted: readonly SpotSight[];

  /** per rail, px by which it strays from the plane; Infinity for one that is left out */
  readonly spread: Float32Array;
  /** the evidence leaves corners open, so that the lens and stiffness must help */
  readonly leansOnStiffness: boolean;
  /** what moved is taken for standing: nothing is smeared */
  readonly isStopped: boolean;
}

/** How far corners (ideal px) are smeared on a frame by how fast they move and how long the shutter is open. */
export function smearAt(c: FrameContext, corners: Quad): Smear {
  return c.isStopped ? NO_SMEAR : c.path.smearAt(c.frame, corners, c.shutter);
}

/** Px of the picture that are one at 1920 wide. */
export function pictureScale({ sight }: FrameContext): number {
  return sight.lens.width / 1920;
}

/** The quad of `h` when a screen can look like that after where it was last, or where it was seen before; else null. */
export function plausible({ sight, path }: FrameContext, h: Matrix3): Quad | null {
  const { pin } = sight;
  if (!h.every(Number.isFinite) || !pin.every((p) => h[6]! * p[0] + h[7]! * p[1] + h[8]! > 0)) return null;
  const corners = mapQuad(h, pin);
  const change = CONTEXT.areaChange ** (1 + CONTEXT.perLost * Math.min(path.lost, CONTEXT.mostLost));
  const isAlike = (view: Quad): boolean => {
    const area = signedArea(corners) / signedArea(view);
    return area > 1 / change && area < change;
  };
  const likeBefore = isAlike(path.last.corners);
  // What was lost may have been seen so at any time.
  const likeSometime = path.lost > 0 && sight.keys.some((k) => isAlike(mapQuad(k.homography, pin)));
  return isConvex(corners) && (likeBefore || likeSometime) ? corners : null;
}

/** Whether edges alone can carry the frame, and a screen can look as they have it. */
export function carriesScreen(c: FrameContext, e: EdgeFit | null): e is EdgeFit {
  return carries(e) && plausible(c, e.homography) !== null;
}

/** How far two maps put the corners from each other at the most, px. */
export function apart({ sight }: FrameContext, a: Matrix3, b: Matrix3): number {
  return farthest(mapQuad(a, sight.pin), mapQuad(b, sight.pin));
}

/** What the lens and a stiff screen allow, where the evidence leaves corners open. */
export function helpingStiffness(c: FrameContext): RigidScreen | null {
  return c.leansOnStiffness ? c.rigid : null;
}

/** Standard deviations by which four sides contradict the stiff screen; 0 where nothing tells. */
export function misfitOf(c: FrameContext, e: EdgeFit, corners: Quad, speed: number): number {
  return c.rigid && e.sides === 4 ? rigidMisfit(e.information, c.rigid, corners, speed) : 0;
}

/** Four sides that no stiff screen shows so: one of them is a line beside the side's own, and nothing tells which. */
export function contradictsStiffness(c: FrameContext, e: EdgeFit | null, corners: Quad, speed: number): boolean {
  return e !== null && misfitOf(c, e, corners, speed) > CONTEXT.contradicts;
}

type Prior = (eq: Equations, h: Matrix3, u: readonly number[], v: readonly number[]) => void;

/**
 * What is known beside the picture and the edges, for equations whose map to px of level 0 is that of `scale` times
 * smaller px.
 */
export function beside(c: FrameContext, speed: number, scale = 1): Prior | undefined {
  const rigid = helpingStiffness(c);
  if (!rigid && c.spotted.length === 0) return undefined;
  return (eq, h, u, v) => {
    const m = scale === 1 ? h : h.map((x, i) => (i < 6 ? x * scale : x));
    addSpots(eq, c.spotted, c.sight.pin, m, u, v);
    if (rigid) addRigid(eq, rigid, m, u, v, speed);
  };
}
