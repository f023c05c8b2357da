/**
 * A whole run over a shot: both directions at once, and again as often as what was learnt of the camera makes it worth.
 * The command line and the server run this same code; what they do with each step is theirs.
 */
import type { FollowSetup, FollowerState } from '@yarlop/core/follow/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import type { Direction, DirectionRun, RunDirection, Step } from './follow';
import { bothWays, haltsAt, untilSettled } from './follow';

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
}

export interface ShotStep extends Step {
  readonly direction: Direction;
  /** 1 for a first run, 2 where the shot is followed again, and so on */
  readonly runs: number;
  /** its direction ends here: the Screen cannot be vouched for */
  readonly halts: boolean;
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
  const { setup, referenceFrame, ways, follow } = run;
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
      if (hear({ ...step, runs, halts }) === 'stop') return null;
      if (!halts && !step.again) last.set(direction, step.state());
    }
    return [...last.values()];
  }

  const { own, states } = await untilSettled(setup, results, async (s, runs) => {
    const told = await pass(s, runs);
    if (!told) return null;
    return run.isWhole && !halted ? told : [];
  });
  return { own, isStopped: states === null, results };
}
