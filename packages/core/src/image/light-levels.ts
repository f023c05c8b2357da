/** Levels of remembered pictures as light, made once each. */
import { lightOf } from './light';
import type { PyramidLevel } from './pyramid';

const lights = new WeakMap<PyramidLevel, PyramidLevel>();

/** A level as light, 0 to 255; see `light.ts`. Good for levels that stay as they are. */
export function inLight(image: PyramidLevel): PyramidLevel {
  const before = lights.get(image);
  if (before) return before;
  const data = new Float32Array(image.data.length);
  fillLight(image.data, data);
  const light = { ...image, data };
  lights.set(image, light);
  return light;
}

/** Short, so that it is compiled whole. */
function fillLight(from: Float32Array, to: Float32Array): void {
  for (let i = 0; i < from.length; i++) to[i] = lightOf(from[i]!);
}
