/** The job of proving: every corner of a track measured against what it looked like on the reference frame. */
import { COMMON_SHUTTER } from '@yarlop/core/follow/shutter';
import { distance } from '@yarlop/core/geometry/point';
import type { RawLuma } from '@yarlop/core/image/image';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Ranking, SlipFrame } from '@yarlop/core/proof/ranking';
import { rankSlips } from '@yarlop/core/proof/ranking';
import type { Slip } from '@yarlop/core/proof/slip';
import { lookAtCorner, slipOf } from '@yarlop/core/proof/slip';
import type { ScreenTrack } from '@yarlop/core/track';
import type { FramePort } from './follow';

export interface ProvedFrame extends SlipFrame {
  readonly slips: readonly Slip[];
}

export interface Proof {
  readonly name: string;
  readonly frames: readonly ProvedFrame[];
  readonly ranking: Ranking;
}

const NO_LOOK: Slip = { by: null, sigma: Infinity, likeness: 0, reason: 'On the reference frame this corner is outside the picture, or nothing stands out there.' };

/** @param done told after each frame; returning true leaves off */
export async function prove(track: ScreenTrack, frames: FramePort, done: (frame: number) => boolean = () => false): Promise<Proof> {
  const r = track.frames.find((f) => f.frame === track.referenceFrame)!, pin = mapQuad(r.homography, r.corners), luma: RawLuma = await frames.read(track.referenceFrame), out: ProvedFrame[] = [];
  const looks = [0, 1, 2, 3].map((c) => lookAtCorner(luma, track.referenceFrame, r.homography, pin, c));
  for (const [i, f] of track.frames.entries()) {
    const picture = await frames.read(f.frame), a = track.frames[i - 1] ?? f, b = track.frames[i + 1] ?? f, apart = Math.max(1, b.frame - a.frame);
    const slips = looks.map((l, c) => (l ? slipOf(l, picture, f.homography, pin, (COMMON_SHUTTER * distance(a.corners[c]!, b.corners[c]!)) / apart) : NO_LOOK));
    out.push({ frame: f.frame, slips, by: slips.map((s) => s.by) });
    if (done(f.frame)) break;
  }
  return { name: track.name, frames: out, ranking: rankSlips(out, frames.width) };
}
