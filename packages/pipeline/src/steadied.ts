/**
 * Second runs: frames that were followed hold the plate still, and what is left of the movement is followed with other
 * settings. The Screen is looked for where the first run has it, so that what is found is the whole movement at once.
 */
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import type { FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import { sectionOn } from '@yarlop/core/follow/memory/sections';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Direction, DirectionRun } from './follow';

/** Frames of one section on one side of the reference. */
export interface SteadiedStretch {
  readonly direction: Direction;
  /** nearest to the reference */
  readonly first: number;
  /** farthest from it, inclusive */
  readonly last: number;
}

/** Frames that tell of a movement and of how it changes. */
const TELLING = 3;

/**
 * What a run begins after: a frame and those before it that are known, newest first.
 * @param step from frame to frame of the run
 */
export function startAfter(
  frame: number,
  step: 1 | -1,
  cornersOn: (frame: number) => Quad | null | undefined,
): { readonly frame: number; readonly corners: Quad }[] {
  return Array.from({ length: TELLING }, (_, i) => frame - i * step).flatMap((n) => {
    const corners = cornersOn(n);
    return corners ? [{ frame: n, corners }] : [];
  });
}

/** The stretches of a shot that are followed on the steadied plate, within a range. @param shot its recipe, or its setup */
export function steadiedStretches(
  { sections = [] }: { readonly sections?: readonly (FrameSpan & { readonly over?: object })[] },
  referenceFrame: number,
  [lo, hi]: readonly [number, number],
): SteadiedStretch[] {
  return sections
    .filter((s) => s.over)
    .flatMap(({ from, to }): SteadiedStretch[] => [
      { direction: 'forwards', first: Math.max(from, referenceFrame, lo), last: Math.min(to, hi) },
      { direction: 'backwards', first: Math.min(to, referenceFrame - 1, hi), last: Math.max(from, lo) },
    ])
    .filter(({ direction, first, last }) => (direction === 'forwards' ? first <= last : first >= last));
}

/**
 * @param learnt the shot's settings with what was learnt of its camera
 * @param way corners by frame, as the first run has them
 * @returns null where the frames before the stretch were not followed
 */
export function steadiedRun(
  learnt: FollowSetup,
  referenceFrame: number,
  { direction, first, last }: SteadiedStretch,
  way: ReadonlyMap<number, Quad>,
): DirectionRun | null {
  const section = sectionOn(learnt.sections, first);
  const { sections: _sections, halts: _halts, ...plain } = learnt;
  const setup: FollowSetup = {
    ...plain,
    ...section?.ways,
    isSteadied: true,
    way: [...way].map(([frame, corners]) => ({ frame, corners })),
  };
  if (first === referenceFrame) return { setup, referenceFrame, end: last };
  const step = direction === 'forwards' ? 1 : -1;
  const start = startAfter(first - step, step, (n) => ((n - referenceFrame) * step >= 0 ? way.get(n) : null));
  return start[0]?.frame === first - step ? { setup, referenceFrame, end: last, start } : null;
}
