/** Dresses to begin with, named by where the plate was filmed. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';

export const PRESETS: readonly { readonly name: string; readonly what: string; readonly dress: DressRecipe }[] = [
  {
    name: 'bright office',
    what: 'A screen that daylight pales: raised black, a little less colour, glare kept',
    dress: {
      levels: { lift: 0.03, gain: 0.85, saturation: 0.9 },
      softness: { more: 0.6 },
      glare: { keep: 1, soften: 1.5 },
      motionBlur: { on: true },
    },
  },
  {
    name: 'night room',
    what: 'The brightest thing in the room: full range, a soft wrap of its own light',
    dress: {
      levels: { gain: 1.05, lift: 0.004 },
      softness: { more: 0.8 },
      edge: { wrap: 0.2, wrapReach: 6 },
      motionBlur: { on: true },
    },
  },
  {
    name: 'evening window',
    what: 'Warm low light: warmer, a little dimmer',
    dress: {
      levels: { temperature: 0.25, gain: 0.8, lift: 0.015, saturation: 0.95 },
      softness: { more: 0.6 },
      motionBlur: { on: true },
    },
  },
  {
    name: 'under lamps',
    what: 'Colder light with a flicker of its own',
    dress: {
      levels: { temperature: -0.15, tint: -0.05, flicker: { depth: 0.02, rate: 12, seed: 1 } },
      softness: { more: 0.6 },
      motionBlur: { on: true },
    },
  },
];
