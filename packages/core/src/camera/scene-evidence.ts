/**
 * The scene's camera as a further evidence of a Screen that stands still: what the scene says of its corners joins what
 * was followed, each by how well it is known. Where the Screen's own evidence contradicts for long, the Screen was
 * moved, and the scene lets go.
 */
import type { CameraFile } from './camera-file';
import { trustOf } from '../follow/evidence/trust';
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import { distance } from '../geometry/point';
import { perspectiveCentre } from '../geometry/quad';
import type { Quad } from '../geometry/quad';
import { median } from '../statistics';
import type { ScreenTrack, TrackFrame } from '../track';
import { viewsOfFile } from './file-views';
import { flipped } from './view-model';
import type { ScenePlaneFit } from './scene-plane';
import type { PlaneByPoints } from './points-plane';
import { pointsPlane } from './points-plane';
import { scenePlane } from './scene-plane';

const SCENE = {
  /** Standard deviations beyond which a followed corner contradicts the scene. By trial. */
  contradicts: 4,
  /** Px at 1920 wide that a corner must be off by to contradict it, however well it is known. By trial. */
  leastOff: 1,
  /** Frames in a row that contradict it when the Screen itself was moved. By trial. */
  moved: 10,
  /** Corners that must: a follower that errs has one side wrong, a device that is moved all of them. By trial. */
  movedCorners: 3,
  /** Trust of a followed frame that counts as contradicting. By trial. */
  trusted: 0.5,
  /** Share of the trusted frames that may contradict a Screen that stands still. By trial. */
  mostContradicting: 0.5,
  /** Share of hand-set evidence from which a frame stays as it was set. */
  handSet: 0.5,
} as const;

export interface SceneEvidence {
  readonly track: ScreenTrack;
  /** why the scene was not used, or on which frames it let go; null when it holds throughout */
  readonly note: string | null;
  /** the Screen's corners in the scene, y up; null when it was not used */
  readonly corners: readonly (readonly [number, number, number])[] | null;
}

interface Seen {
  readonly corners: Quad;
  readonly sigma: readonly number[];
}

const isFollowed = (f: TrackFrame): boolean => Object.keys(f.evidence).length > 0;

/** How many of a trusted frame's corners are not where the scene has them. */
function contradicting(f: TrackFrame, scene: Seen, px: number): number {
  if (!isFollowed(f) || f.trust < SCENE.trusted) return 0;
  return f.corners.filter((p, k) => {
    const most = Math.max(px, SCENE.contradicts * Math.hypot(f.sigma[k]!, scene.sigma[k]!));
    return distance(p, scene.corners[k]!) > most;
  }).length;
}

/** Frames on which the Screen stands elsewhere: long runs that contradict, bridged frames between them included. */
function movedFrames(frames: readonly TrackFrame[], on: (f: TrackFrame) => boolean | null): Set<number> {
  const out = new Set<number>();
  let run: number[] = [];
  let contradicting = 0;
  const close = (): void => {
    if (contradicting >= SCENE.moved) for (const f of run) out.add(f);
    run = [];
    contradicting = 0;
  };
  for (const f of frames) {
    const told = on(f);
    if (told === false) close();
    else run.push(f.frame);
    if (told === true) contradicting++;
  }
  close();
  return out;
}

/** One frame out of both. */
function joined(f: TrackFrame, scene: Seen, pin: Quad, width: number, isAgainst: boolean): TrackFrame {
  const uses = isFollowed(f) && !isAgainst;
  const weights = f.sigma.map((s, k) => {
    const own = uses ? 1 / Math.max(s, 1e-3) ** 2 : 0;
    const of = 1 / Math.max(scene.sigma[k]!, 1e-3) ** 2;
    return { own, of, whole: own + of };
  });
  const corners = f.corners.map((p, k) => {
    const { own, of, whole } = weights[k]!;
    return [0, 1].map((a) => (own * p[a]! + of * scene.corners[k]![a]!) / whole);
  }) as unknown as Quad;
  const sigma = weights.map((w) => 1 / Math.sqrt(w.whole));
  const share = weights.reduce((s, w) => s + w.of / w.whole, 0) / 4;
  const rest = uses ? Object.fromEntries(Object.entries(f.evidence).map(([k, v]) => [k, v * (1 - share)])) : {};
  const homography = normaliseHomography(quadToQuad(pin, corners), perspectiveCentre(pin));
  return {
    frame: f.frame,
    corners,
    homography,
    sigma,
    trust: trustOf(sigma, 1, width),
    evidence: { ...rest, scene: uses ? share : 1 },
  };
}

/** Frames that the track lacks, to be filled by the scene: beyond a stop. */
function lacking(
  track: Pick<ScreenTrack, 'frames'>,
  plane: ScenePlaneFit,
  file: CameraFile,
  range: readonly [number, number],
): TrackFrame[] {
  const has = new Set(track.frames.map((f) => f.frame));
  const out: TrackFrame[] = [];
  for (let frame = range[0]; frame <= range[1]; frame++) {
    const seen = has.has(frame) ? null : plane.on(frame);
    if (!seen) continue;
    const sigma = [...seen.sigma];
    out.push({
      frame,
      corners: seen.corners,
      homography: [],
      sigma,
      trust: trustOf(sigma, 1, file.plate.width),
      evidence: {},
    });
  }
  return out;
}

