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
import type { Kind } from './thrown-devices';
import { KINDS, bodySlice, deviceLook, sliceDepths } from './thrown-devices';
import type { Dice } from './thrown-ways';
import { WAYS, pickOf, range, way } from './thrown-ways';

/** Frames of a thrown shot: three seconds. */
const FRAMES = 72;
/** Share of the screen that must be seen on the reference frame: a person chooses a good one. */
const CLEAR = 0.97;
/** px at 1920 wide of smear that a person accepts on the reference frame. */
const SHARP = 4;

const COVERS = ['none', 'none', 'none', 'fingers', 'hand', 'passer-by'] as const;

/** What passes in front, drawn with its own softness (px of the drawing). */
const FRONTS: Readonly<Record<(typeof COVERS)[number], { svg(): string; readonly blur: number } | null>> = {
  none: null,
  fingers: { svg: () => art.wrappedTips(200, 220, 2), blur: 1 },
  hand: { svg: () => art.palm(300, 500), blur: 1.5 },
  'passer-by': { svg: () => art.passerBy(700, 1300), blur: 6 },
};

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

/** A thrown shot as its surfaces need it. */
interface Scene {
  readonly die: Dice;
  readonly place: (time: number) => Placement;
  readonly kind: Kind;
  /** mm; of the device, and its distance */
  readonly size: number;
  readonly away: number;
}

/** What the glass mirrors, each with a motion of its own. */
function reflections(pictures: readonly (Texture | null)[], { die, place, kind, size, away }: Scene): Surface[] {
  const glass = glassWindow(kind.glass, kind.radius);
  return pictures.flatMap((picture, i): Surface[] =>
    picture === null
      ? []
      : [
          {
            texture: still(picture),
            place: (time) =>
              placed(
                [range(die, 60 + i, -1.5, 1.5) * size + range(die, 62 + i, -0.04, 0.04) * size * time, -2 * away, size],
                [-1, 0, 0],
                [0, 0, -1],
                (i === 0 ? 6 : 3) * size,
                (i === 0 ? 4 : 3) * size,
              ),
            adds: true,
            level: () => range(die, 64 + i, 0.05, 0.4),
            mirror: { place, window: glass },
          },
        ],
  );
}

/** The wall of a device's body, which is seen from the side. */
function bodyWall(slice: Texture, { die, place, kind }: Scene): Surface[] {
  return sliceDepths(die, kind).map((depth) => ({
    texture: still(slice),
    place: (time) => onto(place(time), 0.5, 0.5, kind.width, kind.height, -depth),
  }));
}

/** What passes in front: fingers and a hand move with the device, a passer-by does not. */
function inFront(name: string, picture: Texture | null, { die, place, kind, size, away }: Scene): Surface[] {
  if (!picture) return [];
  const texture = still(picture);
  if (name === 'fingers') {
    const reach = (t: number): number => 1 - 0.5 * there(t, 20, 36, 44, 60);
    return [
      { texture, place: (t) => onto(place(t), reach(t), range(die, 23, 0.1, 0.9), 0.22 * size, 0.16 * size, 3, 3) },
    ];
  }
  if (name === 'hand')
    return [
      { texture, place: (t) => onto(place(t), range(die, 23, 0.2, 0.8), 1, 0.4 * kind.width, 0.5 * kind.width, 2, 0) },
    ];
  const passing = (t: number): Placement =>
    placed(
      [-1.4 * size + 0.06 * size * (t - 8), 0.55 * away, -0.1 * size],
      [1, 0, 0],
      [0, 0, -1],
      0.55 * size,
      0.95 * size,
    );
  return [{ texture, place: passing, level: () => 0.4 }];
}

interface Filming {
  readonly set: Omit<Set, 'width' | 'height' | 'frames' | 'view' | 'surfaces'>;
  readonly factors: Readonly<Record<string, string>>;
}

/**
 * Radial terms that are thrown, on half the picture's width. Beyond -4 / (27 r^2), r the picture's corner (1.147 at 16:9), a
 * barrel's radius u + k u^3 folds back before it reaches that corner, which no lens does: the picture would end in a black ring.
 */
export const LENSES: readonly [strongestBarrel: number, strongestPincushion: number] = [-0.1, 0.1];

