/**
 * A whole run over a shot: both directions at once, and again as often as what was learnt of the camera makes it worth; once
 * more from another frame where the reference is smeared; then the sections that are followed on the plate as that run holds
 * it still. The command line and the server run this same code; what they do with each step is theirs.
 */
import type { FollowSetup, FollowerState } from '@yarlop/core/follow/memory/follower-state';
import { followedFirst } from '@yarlop/core/follow/memory/sections';
import type { Anchor } from '@yarlop/core/follow/anchor/anchor';
import { anchorFor, anchoredSetup, mayBeAnchored } from '@yarlop/core/follow/anchor/anchor';
import { betterOf, isKnownBetter } from '@yarlop/core/follow/anchor/better-of';
import type { Ends } from '@yarlop/core/follow/anchor/from-reference';
import { byReference, corrected } from '@yarlop/core/follow/anchor/from-reference';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { wayOf } from '@yarlop/core/solve/frame-result';
import type { Direction, DirectionRun, RunDirection, Step } from './follow';
import { bothWays, haltsAt, untilSettled } from './follow';
import type { SteadiedStretch } from './steadied';
import { keptFound } from './kept-found';
import { steadiedRun } from './steadied';

/** One direction of a run. */
export interface Way {
  readonly direction: Direction;
  /** the last frame; the reference itself for nothing but it */
  readonly end: number;
  /** where it begins; at the reference when left out */
  readonly begin?: Pick<DirectionRun, 'checkpoint' | 'start'>;
}

export interface ShotRun {
  readonly setup: FollowSetup;
  readonly referenceFrame: number;
  /** of the plate, px */
  readonly width: number;
  readonly height: number;
  readonly ways: readonly Way[];
  readonly follow: RunDirection;
  /** a part of a shot, or one that is gone on with, is not followed again with what it told */
  readonly isWhole: boolean;
  /** what is followed once more on the steadied plate; nothing when left out */
  readonly steadied?: readonly SteadiedStretch[];
  /** what was followed before this run, as far as it holds the plate still for that */
  readonly known?: NonNullable<FollowSetup['way']>;
  /** asked after each step */
  readonly isCancelled: () => boolean;
  /** a frame was looked at of which nothing is told yet. @param count how many there were on this pass */
  readonly looked?: (frame: number, count: number) => void;
}

export interface ShotStep extends Omit<Step, 'state'> {
  /** the follower's memory after this frame; null where the run can't be taken up from it */
  readonly state: Step['state'] | null;
  readonly direction: Direction;
  /** 1 for a first run, 2 where the shot is followed again, and so on */
  readonly runs: number;
  /** its direction ends here: the Screen cannot be vouched for */
  readonly halts: boolean;
  /** it was looked at on the steadied plate */
  readonly isSteadied: boolean;
}

export interface ShotOutcome {
  /** what the last run was followed with */
  readonly own: FollowSetup;
  /** whether it was stopped */
  readonly isStopped: boolean;
  /** the frame from which the shot was followed once more; null where it was not */
  readonly anchor: number | null;
  /** by frame, as found last */
  readonly results: ReadonlyMap<number, FrameResult>;
}

/** @param hear is told of each step */
export async function followShot(run: ShotRun, hear: (step: ShotStep) => void): Promise<ShotOutcome> {
  const { referenceFrame, ways, follow } = run;
  const results = new Map<number, FrameResult>();
  let halted = false;

  /** @returns the followers' last memories, or null when it was stopped */
  async function pass(own: FollowSetup, runs: number): Promise<FollowerState[] | null> {
    const last = new Map<Direction, FollowerState>();
    const open = ways.map(
      ({ direction, end, begin }) =>
        [direction, { setup: own, referenceFrame, end, ...(runs === 1 ? begin : {}) }] as const,
    );
    for await (const step of bothWays(open, follow)) {
      const { result, direction } = step;
      results.set(result.frame, result);
      const halts = haltsAt(own, result);
      halted ||= halts;
      hear({ ...step, runs, halts, isSteadied: false });
      if (run.isCancelled()) return null;
      if (!halts && !step.again) last.set(direction, step.state());
    }
    return [...last.values()];
  }

  const first = followedFirst(run.setup);
  const { own, states, runs } = await untilSettled(first, results, async (s, nth) => {
    const before = new Map(results);
    const told = await pass(s, nth);
    if (!told) return null;
    for (const result of keptFound(before, results)) {
      results.set(result.frame, result);
      const direction = result.frame > referenceFrame ? 'forwards' : 'backwards';
      hear({ result, direction, state: null, again: true, runs: nth, halts: false, isSteadied: false });
    }
    return run.isWhole && !halted ? told : [];
  });
  const learnt = own === first ? run.setup : own;
  const isSettled = states !== null && run.isWhole && !halted;
  const anchor = isSettled
    ? await fromAnchor(run, learnt, results, (s) => hear({ ...s, again: true, runs: runs + 1 }))
    : null;
  const isStopped = states === null || run.isCancelled() || !(await steady(run, own, results, hear));
  return { own: learnt, isStopped, results, anchor };
}

