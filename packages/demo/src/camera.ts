/** A thin-lens camera held by hand: pinhole projection for the truth, sampled lens and shutter for the picture. */
import type { Vec } from './vector';
import { add, cross, dot, normalise } from './vector';

export interface View {
  readonly eye: Vec;
  readonly right: Vec;
  readonly down: Vec;
  readonly forward: Vec;
  readonly focus: number;
}

export interface Film {
  readonly width: number;
  readonly height: number;
  /** focal length in px of the film */
  readonly focal: number;
}

export function lookAt(eye: Vec, target: Vec, roll: number): View {
  const forward = normalise(add(target, eye, -1));
  const flat = normalise(cross(forward, [0, 0, 1]));
  const lift = cross(forward, flat);
  const c = Math.cos(roll);
  const s = Math.sin(roll);
  const right = add([flat[0] * c, flat[1] * c, flat[2] * c], lift, s);
  return { eye, right, down: cross(forward, right), forward, focus: Math.hypot(...add(target, eye, -1)) };
}

/** Pixel position (corner-origin) of a point in the room. */
export function project(view: View, film: Film, p: Vec): [number, number] {
  const d = add(p, view.eye, -1);
  const z = dot(d, view.forward);
  return [
    film.width / 2 + (film.focal * dot(d, view.right)) / z,
    film.height / 2 + (film.focal * dot(d, view.down)) / z,
  ];
}
