/**
 * Shots thrown by dice, generated on demand (`--shot diced-7`): device, picture, place, movement, light, cover and
 * camera are drawn by the number, so that following can be measured on footage nobody has looked at while choosing its
 * defaults.
 */
import { hash } from '../noise';
import * as art from './art';
import type { DemoShot, FilmSize } from './shots';
import { base, ease, glassWindow, handheld, onto, still, tableTop, there, turned, wall, wobble } from './shots';
import type { Placement, Surface } from './stage';
import { placed } from './stage';
import { textureFromSvg } from './texture';

/** Frames of a thrown shot: three seconds. */
const FRAMES = 72;
const BODIES = ['#5c6a70', '#b9b4a8', '#22262a', '#6a3f36', '#8a8074'] as const;
const BEZELS = ['#0c0e10', '#2b2d30', '#17181a', '#dcd8cf', '#0c0e10'] as const;

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
  { device: 'tablet', width: 250, height: 178, glass: [0.045, 0.06, 0.955, 0.94], radius: 0.012 },
  { device: 'laptop', width: 320, height: 210, glass: [0.024, 0.04, 0.976, 0.92], radius: 0.004 },
  { device: 'tv', width: 980, height: 570, glass: [0.014, 0.025, 0.986, 0.96], radius: 0.001 },
];

function content(pick: number, w: number, h: number, seed: number): string {
  if (pick < 0.35)
    return art.logPage(w, h, seed, ['#e9e3d2', '#1d3440', '#dfe8e4'][seed % 3], seed % 3 === 1 ? '#b9cdd0' : '#22313a');
  if (pick < 0.6) return art.darkGlass(w, h, ['#0e1216', '#16191c', '#20252a'][seed % 3]!);
  if (pick < 0.85) return art.greenWithCrosses(w, h);
  return art.darkGlass(w, h, '#d4d8d2');
}

/**
 * @param seed any whole number; the same number gives the same shot
 * @param draw makes the pictures; where only places are asked for, they need not be drawn
 */
export async function diced(
  seed: number,
  film: FilmSize,
  draw: typeof textureFromSvg = textureFromSvg,
): Promise<DemoShot> {
  const die = (axis: number): number => hash(seed, axis, 4711);
  const between = (axis: number, a: number, b: number): number => a + (b - a) * die(axis);
  const kind = KINDS[Math.floor(4 * die(1))]!;
  const k = 1600 / Math.max(kind.width, kind.height);
  const w = Math.round(k * kind.width);
  const h = Math.round(k * kind.height);
  const [l, t, r, b] = kind.glass;
  const look = art.device({
    width: w,
    height: h,
    glass: kind.glass,
    bodyRadius: 1.5 * kind.radius * w,
    glassRadius: kind.radius * w,
    body: BODIES[Math.floor(5 * die(2))]!,
    bezel: BEZELS[Math.floor(5 * die(3))]!,
    content: content(die(4), (r - l) * w, (b - t) * h, 1 + Math.floor(9 * die(5))),
  });
  const lying = kind.device === 'phone' && die(6) < 0.6;
  const haste = die(7) < 0.3 ? between(8, 2, 4) : between(8, 0.4, 1.2);
  const frames = film.frames ?? FRAMES;
  const size = Math.max(kind.width, 1.2 * kind.height);
  const away = size * between(9, 1.6, 3);
  const nearer = between(10, 0.5, 1);
  const yaw = die(11) < 0.4 ? between(12, -1.2, 1.2) : between(12, -0.35, 0.35);
  const roll = between(13, -0.3, 0.3);
  const at = between(14, 0.25, 0.6) * frames;
  const swing = die(15) < 0.35 ? between(16, -0.55, 0.55) * size : 0;
  const held = (time: number): Placement =>
    turned(
      [
        swing * there(time, at - 9, at, at + 3, at + 14) + 0.05 * haste * size * wobble(time, 1, 15),
        away * (1 - (1 - nearer) * ease(time, 6, frames - 12)),
        0.05 * haste * size * wobble(time, 2, 13),
      ],
      kind.width,
      kind.height,
      yaw * there(time, 8, frames / 2, frames / 2 + 4, frames - 4) + 0.05 * haste * wobble(time, 3, 16),
      between(17, -0.25, 0.25) + 0.05 * haste * wobble(time, 4, 14),
      roll * Math.sin(time / between(18, 12, 30)),
    );
  const flat = (): Placement => placed([0, 0, 6], [1, roll, 0], [roll, -1, 0], kind.width, kind.height);
  const place = lying ? flat : held;
  const [device, back, room, tips, person] = await Promise.all([
    draw(look),
    draw(
      lying ? art.cloth(2400, 1800, [0.435, 0.37, 0.15, 0.29]) : art.loft(2600, 1600),
      lying ? 0 : between(19, 2, 8),
    ),
    draw(art.windowLight(1500, 950, 0.9), 4),
    draw(art.wrappedTips(200, 220, 1), 1.5),
    draw(art.passerBy(700, 1300), 6),
  ]);
  const steady = handheld(
    () => [0, 0, 0],
    () => [0, away, 0],
    0.0015 * size * haste,
    seed,
  );
  const above = handheld(
    (time) => [0.5 * size * Math.sin(time / 25), -0.75 * away, 0.75 * away - 0.2 * size * ease(time, 5, frames)],
    () => [0, 0, 0],
    0.003 * size * haste,
    seed,
  );
  const glare = die(20) < 0.5 ? between(21, 0.05, 0.3) : 0;
  const cover = die(22);
  const surfaces: Surface[] = [
    lying ? tableTop(back, 12 * size, 9 * size) : wall(back, 3 * away, 9 * away, 5.6 * away),
    { texture: still(device), place },
  ];
  if (glare > 0)
    surfaces.push({
      texture: still(room),
      place: () =>
        lying
          ? placed([30, 40, 6 * size], [1, 0, 0], [0, -1, 0], 9 * size, 6 * size)
          : placed([0.5 * size, -2 * away, size], [-1, 0, 0], [0, 0, -1], 9 * size, 6 * size),
      adds: true,
      level: () => glare,
      mirror: { place, window: glassWindow(kind.glass, kind.radius) },
    });
  if (cover < 0.35)
    surfaces.push({
      texture: still(tips),
      place: (time) =>
        onto(place(time), 1 - 0.5 * there(time, 20, 36, 44, 60), between(23, 0.1, 0.9), 0.22 * size, 0.16 * size, 3, 3),
    });
  else if (cover < 0.6 && !lying)
    surfaces.push({
      texture: still(person),
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
  const light = die(24);
  return {
    reference: Math.floor(between(25, 0, frames - 1)),
    screens: [{ name: `diced ${kind.device}`, device: kind.device, place, glass: kind.glass }],
    set: {
      ...base(film, frames),
      frames,
      grain: between(26, 0.8, 2.5),
      shutter: between(27, 0.3, 0.9),
      readout: die(28) < 0.35 ? between(29, 0.1, 0.5) : 0,
      lens: die(30) < 0.2 ? between(31, -0.09, -0.03) : 0,
      focal: () => between(32, 1, 1.3),
      view: lying ? above : steady,
      surfaces,
      exposure: (time) => {
        if (light < 0.25) return 2 ** (0.4 - 1.6 * ease(time, 20, 50));
        if (light < 0.5) return 0.85 * (1 + 0.2 * Math.sin(time * 1.9));
        return 1;
      },
    },
  };
}
