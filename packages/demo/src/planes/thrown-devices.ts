/** The devices of thrown shots, and what their screens show. */
import * as art from './art';
import { markIn, silhouette } from './bodies';
import type { Dice } from './thrown-ways';
import { pickOf, range } from './thrown-ways';

export interface Kind {
  readonly device: string;
  /** mm */
  readonly width: number;
  readonly height: number;
  readonly glass: readonly [number, number, number, number];
  readonly radius: number;
  /** mm that its body reaches behind its front */
  readonly depth: number;
}

export const KINDS: readonly Kind[] = [
  { device: 'phone', width: 75, height: 158, glass: [0.04, 0.045, 0.96, 0.955], radius: 0.06, depth: 8 },
  { device: 'phone', width: 72, height: 150, glass: [0.03, 0.018, 0.97, 0.982], radius: 0.1, depth: 8 },
  { device: 'tablet', width: 250, height: 178, glass: [0.045, 0.06, 0.955, 0.94], radius: 0.012, depth: 7 },
  { device: 'laptop', width: 320, height: 210, glass: [0.024, 0.04, 0.976, 0.92], radius: 0.004, depth: 6 },
  { device: 'laptop', width: 340, height: 224, glass: [0.012, 0.018, 0.988, 0.95], radius: 0.006, depth: 6 },
  { device: 'tv', width: 980, height: 570, glass: [0.014, 0.025, 0.986, 0.96], radius: 0.001, depth: 35 },
  { device: 'tv', width: 1220, height: 700, glass: [0.005, 0.009, 0.995, 0.985], radius: 0, depth: 35 },
];
const BODIES = ['#5c6a70', '#b9b4a8', '#22262a', '#6a3f36', '#8a8074', '#101214', '#e4e2dc'] as const;
const BEZELS = ['#0c0e10', '#2b2d30', '#17181a', '#dcd8cf', '#050607', '#8d9094'] as const;
/** Of a mark in the bezel, from hardly seen to plain. */
const MARK_COLOURS = ['#3a3e42', '#8d9094', '#e4e2dc'] as const;
const CONTENTS = ['page', 'dark', 'keyed', 'blank', 'night page', 'faint'] as const;
const CHANGES = ['stays', 'stays', 'stays', 'cuts', 'lights up', 'film'] as const;

/** Marks in a bezel: none on three of five devices, as a die says. */
const MARKED = 0.4;
/** Slices that a body's depth is drawn as: their straight sides run into one wall. */
const SLICES = 6;

/** What a body's side looks like, as a silhouette: lit from above, duller than the front's rim. */
export function bodySlice(die: Dice, kind: Kind): string {
  const k = 400 / Math.max(kind.width, kind.height);
  const [w, h] = [k * kind.width, k * kind.height];
  return silhouette(w, h, 1.5 * kind.radius * w, pickOf(die, 2, BODIES));
}

/** Depths in mm behind the front at which a body's slices lie, back to front. */
export function sliceDepths(die: Dice, kind: Kind): number[] {
  const depth = kind.depth * range(die, 42, 0.6, 1.3);
  return Array.from({ length: SLICES }, (_, i) => (depth * (SLICES - i)) / SLICES);
}

function picture(kind: string, w: number, h: number, seed: number): string {
  switch (kind) {
    case 'page':
      return art.logPage(w, h, seed);
    case 'night page':
      return art.logPage(w, h, seed, '#1d3440', '#b9cdd0');
    case 'faint':
      return `${art.darkGlass(w, h, '#15191d')}<g opacity="0.15">${art.logPage(w, h, seed, '#15191d', '#dfe8e4')}</g>`;
    case 'keyed':
      return art.greenWithCrosses(w, h);
    case 'blank':
      return art.darkGlass(w, h, ['#d4d8d2', '#7d8a94', '#c7b89a'][seed % 3]!);
    default:
      return art.darkGlass(w, h, ['#0e1216', '#16191c', '#20252a'][seed % 3]!);
  }
}

/** Which of several pictures is on the screen on a frame. */
type Playing = (time: number) => number;

function programme(
  die: Dice,
  frames: number,
): { readonly change: string; readonly pictures: number; readonly on: Playing } {
  const change = pickOf(die, 40, CHANGES);
  if (change === 'stays') return { change, pictures: 1, on: () => 0 };
  if (change === 'lights up') {
    const at = Math.round(frames * (0.2 + 0.6 * die(41)));
    return { change, pictures: 2, on: (t) => (Math.round(t) < at ? 0 : 1) };
  }
  const pictures = change === 'cuts' ? 3 : 8;
  const length = change === 'cuts' ? frames / 3 : frames / 24;
  return { change, pictures, on: (t) => Math.floor(Math.max(0, t) / length) % pictures };
}

export interface DeviceLook {
  /** SVGs of the device, one a picture that its screen shows */
  readonly pictures: readonly string[];
  /** which of them is seen on a frame */
  readonly on: Playing;
  readonly shows: string;
  readonly change: string;
}

export function deviceLook(die: Dice, frames: number, kind: Kind): DeviceLook {
  const k = 1600 / Math.max(kind.width, kind.height);
  const w = Math.round(k * kind.width);
  const h = Math.round(k * kind.height);
  const [l, t, r, b] = kind.glass;
  const shown = pickOf(die, 4, CONTENTS);
  const { change, pictures, on } = programme(die, frames);
  const contentOf = (n: number): string => {
    if (change === 'lights up') return n === 0 ? 'dark' : 'page';
    return n % 2 === 1 && pictures > 1 ? 'night page' : shown;
  };
  const look = (n: number): string =>
    art.device({
      width: w,
      height: h,
      glass: kind.glass,
      bodyRadius: 1.5 * kind.radius * w,
      glassRadius: kind.radius * w,
      body: pickOf(die, 2, BODIES),
      bezel: pickOf(die, 3, BEZELS),
      ...(die(43) < MARKED
        ? { mark: markIn(w / 2, ((1 + b) * h) / 2, 0.25 * (1 - b) * h, pickOf(die, 44, MARK_COLOURS)) }
        : {}),
      content: picture(contentOf(n), (r - l) * w, (b - t) * h, 1 + Math.floor(9 * die(5)) + 3 * n),
    });
  return {
    pictures: Array.from({ length: pictures }, (_, n) => look(n)),
    on,
    shows: change === 'lights up' ? 'dark' : shown,
    change,
  };
}
