/** What the camera of a shot's scene adds to the track of a Screen that stands still in it, and the corrections over it. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { joinScene } from '@yarlop/core/camera/scene-evidence';
import { IDENTITY } from '@yarlop/core/geometry/matrix3';
import { normaliseHomography, quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad, perspectiveCentre } from '@yarlop/core/geometry/quad';
import { HAND_SIGMA } from '@yarlop/core/solve/frame-result';
import { correctedPin } from '@yarlop/core/solve/touch-up';
import { correctionsOf } from '@yarlop/pipeline/screen-file';
import { sceneFrames } from '@yarlop/pipeline/scene-frames';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import * as cameras from '../sql/cameras';
import type { TrackView } from '../track-view';

type Frame = TrackView['frames'][number];

interface SceneRow {
  readonly solved: CameraFile;
  readonly rangeFrom: number;
  readonly rangeTo: number;
}

const placed = (frame: number, pin: Quad, corners: Quad): Frame => ({
  frame,
  corners,
  homography: normaliseHomography(quadToQuad(pin, corners), perspectiveCentre(pin)),
  sigma: Array<number>(4).fill(HAND_SIGMA),
  trust: 1,
  evidence: { hand: 1 },
  blur: 0,
  reason: null,
});

/** What was placed by hand of a Screen of which nothing was followed. */
function byHand({ recipe: { pin, referenceFrame, hand = [] } }: ScreenRow): Frame[] {
  const reference = { ...placed(referenceFrame, pin, pin), homography: [...IDENTITY] };
  const others = hand.filter((k) => k.frame !== referenceFrame).map((k) => placed(k.frame, pin, k.corners as Quad));
  return [reference, ...others].sort((a, b) => a.frame - b.frame);
}

/** The scene joined, where the recipe says so and the shot has a camera. */
async function joined(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  mediaHash: string,
  track: TrackView,
): Promise<TrackView> {
  const on = sceneFrames(screen.recipe, false);
  const row = on && (await c.db.one<SceneRow>(cameras.sceneOfShot, [mediaHash, screen.shotId]));
  if (!on || !row) return track;
  const { referenceFrame, scenePlane } = screen.recipe;
  const frames = track.frames.length > 0 ? track.frames : byHand(screen);
  const found = joinScene({ frames, referenceFrame }, row.solved, {
    range: [row.rangeFrom, row.rangeTo],
    on,
    plane: scenePlane,
  });
  if (!found.corners) return { ...track, scene: { note: found.note, corners: null } };
  const own = new Map(frames.map((f) => [f.frame, f]));
  const whole = found.frames.map((f): Frame => ({ ...(own.get(f.frame) ?? { blur: 0, reason: null }), ...f }));
  const has = new Set(whole.map((f) => f.frame));
  return {
    ...track,
    frames: whole,
    halted: track.halted.filter((h) => !has.has(h.frame)),
    scene: { note: found.note, corners: found.corners },
  };
}

/** A track with the scene joined and corrections laid over it. */
export async function withShotScene(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  mediaHash: string,
  track: TrackView,
): Promise<TrackView> {
  const { frames, ...rest } = await joined(c, screen, mediaHash, track);
  const corrections = correctionsOf(screen.recipe);
  const { pin } = screen.recipe;
  return {
    ...rest,
    frames: frames.map((f) => ({
      ...f,
      corners: mapQuad(f.homography, correctedPin(pin, corrections, f.frame)),
    })),
  };
}
