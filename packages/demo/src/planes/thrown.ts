/**
 * Shots thrown wide by dice (`--shot thrown-7`): everything that makes following hard is drawn by the number, over ranges as
 * wide as practice has them, so that defaults can be judged on footage that nobody has looked at while choosing them. What was
 * drawn stands in the truth file as `factors`, by which figures can be told apart.
 */
import { hash } from '../noise';
import * as art from './art';
import type { DemoShot, FilmSize } from './shots';
import { base, ease, glassWindow, handheld, onto, still, there, turned, wall, wobble } from './shots';
import type { Placement, Set, Surface } from './stage';
import { pathLength, placed, visibleShare } from './stage';
import type { Texture } from './texture';
import { textureFromSvg } from './texture';

/** Frames of a thrown shot: three seconds. */
const FRAMES = 72;
/** Share of the screen that must be seen on the reference frame: a person chooses a good one. */
const CLEAR = 0.97;
/** px at 1920 wide of smear that a person accepts on the reference frame. */
const SHARP = 4;

interface Kind {
  readonly device: string;
  /** mm */
  readonly width: number;
  readonly height: number;
  readonly glass: readonly [number, number, number, number];
  readonly radius: number;
}

const KINDS: readonly Kind[] = [
  { device: 'phone', width: 75, height: 158, glass: [0.04, 0.045, 0.96, 0.955], radius: 0.06 },
  { device: 'phone', width: 72, height: 150, glass: [0.03, 0.018, 0.97, 0.982], radius: 0.1 },
  { device: 'tablet', width: 250, height: 178, glass: [0.045, 0.06, 0.955, 0.94], radius: 0.012 },
  { device: 'laptop', width: 320, height: 210, glass: [0.024, 0.04, 0.976, 0.92], radius: 0.004 },
  { device: 'laptop', width: 340, height: 224, glass: [0.012, 0.018, 0.988, 0.95], radius: 0.006 },
  { device: 'tv', width: 980, height: 570, glass: [0.014, 0.025, 0.986, 0.96], radius: 0.001 },
  { device: 'tv', width: 1220, height: 700, glass: [0.005, 0.009, 0.995, 0.985], radius: 0 },
];
const BODIES = ['#5c6a70', '#b9b4a8', '#22262a', '#6a3f36', '#8a8074', '#101214', '#e4e2dc'] as const;
const BEZELS = ['#0c0e10', '#2b2d30', '#17181a', '#dcd8cf', '#050607', '#8d9094'] as const;
const CONTENTS = ['page', 'dark', 'keyed', 'blank', 'night page', 'faint'] as const;
const CHANGES = ['stays', 'stays', 'stays', 'cuts', 'lights up', 'film'] as const;
const WAYS = ['drifts', 'drifts', 'turns', 'tips', 'jumps', 'swings', 'leaves', 'nears'] as const;
const COVERS = ['none', 'none', 'none', 'fingers', 'hand', 'passer-by'] as const;

/** What passes in front, drawn with its own softness (px of the drawing). */
const FRONTS: Readonly<Record<(typeof COVERS)[number], { svg(): string; readonly blur: number } | null>> = {
  none: null,
  fingers: { svg: () => art.wrappedTips(200, 220, 2), blur: 1 },
  hand: { svg: () => art.palm(300, 500), blur: 1.5 },
  'passer-by': { svg: () => art.passerBy(700, 1300), blur: 6 },
};

type Dice = (axis: number) => number;

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
  const change = CHANGES[Math.floor(CHANGES.length * die(40))]!;
  if (change === 'stays') return { change, pictures: 1, on: () => 0 };
  if (change === 'lights up') {
    const at = Math.round(frames * (0.2 + 0.6 * die(41)));
    return { change, pictures: 2, on: (t) => (Math.round(t) < at ? 0 : 1) };
  }
  const pictures = change === 'cuts' ? 3 : 8;
  const length = change === 'cuts' ? frames / 3 : frames / 24;
  return { change, pictures, on: (t) => Math.floor(Math.max(0, t) / length) % pictures };
}

interface Moves {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly yaw: number;
  readonly pitch: number;
  readonly roll: number;
}