/** Camera and light. */
function filming(die: Dice, frames: number): Filming {
  const between = (axis: number, a: number, b: number): number => range(die, axis, a, b);
  const pulled = die(70) < 0.18 ? between(71, 4, 10) : 0;
  const pullAt = between(72, 20, frames - 20);
  const dim = die(26) < 0.2;
  const repeats = die(73) < 0.12 ? 5 : 0;
  const lens = die(30) < 0.25 ? between(31, ...LENSES) : 0;
  const readout = die(28) < 0.35 ? between(29, 0.1, 0.6) : 0;
  const focal = between(32, 0.9, 1.5);
  const defocus = (time: number): number => pulled * there(time, pullAt - 10, pullAt, pullAt + 4, pullAt + 14);
  return {
    factors: {
      lens: lensClass(lens),
      readout: readout > 0 ? 'rows' : 'whole',
      light: dim ? 'dim' : 'bright',
      focus: pulled > 0 ? 'pulled' : 'held',
      repeats: repeats > 0 ? 'yes' : 'no',
    },
    set: {
      grain: dim ? between(27, 3, 7) : between(27, 0.8, 2.5),
      shutter: between(33, 0.2, 0.9),
      readout,
      lens,
      focal: () => focal,
      exposure: exposureOf(die(24), dim ? 0.25 : 1),
      ...(pulled > 0 ? { defocus } : {}),
      ...(repeats > 0 ? { shownOn: (n: number) => (n % repeats === repeats - 1 ? n - 1 : n) } : {}),
    },
  };
}

/** A fall of a stop and a half, a flicker, or steady light. */
function exposureOf(pick: number, whole: number): (time: number) => number {
  if (pick < 0.2) return (time) => whole * 2 ** (0.4 - 1.6 * ease(time, 20, 50));
  if (pick < 0.4) return (time) => whole * 0.85 * (1 + 0.2 * Math.sin(time * 1.9));
  return () => whole;
}

function lensClass(radial: number): string {
  if (radial === 0) return 'none';
  return radial < -0.05 || radial > 0.05 ? 'strong' : 'slight';
}

/** How the device is held: the hand's unrest over its own way. */
function heldBy(seed: number, die: Dice, frames: number, kind: Kind): Scene & { wayName: string; unrest: number } {
  const size = Math.max(kind.width, 1.2 * kind.height);
  const away = size * range(die, 9, 1.5, 3.4);
  const unrest = die(7) < 0.3 ? range(die, 8, 2, 4) : range(die, 8, 0.3, 1.2);
  const wayName = pickOf(die, 6, WAYS);
  const moves = way(wayName, die, frames);
  const lean = [range(die, 11, -0.45, 0.45), range(die, 12, -0.3, 0.3), range(die, 13, -0.25, 0.25)] as const;
  const shake = (time: number, axis: number, period: number): number =>
    0.05 * unrest * wobble(time, seed + axis, period);
  const place = (time: number): Placement => {
    const { x = 0, y = 0, z = 0, yaw = 0, pitch = 0, roll = 0 } = moves(time);
    return turned(
      [size * (x + shake(time, 1, 15)), away * (1 - y), size * (z + shake(time, 2, 13))],
      kind.width,
      kind.height,
      lean[0] + yaw + shake(time, 3, 16),
      lean[1] + pitch + shake(time, 4, 14),
      lean[2] + roll,
    );
  };
  return { die, place, kind, size, away, wayName, unrest };
}

/** @param seed any whole number; the same number gives the same shot */
export async function thrown(
  seed: number,
  film: FilmSize,
  draw: typeof textureFromSvg = textureFromSvg,
): Promise<DemoShot> {
  const die: Dice = (axis) => hash(seed, axis, 9151);
  const frames = film.frames ?? FRAMES;
  const kind = pickOf(die, 1, KINDS);
  const scene = heldBy(seed, die, frames, kind);
  const { place, size, away, unrest } = scene;
  const look = deviceLook(die, frames, kind);
  const covered = pickOf(die, 22, COVERS);
  const front = FRONTS[covered];
  const mirrored = Math.floor(3 * die(20));
  const [back, slice, room, lamp, before, ...devices] = await Promise.all([
    draw(art.loft(1500, 920), range(die, 19, 0.6, 5)),
    draw(bodySlice(die, kind)),
    mirrored > 0 ? draw(art.windowLight(750, 475, 0.9), 2) : null,
    mirrored > 1 ? draw(art.spot(300), 3) : null,
    front ? draw(front.svg(), front.blur) : null,
    ...look.pictures.map((svg) => draw(svg)),
  ]);
  const camera = filming(die, frames);
  const set: Set = {
    ...base(film, frames),
    ...camera.set,
    frames,
    view: handheld(
      () => [0, 0, 0],
      () => [0, away, 0],
      0.0015 * size * unrest,
      seed,
    ),
    surfaces: [
      wall(back!, 3 * away, 9 * away, 5.6 * away),
      ...bodyWall(slice!, scene),
      { texture: (time) => devices[look.on(time)]!, place },
      ...reflections([room, lamp], scene),
      ...inFront(covered, before, scene),
    ],
  };
  return {
    reference: goodFrame(set, place, kind.glass, Math.floor(range(die, 25, 0, frames - 1))),
    screens: [{ name: `thrown ${kind.device}`, device: kind.device, place, glass: kind.glass }],
    set,
    rateFactor: Math.round(range(die, 74, 18, 32)),
    factors: {
      device: kind.device,
      shows: look.shows,
      change: look.change,
      way: scene.wayName,
      cover: covered,
      mirrored: String(mirrored),
      ...camera.factors,
    },
  };
}
