/** From the key frames to every frame: each stands by the points it shows, the points by all frames that show them. */
import type { Freedom, KnownView, Scene } from './scene';
import { spread } from '../statistics';
import { missOf, mostMissOf, noiseOf, sightsOf, viewOfFrame } from './scene';
import type { Sightings } from './sightings';
import { triangulate } from './triangulation';
import { Projection } from './view-model';

/** Sights that a point is placed by at the most; more tell nothing new. By trial. */
const MOST_SIGHTS = 60;
/** Times that frames and points are placed by one another. By trial. */
const ROUNDS = 2;

type Views = ReadonlyMap<number, KnownView>;

/** The known view nearest in time. */
function nearestView(views: Views, frame: number): KnownView | null {
  let best: KnownView | null = null;
  let least = Infinity;
  for (const [f, v] of views)
    if (Math.abs(f - frame) < least) {
      least = Math.abs(f - frame);
      best = v;
    }
  return best;
}

/** @param starts views of frames that the scene does not have, to begin with */
function withEveryView(s: Sightings, scene: Scene, freedom: Freedom, starts: Views = new Map()): Scene {
  const views = new Map<number, KnownView>();
  let last: KnownView | null = null;
  for (let frame = 0; frame < s.frames; frame++) {
    const near: KnownView | null =
      scene.views.get(frame) ?? starts.get(frame) ?? last ?? nearestView(scene.views, frame);
    const found: KnownView | null = near && viewOfFrame(s, scene, frame, near, freedom);
    if (found) views.set(frame, found);
    last = found;
  }
  return { ...scene, views };
}

/** Points placed anew by all views. */
function withPointsAnew(s: Sightings, scene: Scene): Scene {
  const p = new Projection();
  const most = mostMissOf(scene);
  const points = new Map(scene.points);
  for (const point of scene.points.keys()) {
    const [first, last] = s.spanOf(point);
    const frames: number[] = [];
    for (let f = first; f <= last; f++)
      if (scene.views.has(f) && s.isSeen(point, f) && missOf(s, scene, point, f, p) < most) frames.push(f);
    const found = triangulate(sightsOf(s, scene, point, spread(frames, MOST_SIGHTS)));
    if (found) points.set(point, found.point);
  }
  return { ...scene, points };
}

/**
 * @param isTurning a camera on a tripod, whose points are directions and stay
 * @param starts views to begin with of frames that are no key frames; those before them when left out
 */
export function everyFrame(s: Sightings, scene: Scene, freedom: Freedom, isTurning: boolean, starts?: Views): Scene {
  let all = withEveryView(s, scene, freedom, starts);
  for (let round = 0; round < ROUNDS && !isTurning; round++) all = withEveryView(s, withPointsAnew(s, all), freedom);
  return { ...all, noise: noiseOf(s, all) };
}