/** How the device moves apart from the hand's own unrest, in its own sizes and radians. */
function way(name: string, die: Dice, frames: number): (t: number) => Partial<Moves> {
  const sign = die(50) < 0.5 ? -1 : 1;
  const m = frames * (0.35 + 0.35 * die(51));
  const much = 0.4 + 0.6 * die(52);
  switch (name) {
    case 'turns':
      return (t) => ({ roll: sign * 1.57 * much * ease(t, m - 6, m + 6) });
    case 'tips':
      return (t) => ({ pitch: sign * 1.36 * much * there(t, m - 7, m, m + 3, m + 10) });
    case 'jumps':
      return (t) => ({ x: sign * 0.35 * much * ease(t, m, m + 1.5), z: 0.2 * much * ease(t, m + 12, m + 13) });
    case 'swings':
      return (t) => ({ x: sign * 0.7 * much * there(t, m - 8, m, m + 5, m + 13) });
    case 'leaves':
      return (t) => ({ x: sign * 1.1 * much * there(t, m - 10, m, m + 8, m + 18) });
    case 'nears':
      return (t) => ({
        y: (0.6 * much - 0.3) * ease(t, 6, frames - 10),
        yaw: 0.6 * sign * much * there(t, 8, m, m + 6, frames),
      });
    default:
      return (t) => ({ yaw: 0.35 * sign * much * Math.sin(t / 14), roll: 0.2 * much * Math.sin(t / 19) });
  }
}

/** The frame nearest to a thrown one on which a person would set the corners; the clearest where there is none. */
function goodFrame(set: Set, place: (time: number) => Placement, glass: Kind['glass'], from: number): number {
  const self = set.surfaces.findIndex((s) => s.place === place && !s.adds);
  const k = 1920 / set.width;
  const order = Array.from({ length: set.frames }, (_, n) => n).sort((a, b) => Math.abs(a - from) - Math.abs(b - from));
  const seen = (n: number): number => visibleShare(set, self, place, glass, n);
  const focused = (n: number): boolean => (set.defocus?.(n) ?? 0) < 1;
  const found = order.find((n) => focused(n) && pathLength(set, n, place) * k < SHARP && seen(n) > CLEAR);
  return found ?? order.reduce((best, n) => (seen(n) > seen(best) ? n : best));
}

function lensClass(radial: number): string {
  if (radial === 0) return 'none';
  return radial < -0.12 || radial > 0.05 ? 'strong' : 'slight';
}

