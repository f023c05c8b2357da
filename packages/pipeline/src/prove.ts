/** The job of proving: every corner of a track measured against what it looked like on frames where it was right. */
import { COMMON_SHUTTER } from '@yarlop/core/follow/timing/shutter';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { inverse, multiply, translation } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { RawLuma } from '@yarlop/core/image/image';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Ranking, SlipFrame } from '@yarlop/core/proof/ranking';
import { rankSlips } from '@yarlop/core/proof/ranking';
import { slipsLeft } from '@yarlop/core/proof/residual-slip';
import type { Slip } from '@yarlop/core/proof/slip';
import type { Likeness } from '@yarlop/core/proof/slip-fit';
import { likeliestSlip, lookAtCorner } from '@yarlop/core/proof/slip';
import type { ScreenTrack } from '@yarlop/core/track';
import type { FramePort } from './frame-port';

export interface ProvedFrame extends SlipFrame {
  readonly slips: readonly Slip[];
}

export interface Proof {
  readonly name: string;
  readonly frames: readonly ProvedFrame[];
  readonly ranking: Ranking;
}

/** A frame on which a corner was right, and where it was there, px of that frame. */
export interface RightPlace {
  readonly corner: number;
  readonly frame: number;
  readonly at: Point;
}

/** The path of a plane, reference frame to frame. */
export interface PlaneFrame {
  readonly frame: number;
  readonly homography: Matrix3;
}

const NO_LOOK: Slip = {
  by: null,
  sigma: Infinity,
  likeness: 0,
  reason: 'On the frames of its likenesses this corner is outside the picture, or nothing stands out there.',
};

/** What each corner looks like where it is right: on the reference frame, and on others that were told. */
export async function likenessesOf(
  path: readonly PlaneFrame[],
  pin: Quad,
  referenceFrame: number,
  more: readonly RightPlace[],
  frames: FramePort,
): Promise<Likeness[][]> {
  const by = new Map(path.map((f) => [f.frame, f.homography]));
  const out: Likeness[][] = [[], [], [], []];
  const pictures = new Map<number, RawLuma>();
  const places: RightPlace[] = [0, 1, 2, 3].map((corner) => ({
    corner,
    frame: referenceFrame,
    at: mapPoint(by.get(referenceFrame) ?? [1, 0, 0, 0, 1, 0, 0, 0, 1], pin[corner]!),
  }));
  for (const { corner, frame, at } of [...places, ...more]) {
    const h = frame === referenceFrame ? (by.get(frame) ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]) : by.get(frame);
    if (!h || frame >= frames.frameCount) continue;
    if (!pictures.has(frame)) pictures.set(frame, await frames.read(frame));
    const now = mapPoint(h, pin[corner]!);
    const view = multiply(translation(at[0] - now[0], at[1] - now[1]), h);
    const look = lookAtCorner(pictures.get(frame)!, frame, view, pin, corner);
    if (look) out[corner]!.push(look);
  }
  return out;
}

/** Slips of all corners on one frame; `blurs` px by which each is smeared. */
export function slipsOn(
  looks: readonly (readonly Likeness[])[],
  picture: RawLuma,
  homography: Matrix3,
  pin: Quad,
  blurs: readonly number[],
): Slip[] {
  return looks.map((own, c) => (own.length > 0 ? likeliestSlip(own, picture, homography, pin, blurs[c]) : NO_LOOK));
}

/**
 * Smear of the corners on the i-th frame of a path, px: by the least that the frames beside it tell, since a pop of the
 * path is no blur.
 */
export function blursOn(path: readonly PlaneFrame[], pin: Quad, i: number): number[] {
  const f = path[i]!;
  const ways = [
    [path[i - 1], f],
    [f, path[i + 1]],
    [path[i - 1], path[i + 1]],
  ].flatMap(([a, b]) =>
    a && b ? [{ from: mapQuad(a.homography, pin), to: mapQuad(b.homography, pin), frames: b.frame - a.frame }] : [],
  );
  return pin.map(
    (_, k) =>
      COMMON_SHUTTER *
      Math.min(...ways.map((w) => distance(w.from[k]!, w.to[k]!) / w.frames), ways.length > 0 ? Infinity : 0),
  );
}

/** Slips of a whole path, frame by frame. */
export async function* measureSlips(
  path: readonly PlaneFrame[],
  pin: Quad,
  referenceFrame: number,
  more: readonly RightPlace[],
  frames: FramePort,
): AsyncGenerator<ProvedFrame> {
  const looks = await likenessesOf(path, pin, referenceFrame, more, frames);
  for (const [i, f] of path.entries()) {
    const slips = slipsOn(looks, await frames.read(f.frame), f.homography, pin, blursOn(path, pin, i));
    yield { frame: f.frame, slips, by: slips.map((s) => s.by) };
  }
}

/** @param done told after each frame; returning true leaves off */
export async function prove(
  track: ScreenTrack,
  frames: FramePort,
  done: (frame: number) => boolean = () => false,
): Promise<Proof> {
  const r = track.frames.find((f) => f.frame === track.referenceFrame)!;
  const pin = mapQuad(inverse(r.homography), r.corners);
  const out: ProvedFrame[] = [];
  for await (const f of measureSlips(track.frames, pin, track.referenceFrame, [], frames)) {
    out.push(f);
    if (done(f.frame)) break;
  }
  return {
    name: track.name,
    frames: out,
    ranking: rankSlips(
      slipsLeft(
        out.map((f, i) => ({ ...f, homography: track.frames[i]!.homography, sigma: f.slips.map((s) => s.sigma) })),
        pin,
        {},
        frames.width,
      ),
      frames.width,
    ),
  };
}
