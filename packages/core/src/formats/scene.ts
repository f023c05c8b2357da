/**
 * The rigid pose of every Screen over the shot, for 3D scenes: fitted to the corners, so that what a rigid rectangle
 * cannot explain is left over as a misfit, which is told. Scene coordinates: the camera at the origin, x right, y up,
 * looking along -z; metres.
 */
import { focalFromViews, poseOf, USUAL_FOCAL } from '../geometry/pose';
import type { Pose } from '../geometry/pose';
import { quaternionOf } from '../geometry/quaternion';
import { slotAspect } from '../dress/shape/placement';
import type { ScreenTrack, Track } from '../track';
import { referencePin } from './track-json';

export interface SceneOptions {
  /** focal length, picture widths; told from the views where left out */
  readonly focal?: number;
  /** height of the lit part of the device, metres, by Screen; {@link USUAL_HEIGHTS} for its kind where left out */
  readonly heights?: ReadonlyMap<string, number>;
  /** width by height of the lit part, by Screen; as the pin looks where left out */
  readonly aspects?: ReadonlyMap<string, number>;
}

/** Common sizes of the lit part, metres high as the content stands (common practice, no source). */
export const USUAL_HEIGHTS: Readonly<Record<string, number>> = {
  phone: 0.145,
  laptop: 0.19,
  tablet: 0.2,
  tv: 0.7,
  other: 0.2,
};

export interface PosedFrame {
  readonly frame: number;
  readonly pose: Pose;
  /** metres */
  readonly translation: readonly [number, number, number];
  /** unit quaternion x y z w */
  readonly rotation: readonly [number, number, number, number];
  /** px by which the farthest corner of the fitted pose misses the track's */
  readonly misfit: number;
}

export interface PosedScreen {
  readonly name: string;
  readonly height: number;
  readonly aspect: number;
  readonly frames: readonly PosedFrame[];
  readonly worst: number;
}

export interface Scene {
  readonly width: number;
  readonly height: number;
  /** picture widths, and how it came about */
  readonly focal: number;
  readonly focalFrom: 'typed' | 'views' | 'usual';
  readonly screens: readonly PosedScreen[];
}

/** Views from which a focal length is told, evenly spread over the shot. By trial. */
const VIEWS = 24;

function posed(
  s: ScreenTrack,
  camera: { width: number; height: number; focal: number },
  aspect: number,
  height: number,
): PosedScreen {
  let before: readonly [number, number, number, number] = [0, 0, 0, 1];
  const frames = s.frames.map((f): PosedFrame => {
    const { pose, misfit } = poseOf(camera, f.corners, aspect);
    const r = pose.rotation;
    const turned = [r[0]!, -r[1]!, -r[2]!, -r[3]!, r[4]!, r[5]!, -r[6]!, r[7]!, r[8]!];
    const q = quaternionOf(turned);
    const same = q.reduce((sum, v, k) => sum + v * before[k]!, 0) >= 0;
    // A turn has two quaternions: the one nearer to the last frame's, so that interpolation takes the short way.
    before = same ? q : (q.map((v) => -v) as unknown as typeof q);
    return {
      frame: f.frame,
      pose,
      translation: [pose.centre[0] * height, -pose.centre[1] * height, -pose.centre[2] * height],
      rotation: before,
      misfit,
    };
  });
  return { name: s.name, height, aspect, frames, worst: frames.reduce((m, f) => Math.max(m, f.misfit), 0) };
}

/** The shot as a scene: camera, planes and what they show. @param kinds per Screen, the kind of its device @throws CoreError `invalid` where no pose is found */
export function sceneOf(track: Track, kinds: ReadonlyMap<string, string>, o: SceneOptions = {}): Scene {
  const { width, height } = track.plate;
  const screens = track.screens.filter((s) => s.frames.length > 0);
  const aspectOf = (s: ScreenTrack): number => o.aspects?.get(s.name) ?? slotAspect(referencePin(s));
  const told =
    o.focal ??
    screens.reduce<number | null>((found, s) => {
      if (found !== null) return found;
      const step = Math.max(1, Math.floor(s.frames.length / VIEWS));
      return focalFromViews(
        s.frames.filter((_, i) => i % step === 0).map((f) => f.corners),
        width,
        height,
        aspectOf(s),
      );
    }, null);
  const focal = told ?? USUAL_FOCAL;
  const found = told === null ? 'usual' : 'views';
  const focalFrom = o.focal === undefined ? found : 'typed';
  return {
    width,
    height,
    focal,
    focalFrom,
    screens: screens.map((s) =>
      posed(
        s,
        { width, height, focal },
        aspectOf(s),
        o.heights?.get(s.name) ?? USUAL_HEIGHTS[kinds.get(s.name) ?? 'other'] ?? USUAL_HEIGHTS['other']!,
      ),
    ),
  };
}