/** @param seed any whole number; the same number gives the same shot */
export async function thrown(
  seed: number,
  film: FilmSize,
  draw: typeof textureFromSvg = textureFromSvg,
): Promise<DemoShot> {
  const die: Dice = (axis) => hash(seed, axis, 9151);
  const between = (axis: number, a: number, b: number): number => a + (b - a) * die(axis);
  const pick = <T>(axis: number, list: readonly T[]): T => list[Math.floor(list.length * die(axis))]!;
  const frames = film.frames ?? FRAMES;
  const kind = pick(1, KINDS);
  const k = 1600 / Math.max(kind.width, kind.height);
  const w = Math.round(k * kind.width);
  const h = Math.round(k * kind.height);
  const [l, t, r, b] = kind.glass;
  const shown = pick(4, CONTENTS);
  const playing = programme(die, frames);
  const body = pick(2, BODIES);
  const bezel = pick(3, BEZELS);
  const look = (content: string, n: number): string =>
    art.device({
      width: w,
      height: h,
      glass: kind.glass,
      bodyRadius: 1.5 * kind.radius * w,
      glassRadius: kind.radius * w,
      body,
      bezel,
      content: picture(content, (r - l) * w, (b - t) * h, 1 + Math.floor(9 * die(5)) + 3 * n),
    });
  const contentOf = (n: number): string => {
    if (playing.change === 'lights up') return n === 0 ? 'dark' : 'page';
    return n % 2 === 1 && playing.pictures > 1 ? 'night page' : shown;
  };
  const size = Math.max(kind.width, 1.2 * kind.height);
  const away = size * between(9, 1.5, 3.4);
  const unrest = die(7) < 0.3 ? between(8, 2, 4) : between(8, 0.3, 1.2);
  const wayName = pick(6, WAYS);
  const moves = way(wayName, die, frames);
  const lean = [between(11, -0.45, 0.45), between(12, -0.3, 0.3), between(13, -0.25, 0.25)] as const;
  const place = (time: number): Placement => {
    const { x = 0, y = 0, z = 0, yaw = 0, pitch = 0, roll = 0 } = moves(time);
    return turned(
      [
        size * (x + 0.05 * unrest * wobble(time, seed + 1, 15)),
        away * (1 - y),
        size * (z + 0.05 * unrest * wobble(time, seed + 2, 13)),
      ],
      kind.width,
      kind.height,
      lean[0] + yaw + 0.05 * unrest * wobble(time, seed + 3, 16),
      lean[1] + pitch + 0.05 * unrest * wobble(time, seed + 4, 14),
      lean[2] + roll,
    );
  };
  const covered = pick(22, COVERS);
  const mirrored = Math.floor(3 * die(20));
  const front = FRONTS[covered];
  const [back, room, lamp, before, ...devices] = await Promise.all([
    draw(art.loft(1500, 920), between(19, 0.6, 5)),
    mirrored > 0 ? draw(art.windowLight(750, 475, 0.9), 2) : null,
    mirrored > 1 ? draw(art.spot(300), 3) : null,
    front ? draw(front.svg(), front.blur) : null,
    ...Array.from({ length: playing.pictures }, (_, n) => draw(look(contentOf(n), n))),
  ]);
  const onScreen = (time: number): Texture => devices[playing.on(time)]!;
  const surfaces: Surface[] = [wall(back!, 3 * away, 9 * away, 5.6 * away), { texture: onScreen, place }];
  const glass = glassWindow(kind.glass, kind.radius);
  for (let i = 0; i < mirrored; i++)
    surfaces.push({
      texture: still(i === 0 ? room! : lamp!),
      place: (time) =>
        placed(
          [between(60 + i, -1.5, 1.5) * size + between(62 + i, -0.04, 0.04) * size * time, -2 * away, size],
          [-1, 0, 0],
          [0, 0, -1],
          (i === 0 ? 6 : 3) * size,
          (i === 0 ? 4 : 3) * size,
        ),
      adds: true,
      level: () => between(64 + i, 0.05, 0.4),
      mirror: { place, window: glass },
    });
  if (covered === 'fingers')
    surfaces.push({
      texture: still(before!),
      place: (time) =>
        onto(place(time), 1 - 0.5 * there(time, 20, 36, 44, 60), between(23, 0.1, 0.9), 0.22 * size, 0.16 * size, 3, 3),
    });
  if (covered === 'hand')
    surfaces.push({
      texture: still(before!),
      place: (time) => onto(place(time), between(23, 0.2, 0.8), 1, 0.4 * kind.width, 0.5 * kind.width, 2, 0),
    });
  if (covered === 'passer-by')
    surfaces.push({
      texture: still(before!),
      place: (time) =>
        placed(
          [-1.4 * size + 0.06 * size * (time - 8), 0.55 * away, -0.1 * size],
          [1, 0, 0],
          [0, 0, -1],
          0.55 * size,
          0.95 * size,
        ),
      level: () => 0.4,
    });
  const pulled = die(70) < 0.18 ? between(71, 4, 10) : 0;
  const pullAt = between(72, 20, frames - 20);
  const dim = die(26) < 0.2;
  const repeats = die(73) < 0.12 ? 5 : 0;
  const light = die(24);
  const lens = die(30) < 0.25 ? between(31, -0.3, 0.1) : 0;
  const readout = die(28) < 0.35 ? between(29, 0.1, 0.6) : 0;
  const focal = between(32, 0.9, 1.5);
  const set: Set = {
    ...base(film, frames),
    frames,
    grain: dim ? between(27, 3, 7) : between(27, 0.8, 2.5),
    shutter: between(33, 0.2, 0.9),
    readout,
    lens,
    focal: () => focal,
    view: handheld(
      () => [0, 0, 0],
      () => [0, away, 0],
      0.0015 * size * unrest,
      seed,
    ),
    surfaces,
    exposure: (time) => {
      const whole = dim ? 0.25 : 1;
      if (light < 0.2) return whole * 2 ** (0.4 - 1.6 * ease(time, 20, 50));
      if (light < 0.4) return whole * 0.85 * (1 + 0.2 * Math.sin(time * 1.9));
      return whole;
    },
    ...(pulled > 0
      ? { defocus: (time: number) => pulled * there(time, pullAt - 10, pullAt, pullAt + 4, pullAt + 14) }
      : {}),
    ...(repeats > 0 ? { shownOn: (n: number) => (n % repeats === repeats - 1 ? n - 1 : n) } : {}),
  };
  return {
    reference: goodFrame(set, place, kind.glass, Math.floor(between(25, 0, frames - 1))),
    screens: [{ name: `thrown ${kind.device}`, device: kind.device, place, glass: kind.glass }],
    set,
    rateFactor: Math.round(between(74, 18, 32)),
    factors: {
      device: kind.device,
      shows: playing.change === 'lights up' ? 'dark' : shown,
      change: playing.change,
      way: wayName,
      cover: covered,
      mirrored: String(mirrored),
      lens: lensClass(lens),
      readout: readout > 0 ? 'rows' : 'whole',
      light: dim ? 'dim' : 'bright',
      focus: pulled > 0 ? 'pulled' : 'held',
      repeats: repeats > 0 ? 'yes' : 'no',
    },
  };
}