/** px at 1920 wide; a frame that turned out to lie so far beside where it was taken to be is followed from once more. By trial. */
const CORRECTED = 2;

/** Times that a shot is followed from another frame at the most. By trial. */
const MOST_ANCHORED = 2;

/**
 * Follows a shot once more from a frame that shows more than the reference, where there is one.
 * @param results amended
 * @returns that frame; null where nothing came of it
 */
async function fromAnchor(
  run: ShotRun,
  setup: FollowSetup,
  results: Map<number, FrameResult>,
  hear: (step: Omit<ShotStep, 'runs'>) => void,
): Promise<number | null> {
  if (!mayBeAnchored(setup)) return null;
  const { referenceFrame, width, height } = run;
  let anchor = anchorFor({ results, pin: setup.pin, referenceFrame, width, height });
  for (let time = 1; anchor && time <= MOST_ANCHORED; time++) {
    const found = await anchoredPass(run, anchor, setup, results);
    const reference = found?.get(referenceFrame);
    if (!found || !reference?.homography || reference.information.length === 0) return null;
    const ends = { from: anchor.pin, pin: setup.pin, reference, width, height };
    const { pin, off } = corrected(ends);
    if (off <= CORRECTED * (width / 1920) || time === MOST_ANCHORED) {
      return amend(found, ends, run, results, hear) ? anchor.frame : null;
    }
    anchor = { frame: anchor.frame, pin };
  }
  return null;
}

/** All frames as they are found from another; null when it was stopped. */
async function anchoredPass(
  { ways, referenceFrame, follow, isCancelled, looked }: ShotRun,
  anchor: Anchor,
  setup: FollowSetup,
  results: ReadonlyMap<number, FrameResult>,
): Promise<Map<number, FrameResult> | null> {
  const toAnchor = results.get(anchor.frame)!.homography!;
  const own = anchoredSetup(setup, anchor, toAnchor, results.values());
  const ends = [referenceFrame, ...ways.map((w) => w.end)];
  const runs = (
    [
      ['forwards', Math.max(...ends)],
      ['backwards', Math.min(...ends)],
    ] as const
  )
    .filter(([, end]) => end !== anchor.frame)
    .map(([direction, end]) => [direction, { setup: own, referenceFrame: anchor.frame, end }] as const);
  const found = new Map<number, FrameResult>();
  for await (const { result } of bothWays(runs, follow)) {
    found.set(result.frame, result);
    looked?.(result.frame, found.size);
    if (isCancelled()) return null;
  }
  return found;
}

/**
 * Puts what was found from another frame in the place of what was found from the reference, where it is the better.
 * @returns false where it is not known better at all
 */
function amend(
  found: ReadonlyMap<number, FrameResult>,
  ends: Ends,
  { referenceFrame }: ShotRun,
  results: Map<number, FrameResult>,
  hear: (step: Omit<ShotStep, 'runs'>) => void,
): boolean {
  const both = [...results.values()]
    .sort((a, b) => a.frame - b.frame)
    .map((first) => {
      const own = found.get(first.frame);
      const isTold = own?.homography && first.frame !== referenceFrame;
      return { first, second: isTold ? byReference(own, ends) : first, trust: own?.trust ?? 0 };
    });
  if (!isKnownBetter(both)) return false;
  for (const [i, result] of betterOf(both, ends.pin, ends.width).entries()) {
    if (result === both[i]!.first) continue;
    results.set(result.frame, result);
    const direction = result.frame > referenceFrame ? 'forwards' : 'backwards';
    hear({ result, direction, state: null, halts: false, isSteadied: false });
  }
  return true;
}

/** Follows what is to be followed on the steadied plate. @returns false when it was stopped */
async function steady(
  { setup, referenceFrame, follow, steadied = [], known = [], isCancelled }: ShotRun,
  own: FollowSetup,
  results: Map<number, FrameResult>,
  hear: (step: ShotStep) => void,
): Promise<boolean> {
  const way = new Map(known.map((f) => [f.frame, f.corners]));
  for (const { frame, corners } of wayOf(results.values(), setup.pin)) way.set(frame, corners);
  // What was learnt of the camera stays; the sections are the recipe's own.
  const learnt = { ...own, sections: setup.sections ?? [] };
  for (const stretch of steadied) {
    const one = steadiedRun(learnt, referenceFrame, stretch, way);
    if (!one) continue;
    for await (const step of bothWays([[stretch.direction, one]], follow)) {
      const { frame } = step.result;
      // Where it finds nothing, what the plate was held still by stays.
      const isOf = (frame - stretch.first) * (frame - stretch.last) <= 0;
      if (isOf && step.result.homography) results.set(frame, step.result);
      if (!isOf) continue;
      hear({ ...step, direction: stretch.direction, runs: 1, halts: false, isSteadied: true });
      if (isCancelled()) return false;
    }
  }
  return true;
}
