/**
 * The job of following, in one direction: frames in through a port, results out one by one, so that a caller can show,
 * store, cancel and take up again. The command line and the server run this same code.
 */
import type { FollowerState, FollowSetup, FrameResult } from '@yarlop/core/follow/results';
import { Follower } from '@yarlop/core/follow/follower';
import { refineJointly } from '@yarlop/core/solve/joint-refinement';
import type { RawLuma } from '@yarlop/core/image/image';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Stop, TrackFrame } from '@yarlop/core/track';

export interface FramePort {
  readonly width: number;
  readonly frameCount: number;
  read(frame: number): Promise<RawLuma>;
}

export interface DirectionRun {
  readonly setup: FollowSetup;
  readonly referenceFrame: number;
  /** the last frame of the run; before the reference for a backward run, the reference itself for nothing but it */
  readonly end: number;
  /** go on from here instead of from the reference */
  readonly checkpoint?: { readonly frame: number; readonly state: FollowerState };
}

export interface Step {
  readonly result: FrameResult;
  /** the follower's memory after this frame */
  readonly state: () => FollowerState;
}

/** Yields every frame after the reference (or after the checkpoint) to the end, whether found or not. */
export async function* followDirection(run: DirectionRun, frames: FramePort): AsyncGenerator<Step> {
  const follower = new Follower(run.setup, run.referenceFrame, await frames.read(run.referenceFrame));
  const step = run.end < run.referenceFrame ? -1 : 1;
  if (run.checkpoint) await follower.resume(run.checkpoint.state, (n) => frames.read(n));
  else yield { result: follower.referenceResult(frames.width), state: () => follower.state };
  let n = run.checkpoint?.frame ?? run.referenceFrame;
  if (n === run.end) return;
  let next = frames.read(n + step);
  while (n !== run.end) {
    n += step;
    const luma = await next;
    if (n !== run.end) {
      next = frames.read(n + step);
      next.catch(() => {});
    }
    yield { result: follower.step(n, luma), state: () => follower.state };
  }
}

/** Cuts off what was lost for good, bridges what was found again, and turns results into rows of a track. */
export function assembleTrack(results: readonly FrameResult[], setup: FollowSetup, referenceFrame: number, from: number, to: number, interrupted: boolean): { frames: TrackFrame[]; stopped: Stop[] | null } {
  const byFrame = new Map(results.map((r) => [r.frame, r]));
  const stopped: Stop[] = [];
  const lastFound = (step: 1 | -1, end: number): number => {
    let last = referenceFrame, reached = referenceFrame;
    for (let n = referenceFrame; n !== end + step; n += step) {
      const r = byFrame.get(n);
      if (!r) break;
      reached = n;
      if (r.homography) last = n;
    }
    if (last === end) return last;
    const lost = byFrame.get(last + step);
    const reason = reached !== end && interrupted ? 'interrupted' : (lost?.reason ?? 'interrupted');
    stopped.push({ frame: last + step, direction: step === 1 ? 'forwards' : 'backwards', reason });
    return last;
  };
  const first = lastFound(-1, from), last = lastFound(1, to);
  const kept: FrameResult[] = [];
  for (let n = first; n <= last; n++) kept.push(byFrame.get(n)!);
  const frames = refineJointly(kept, setup.pin, referenceFrame).map((r): TrackFrame => ({
    frame: r.frame, corners: mapQuad(r.homography!, setup.pin), homography: r.homography!, sigma: r.sigma, trust: r.trust, evidence: r.evidence,
  }));
  return { frames, stopped: stopped.length > 0 ? stopped : null };
}
