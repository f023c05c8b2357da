/** The views of a camera that only turns, on a tripod: every point is a direction. */
import { keyFrames } from './key-frames';
import { rayPairs } from './moving-camera';
import { turningOf } from './relative-pose';
import type { Freedom, KnownView, Scene } from './scene';
import { adjusted, culled, noiseOf } from './scene';
import type { Sightings } from './sightings';
import { rayOf } from './triangulation';
import type { Optics, View } from './view-model';
import { halfDiagonal, movedView, viewOfNothing } from './view-model';
import { vectorOf } from '../geometry/pose';

/** Px of noise that is reckoned with before it is known. By trial. */
const FIRST_NOISE = 0.5;
/** Of the adjustment. By trial. */
const PATIENCE = { rounds: 40, leastGain: 1e-6 };

/** One turning after another. */
function after(first: View, then: View): View {
  return movedView(first, [...vectorOf([...then.subarray(0, 9)]), 0, 0, 0]);
}

/** Points that no view has placed yet, as directions from the first view that shows them. */
export function withDirections(s: Sightings, scene: Scene): Scene {
  const points = new Map(scene.points);
  const frames = [...scene.views.keys()].sort((a, b) => a - b);
  for (const frame of frames) {
    const v = scene.views.get(frame)!;
    for (const p of s.of(frame)) {
      const isTwice = frames.some((f) => f !== frame && s.isSeen(p, f));
      if (points.has(p) || !isTwice) continue;
      points.set(
        p,
        rayOf({ view: v.view, optics: { ...scene.optics, focal: v.focal }, x: s.x(p, frame), y: s.y(p, frame) }),
      );
    }
  }
  return { ...scene, points };
}

/** @param optics what is known or supposed of them */
export function tripodCamera(s: Sightings, optics: Optics, freedom: Freedom): Scene {
  const keys = keyFrames(s);
  const views = new Map<number, KnownView>();
  let view = viewOfNothing();
  keys.forEach((frame, i) => {
    if (i > 0) {
      const pairs = rayPairs(s, optics, keys[i - 1]!, frame);
      view = after(view, turningOf(pairs, FIRST_NOISE / (halfDiagonal(s.size) * optics.focal)));
    }
    views.set(frame, { view, focal: optics.focal });
  });
  let scene: Scene = withDirections(s, { optics, views, points: new Map(), noise: 4 * FIRST_NOISE });
  scene = { ...scene, noise: Math.max(FIRST_NOISE, noiseOf(s, scene)) };
  for (let round = 0; round < 3; round++) {
    scene = adjusted(s, scene, freedom, PATIENCE);
    if (round < 2) scene = withDirections(s, culled(s, scene));
  }
  return scene;
}