/** How the scene is to carry a Screen. */
export interface SceneUse {
  /** first and last frame; what was lost between them is filled by the scene */
  readonly range: readonly [number, number];
  /** whether a frame may rest on the scene; all when left out */
  readonly on?: (frame: number) => boolean;
  /** the Screen's plane by points of the camera; told by what was followed when left out */
  readonly plane?: PlaneByPoints | undefined;
}

/** Frames that rest on the scene too, in order. */
export interface SceneFrames extends Omit<SceneEvidence, 'track'> {
  readonly frames: readonly TrackFrame[];
}

/**
 * Joins the scene to what was followed.
 * @param track its frames' homographies take the pin of the reference frame to their corners
 */
export function joinScene(
  track: Pick<ScreenTrack, 'frames' | 'referenceFrame'>,
  file: CameraFile,
  { range, on = () => true, plane: told }: SceneUse,
): SceneFrames {
  const kept = (note: string): SceneFrames => ({ frames: track.frames, note, corners: null });
  const views = viewsOfFile(file);
  const reference = track.frames.find((f) => f.frame === track.referenceFrame);
  if (!reference || !views.has(track.referenceFrame))
    return kept(`the camera does not reach the reference frame ${track.referenceFrame}`);
  const pin = reference.corners;
  const followed = track.frames.filter((f) => isFollowed(f) && f !== reference && views.has(f.frame));
  const plane = told
    ? pointsPlane(file, views, track.referenceFrame, pin, told)
    : scenePlane(file, views, track.referenceFrame, pin, followed);
  if (!plane && told) return kept('the chosen points tell no plane that the pin lies on');
  if (!plane && followed.length === 0)
    return kept('it is neither followed nor set on a second frame yet: one of both tells where it stands in the scene');
  if (!plane) return kept('what was followed does not tell where the Screen stands in the scene');
  const px = (SCENE.leastOff * file.plate.width) / 1920;
  const all = [...track.frames, ...lacking(track, plane, file, range)].sort((a, b) => a.frame - b.frame);
  const isAgainst = (f: TrackFrame): boolean | null => {
    const seen = plane.on(f.frame);
    if (!seen || !isFollowed(f) || f.trust < SCENE.trusted) return null;
    return contradicting(f, seen, px) >= SCENE.movedCorners;
  };
  const trusted = all.filter((f) => isAgainst(f) !== null);
  const against = trusted.filter((f) => isAgainst(f));
  if (trusted.length > 0 && against.length > SCENE.mostContradicting * trusted.length) {
    const off = median(
      against.map((f) => Math.max(...f.corners.map((p, k) => distance(p, plane.on(f.frame)!.corners[k]!)))),
    );
    return kept(
      `the Screen does not stand still in the scene (it is off by ${off.toFixed(1)} px); the scene is not used`,
    );
  }
  const moved = movedFrames(all, isAgainst);
  const frames = all.flatMap((f): TrackFrame[] => {
    const seen = plane.on(f.frame);
    const isSet = f === reference || (f.evidence['hand'] ?? 0) > SCENE.handSet;
    const isOwn = isSet || moved.has(f.frame) || !on(f.frame);
    if (!seen || isOwn) return f.homography.length > 0 ? [f] : [];
    return [joined(f, seen, pin, file.plate.width, contradicting(f, seen, px) > 0)];
  });
  const note =
    moved.size > 0
      ? `the Screen is moved on frames ${Math.min(...moved)} to ${Math.max(...moved)}; the scene lets go there`
      : null;
  return { frames, note, corners: plane.corners.map(flipped) };
}

/** A track with the scene joined, as far as its frames follow one another. */
export function withScene(track: ScreenTrack, file: CameraFile, use: SceneUse): SceneEvidence {
  const { frames, note, corners } = joinScene(track, file, use);
  if (!corners) return { track, note, corners };
  const whole = unbroken(frames, track.referenceFrame);
  return { track: { ...track, frames: whole, stopped: stillStopped(track, whole, use.range) }, note, corners };
}

/** The frames around the reference that follow one another without a gap. */
function unbroken(frames: readonly TrackFrame[], referenceFrame: number): TrackFrame[] {
  const at = frames.findIndex((f) => f.frame === referenceFrame);
  let [first, last] = [at, at];
  while (first > 0 && frames[first - 1]!.frame === frames[first]!.frame - 1) first--;
  while (last < frames.length - 1 && frames[last + 1]!.frame === frames[last]!.frame + 1) last++;
  return frames.slice(first, last + 1);
}

function stillStopped(
  track: ScreenTrack,
  frames: readonly TrackFrame[],
  range: readonly [number, number],
): ScreenTrack['stopped'] {
  const left = (track.stopped ?? []).filter((s) =>
    s.direction === 'forwards' ? frames.at(-1)!.frame < range[1] : frames[0]!.frame > range[0],
  );
  return left.length > 0 ? left : null;
}
