/** A run's results as the rows of a track. */
import type { FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import { isPresent } from '@yarlop/core/follow/memory/follower-state';
import { sectionOn } from '@yarlop/core/follow/memory/sections';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { knownOfPin } from '@yarlop/core/pin/area';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { withHandKeys } from '@yarlop/core/solve/hand-bend';
import { asExperienced } from '@yarlop/core/follow/evidence/reliability';
import { refineInSections } from '@yarlop/core/solve/joint-sections';
import type { Corrections } from '@yarlop/core/solve/touch-up';
import { corrected } from '@yarlop/core/solve/touch-up';
import type { Stop, TrackFrame } from '@yarlop/core/track';

/** A run that was made, and what its track is to be of. */
export interface Assembly {
  readonly setup: FollowSetup;
  readonly referenceFrame: number;
  readonly from: number;
  readonly to: number;
  readonly interrupted?: boolean;
  /** of the plate, px */
  readonly width: number;
  /** the pin that rides on what was followed; what was followed itself when left out */
  readonly pinned?: Quad;
  readonly corrections?: Corrections;
}

/** What frames are solved together by. */
export interface Together {
  /** what was followed, px of the reference frame */
  readonly pin: Quad;
  /** frames that stay as they are: the reference, and those that somebody placed by hand */
  readonly exact: ReadonlySet<number>;
  /** what tells a frame's section from others: equal for frames of one */
  readonly partOf: (frame: number) => unknown;
  readonly referenceFrame: number;
  /** of the plate, px */
  readonly width: number;
}

/** Consecutive frames solved together, section by section, with what is known of them by experience. */
export function solvedTogether(results: readonly FrameResult[], o: Together): FrameResult[] {
  return asExperienced(refineInSections(results, o.pin, o.exact, o), o);
}

/**
 * Cuts off what was lost for good, bridges what was found again, lays the pin and its corrections over it, and turns
 * results into rows of a track.
 */
export function assembleTrack(
  results: readonly FrameResult[],
  { setup, referenceFrame, from, to, interrupted = false, width, pinned, corrections = {} }: Assembly,
): { frames: TrackFrame[]; stopped: Stop[] | null } {
  const hand = (setup.hand ?? []).filter((k) => k.frame >= from && k.frame <= to);
  const byFrame = new Map(withHandKeys(results, setup.pin, hand, referenceFrame).map((r) => [r.frame, r]));
  const stopped: Stop[] = [];
  const lastFound = (step: 1 | -1, end: number): number => {
    let last = referenceFrame;
    let reached = referenceFrame;
    for (let n = referenceFrame; n !== end + step; n += step) {
      const r = byFrame.get(n);
      if (!r) break;
      reached = n;
      if (r.homography) last = n;
    }
    if (last === end) return last;
    // What lies beyond the last presence is no loss.
    let next = last + step;
    while (next !== end + step && !isPresent(setup, next)) next += step;
    if (next === end + step) return last;
    const lost = byFrame.get(next);
    const reason = reached !== end && interrupted ? 'interrupted' : (lost?.reason ?? 'interrupted');
    stopped.push({ frame: next, direction: step === 1 ? 'forwards' : 'backwards', reason });
    return last;
  };
  const first = lastFound(-1, from);
  const last = lastFound(1, to);
  const kept: FrameResult[] = [];
  for (let n = first; n <= last; n++) kept.push(byFrame.get(n)!);
  const pin = pinned ?? setup.pin;
  const known = knownOfPin(setup.pin, pin, width);
  const exact = new Set([referenceFrame, ...hand.map((k) => k.frame)]);
  const partOf = (n: number): unknown => sectionOn(setup.sections, n);
  const frames = solvedTogether(kept, { pin: setup.pin, exact, partOf, referenceFrame, width })
    .filter((r) => isPresent(setup, r.frame))
    .map(({ frame, homography, sigma, trust, evidence }): TrackFrame => {
      const of = known({ frame, homography: homography!, sigma, trust, evidence });
      return corrected({ ...of, corners: mapQuad(of.homography, pin) }, pin, corrections);
    });
  return { frames, stopped: stopped.length > 0 ? stopped : null };
}
