/**
 * A whole run over a shot: both directions at once, and again as often as what was learnt of the camera makes it worth;
 * then the sections that are followed on the plate as that run holds it still. The command line and the server run this
 * same code; what they do with each step is theirs.
 */
import type { FollowSetup, FollowerState } from '@yarlop/core/follow/memory/follower-state';
import { followedFirst } from '@yarlop/core/follow/memory/sections';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import type { Direction, DirectionRun, RunDirection, Step } from './follow';
import { bothWays, haltsAt, untilSettled } from './follow';
import type { SteadiedStretch } from './steadied';
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
  readonly ways: readonly Way[];
  readonly follow: RunDirection;
  /** a part of a shot, or one that is gone on with, is not followed again with what it told */
  readonly isWhole: boolean;
  /** what is followed once more on the steadied plate; nothing when left out */
  readonly steadied?: readonly SteadiedStretch[];
  /** what was followed before this run, as far as it holds the plate still for that */
  readonly known?: NonNullable<FollowSetup['way']>;
}

export interface ShotStep extends Step {
  readonly direction: Direction;
  /** 1 for a first run, 2 where the shot is followed again, and so on */
  readonly runs: number;
  /** its direction ends here: the Screen cannot be vouched for */
  readonly halts: boolean;
  /** it was looked at on the steadied plate */
  readonly isSteadied: boolean;
}

/** What becomes of a run after a step. */
export type Verdict = 'go on' | 'stop';

export interface ShotOutcome {
  /** what the last run was followed with */
  readonly own: FollowSetup;
  /** whether it was stopped */
  readonly isStopped: boolean;
  /** by frame, as found last */
  readonly results: ReadonlyMap<number, FrameResult>;
}

/** @param hear is told of each step, and says what becomes of the run */
export async function followShot(run: ShotRun, hear: (step: ShotStep) => Verdict): Promise<ShotOutcome> {
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
      if (hear({ ...step, runs, halts, isSteadied: false }) === 'stop') return null;
      if (!halts && !step.again) last.set(direction, step.state());
    }
    return [...last.values()];
  }

  const first = followedFirst(run.setup);
  const { own, states } = await untilSettled(first, results, async (s, runs) => {
    const told = await pass(s, runs);
    if (!told) return null;
    return run.isWhole && !halted ? told : [];
  });
  const isStopped = states === null || !(await steady(run, own, results, hear));
  return { own: own === first ? run.setup : own, isStopped, results };
}

/** Follows what is to be followed on the steadied plate. @returns false when it was stopped */
async function steady(
  { setup, referenceFrame, follow, steadied = [], known = [] }: ShotRun,
  own: FollowSetup,
  results: Map<number, FrameResult>,
  hear: (step: ShotStep) => Verdict,
): Promise<boolean> {
  const way = new Map(known.map((f) => [f.frame, f.corners]));
  for (const { frame, homography } of results.values()) if (homography) way.set(frame, mapQuad(homography, setup.pin));
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
      if (isOf && hear({ ...step, direction: stretch.direction, runs: 1, halts: false, isSteadied: true }) === 'stop')
        return false;
    }
  }
  return true;
}
