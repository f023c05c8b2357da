/**
 * What a solution explains of what was seen, less what it had to suppose: by this number, solutions of other kinds
 * and other starts are compared. Source: P. Torr, Geometric Motion Segmentation and Model Selection, 1998 (the idea: the
 * fit and the number of parameters are weighed against one another).
 */
import type { Scene } from './scene';
import { missOf } from './scene';
import type { Sightings } from './sightings';
import { Projection } from './view-model';

/** Px at 1920 wide at which a sight is half explained. By trial. */
const HALF_EXPLAINED = 0.6;
/** Sights that a point or a view must explain to be worth having: half of its numbers. */
const POINT_COSTS = 1.5;
const VIEW_COSTS = 3;

/** Sights that are explained, by their nearness, less the numbers spent. */
export function worthOf(s: Sightings, scene: Scene): number {
  const p = new Projection();
  const scale = (HALF_EXPLAINED * s.size.width) / 1920;
  let sum = 0;
  for (const frame of scene.views.keys())
    for (const point of s.of(frame)) {
      if (!scene.points.has(point)) continue;
      const miss = missOf(s, scene, point, frame, p);
      sum += 1 / (1 + (miss / scale) ** 2);
    }
  return sum - POINT_COSTS * scene.points.size - VIEW_COSTS * scene.views.size;
}

/** Share of what the key frames show of points seen on three of them and more that a scene explains. */
export function shareExplained(s: Sightings, scene: Scene, keys: readonly number[]): number {
  const p = new Projection();
  const scale = (HALF_EXPLAINED * s.size.width) / 1920;
  let sum = 0;
  let all = 0;
  for (const frame of keys)
    for (const point of s.of(frame)) {
      if (keys.filter((k) => s.isSeen(point, k)).length < 3) continue;
      all++;
      if (!scene.points.has(point) || !scene.views.has(frame)) continue;
      sum += 1 / (1 + (missOf(s, scene, point, frame, p) / scale) ** 2);
    }
  return all === 0 ? 0 : sum / all;
}

/** By worth, without what their freedoms cost. */
export function bestFirst(s: Sightings, scenes: readonly Scene[]): Scene[] {
  return scenes
    .map((scene) => ({ scene, worth: worthOf(s, scene) }))
    .sort((a, b) => b.worth - a.worth)
    .map((one) => one.scene);
}
