import type { Quad } from '@yarlop/core/geometry/quad';
import { deviceOf, proportionsOf } from '@yarlop/core/pin/proportions';
import type { Recipe, Screen, Shot } from '../types';
import { freeName } from './carried-outline';

/** A Screen with its pin on a frame (px of the plate), and nothing else set; its device is guessed from its proportions. */
export function newScreen(pin: Quad, referenceFrame: number, shot: Shot, screens: readonly Screen[]): Recipe {
  const proper = screens.filter((s) => !s.recipe.carried);
  return {
    format: 'yarlop-screen',
    version: 1,
    name: freeName(`Screen ${proper.length + 1}`, screens),
    device: deviceOf(proportionsOf(pin, shot.probe)),
    referenceFrame,
    pin: pin as never,
    patches: [],
    motion: 'perspective',
    evidence: 'auto',
  };
}
