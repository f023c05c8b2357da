/** The plain numbers of a dress, section by section: what they are called, what they do, and within what limits. */
import type { Part } from '../edits/use-dress';

export interface Control {
  readonly part: keyof typeof SECTION_OF;
  readonly field: string;
  readonly label: string;
  readonly help: string;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly base: number;
  /** the member whose value it has while it has none of its own */
  readonly follows?: string;
}

const c = (
  part: Control['part'],
  field: string,
  label: string,
  min: number,
  max: number,
  step: number,
  base: number,
  help: string,
): Control => ({ part, field, label, help, min, max, step, base });

export const PLACEMENT: readonly Control[] = [
  c('placement', 'x', 'Right', -1, 1, 0.005, 0, "Moves the fill within the Screen's plane, shares of its width"),
  c('placement', 'y', 'Down', -1, 1, 0.005, 0, "Moves the fill within the Screen's plane, shares of its height"),
  c('placement', 'scale', 'Scale', 0.1, 4, 0.01, 1, 'Larger or smaller within the plane'),
  {
    ...c('placement', 'scaleY', 'Scale height', 0.1, 4, 0.01, 1, 'Its height apart from its width'),
    follows: 'scale',
  },
  c('placement', 'turn', 'Turn', -180, 180, 0.5, 0, 'Turns the fill within the plane, degrees clockwise'),
  c('placement', 'shear', 'Shear', -1, 1, 0.01, 0, "Moves the fill's upper edge to the right, shares of its height"),
  c(
    'placement',
    'lift',
    'Height',
    -1,
    1,
    0.005,
    0,
    "Raises the fill above the glass, shares of the Screen's height: for graphics that float before it",
  ),
  c(
    'placement',
    'keystoneX',
    'Perspective',
    -0.9,
    0.9,
    0.01,
    0,
    "Makes the fill's right side farther away (to the right) or nearer",
  ),
];
export const LEVELS: readonly Control[] = [
  c('levels', 'gain', 'Gain', 0, 4, 0.01, 1, "Multiplies the fill's light"),
  c('levels', 'lift', 'Lift', -0.2, 0.5, 0.002, 0, 'Raises the dark end and leaves the bright one'),
  c('levels', 'gamma', 'Gamma', 0.3, 3, 0.01, 1, 'Lifts or lowers the middle tones'),
  c('levels', 'saturation', 'Saturation', 0, 2, 0.01, 1, 'Strength of colours; 0 is grey'),
  c('levels', 'temperature', 'Warmth', -1, 1, 0.01, 0, 'Colder to the left, warmer to the right; brightness stays'),
  c('levels', 'tint', 'Tint', -1, 1, 0.01, 0, 'Greener to the left, more magenta to the right'),
  c('levels', 'hue', 'Hue', -180, 180, 1, 0, 'Turns all hues, degrees'),
  c('levels', 'opacity', 'Opacity', 0, 1, 0.01, 1, 'How much of the fill shows'),
  c(
    'levels',
    'sync',
    'Plate flicker',
    0,
    1,
    0.01,
    0,
    "How far the fill's light follows the plate's own measured flicker",
  ),
];
export const SOFTNESS: readonly Control[] = [
  c(
    'softness',
    'amount',
    'As plate',
    0,
    2,
    0.01,
    1,
    "Share of the plate's measured softness that the fill takes; it follows focus pulls",
  ),
  c('softness', 'more', 'More', 0, 30, 0.1, 0, 'More softness of your own, sigma in px'),
];
export const EDGE: readonly Control[] = [
  c('edge', 'inset', 'Inset', -20, 40, 0.1, 0, 'Draws all sides in, px; to the left it grows'),
  c('edge', 'feather', 'Feather', 0, 60, 0.5, 0, 'Fades the fill in from its sides, px'),
  c('edge', 'radius', 'Corners', 0, 0.5, 0.005, 0, 'Rounds the corners, shares of the shorter side'),
  c('edge', 'wrap', 'Wrap', 0, 1, 0.01, 0, "The plate's light creeps over the edge"),
  c('edge', 'wrapReach', 'Wrap reach', 1, 60, 0.5, 4, 'How far it creeps, px'),
];
export const GLASS: readonly Control[] = [
  c('glare', 'keep', 'Keep glare', 0, 1.5, 0.01, 1, 'Share of the light on the glass that lies over the fill again'),
];
export const SPILL: readonly Control[] = [
  c(
    'spill',
    'amount',
    'Remove',
    0,
    1,
    0.01,
    1,
    "How much of the old screen's hue is removed from what stands around it",
  ),
  c('spill', 'recolour', 'Recolour', 0, 1, 0.01, 0, "How much of it comes back in the fill's mean colour"),
  c('spill', 'shift', 'Turn hue', -180, 180, 1, 0, "Turns what has the old screen's hue to another one, degrees"),
  c('spill', 'desaturate', 'Desaturate', 0, 1, 0.01, 0, "Takes the colour out of what has the old screen's hue"),
];
export const GRAIN: readonly Control[] = [
  c('grain', 'amount', 'Grain', 0, 2, 0.01, 1, "The plate's measured grain over the fill"),
];
export const LOOK: readonly Control[] = [
  c(
    'look',
    'grid',
    'Pixel grid',
    0,
    1,
    0.01,
    0,
    "The device's own pixels, where the plate is near enough to show them",
  ),
  c('look', 'vignette', 'Vignette', 0, 1, 0.01, 0, "Darkens towards the Screen's corners"),
  c('look', 'askew', 'Viewing angle', 0, 1, 0.01, 0, 'Darkens the more the Screen is seen from the side'),
  c(
    'look',
    'mirror',
    'Mirror',
    0,
    4,
    0.02,
    0,
    "The room's light in the cover glass, more at grazing views; 1 as bare glass",
  ),
  c('look', 'tint', 'Panel tint', -1, 1, 0.01, 0, "The panel's own white: warmer to the left, colder to the right"),
  c('look', 'scan', 'Scan', 0, 1, 0.01, 0, 'A dark band that rolls over the Screen, as cameras see it'),
  c('look', 'noise', 'Panel noise', 0, 0.3, 0.002, 0, 'Noise of the panel itself, beside the grain of the plate'),
];

/** All of them, to be found by their names from anywhere. */
export const CONTROLS: readonly Control[] = [
  ...PLACEMENT,
  ...LEVELS,
  ...SOFTNESS,
  ...EDGE,
  ...GLASS,
  ...SPILL,
  ...GRAIN,
  ...LOOK,
];

/** Part of the bench in Dress that a control stands in. */
export const SECTION_OF = {
  placement: 'Fill',
  levels: 'Levels',
  softness: 'Softness and motion',
  edge: 'Edge',
  glare: 'Light on the glass',
  spill: 'Light of the old screen',
  grain: 'Grain and display',
  look: 'Grain and display',
} as const satisfies Partial<Record<Part, string>>;
