/** The job of repairing: the fewest touch-ups that bring what slips of a track under a limit. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { RepairPlan } from '@yarlop/core/proof/repair-plan';
import { planRepairs } from '@yarlop/core/proof/repair-plan';
import type { MeasuredFrame } from '@yarlop/core/proof/residual-slip';
import type { Corrections, TouchUp } from '@yarlop/core/solve/touch-up';
import { corrected, correctedPin } from '@yarlop/core/solve/touch-up';
import type { ScreenTrack } from '@yarlop/core/track';
import type { FramePort } from './frame-port';
import { InputError } from './pipeline-error';
import type { PlaneFrame } from './prove';
import { measureSlips } from './prove';
import { correctionsOf } from './screen-file';

/** px; sigma that stands for a slip that could not be measured. */
const UNKNOWN_SIGMA = 9;
/** px; a pin that lies farther from the track's own is another one. By trial. */
const SAME_PIN = 1;

export interface RepairJob {
  readonly track: ScreenTrack;
  readonly screen: ScreenFile;
  readonly luma: FramePort;
  /** px at 1920 wide under which a slip may stay */
  readonly under: number;
}

export interface Repair {
  readonly plan: RepairPlan;
  /** frames that were measured, as the plan's lists go */
  readonly frames: readonly number[];
  /** the recipe with the plan's touch-ups */
  readonly screen: ScreenFile;
  /** the track with them */
  readonly track: ScreenTrack;
}

/** The pin that a track's matrices carry. */
function pinOf(track: ScreenTrack): Quad {
  const reference = track.frames.find((f) => f.frame === track.referenceFrame)!;
  return mapQuad(inverse(reference.homography), reference.corners);
}

/** The plane's path without the corrections that a track has taken in. */
function followedPath(track: ScreenTrack, pin: Quad, c: Corrections): PlaneFrame[] {
  return track.frames.map(({ frame, corners }) => ({
    frame,
    homography: quadToQuad(correctedPin(pin, c, frame), corners),
  }));
}

/** @throws InputError where the track was made with another pin */
function assertSamePin(track: ScreenTrack, screen: ScreenFile): void {
  const own = pinOf(track);
  if (screen.pin.every((p, i) => distance(p, own[i]!) < SAME_PIN)) return;
  throw new InputError(
    `the pin of "${screen.name}" is not the one that its track was made with; follow it again, or give the recipe that the track was made with.`,
  );
}

/** Yields the number of each frame whose slip is measured; returns the repair. @throws InputError */
export async function* repair({ track, screen, luma, under }: RepairJob): AsyncGenerator<number, Repair> {
  assertSamePin(track, screen);
  const corrections = correctionsOf(screen);
  const path = followedPath(track, screen.pin, corrections);
  const measured: (MeasuredFrame & { readonly sigma: readonly number[] })[] = [];
  for await (const f of measureSlips(path, screen.pin, track.referenceFrame, screen.likenesses ?? [], luma)) {
    const { homography } = path[measured.length]!;
    measured.push({
      frame: f.frame,
      by: f.by,
      homography,
      sigma: f.slips.map((s) => Math.min(UNKNOWN_SIGMA, s.sigma)),
    });
    yield f.frame;
  }
  const right = [track.referenceFrame, ...(screen.hand ?? []).map((k) => k.frame)];
  const plan = planRepairs(measured, screen.pin, corrections, { limit: under, width: luma.width, right });
  const touchUps = [...(corrections.touchUps ?? []), ...plan.touchUps].sort((a, b) => a.frame - b.frame);
  return {
    plan,
    frames: measured.map((f) => f.frame),
    screen: { ...screen, ...(touchUps.length > 0 ? { touchUps: touchUps as ScreenFile['touchUps'] } : {}) },
    track: withCorrections(track, path, screen.pin, { ...corrections, touchUps }),
  };
}

function withCorrections(
  track: ScreenTrack,
  path: readonly PlaneFrame[],
  pin: Quad,
  corrections: Corrections & { readonly touchUps: readonly TouchUp[] },
): ScreenTrack {
  const frames = track.frames.map((f, i) => {
    const { homography } = path[i]!;
    return corrected({ ...f, homography, corners: mapQuad(homography, pin) }, pin, corrections);
  });
  return { ...track, frames };
}
