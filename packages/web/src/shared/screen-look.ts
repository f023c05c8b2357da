import type { Recipe } from '../types';

/** Hue and device outline of a Screen: colour-blind-safe, none of them pure red, green or blue, doubled by a letter. */
const HUES = ['#6fb9dc', '#d690c4', '#e9b04e', '#93d1c0', '#b8a6ec', '#f0b39c'];

export function hueOf(index: number): string {
  return HUES[index % HUES.length]!;
}

export const DEVICE_ICON = {
  phone: 'bi-phone',
  laptop: 'bi-laptop',
  tablet: 'bi-tablet-landscape',
  tv: 'bi-tv',
  other: 'bi-aspect-ratio',
} as const;

/** A device's outline, or that of something that passes in front. */
export function iconOf({ device, carried }: Pick<Recipe, 'device' | 'carried'>): string {
  return carried ? 'bi-bounding-box-circles' : DEVICE_ICON[device ?? 'other'];
}
