/** The shots of The Tidewater Post that are built of flat things: what stands where, and how it and the camera move. */
import { clamp } from '@yarlop/core/clamp';
import type { View } from '../camera';
import { lookAt } from '../camera';
import { valueNoise } from '../noise';
import type { Vec } from '../vector';
import { add, cross, normalise, scale } from '../vector';
import * as art from './art';
import type { Placement, Set, Surface, Window } from './stage';
import { placed, seenAt, undistort } from './stage';
import type { Texture } from './texture';
import { textureFromSvg } from './texture';

export interface DemoScreen {
  readonly name: string;
  readonly device: string;
  readonly place: (time: number) => Placement;
  /** glass inside the device, shares */
  readonly glass: readonly [number, number, number, number];
  /**
   * what passes in front and tells of itself by no colour of its own: outlines, shares of a placement, as somebody
   * would draw them by hand
   */
  readonly fronts?: readonly Front[];
}

export interface Front {
  readonly place: (time: number) => Placement;
  readonly outline: readonly (readonly [number, number])[];
  /** width of its soft edge, share of the placement's width */
  readonly soft: number;
}

export interface DemoShot {
  readonly set: Set;
  readonly screens: readonly DemoScreen[];
  readonly reference: number;
  /** how strongly the clip is compressed: x264's rate factor; 24 when left out */
  readonly rateFactor?: number;
  /** what was thrown, by name, for figures by each */
  readonly factors?: Readonly<Record<string, string>>;
}

export interface FilmSize {
  readonly width: number;
  readonly height: number;
  /** fewer or more frames than the shot's own */
  readonly frames?: number;
  /** SVG that every screen shows in place of its own: the finished picture as a camera would have filmed it */
  readonly fill?: string;
  /** in place of the shot's own, 0 for none */
  readonly grain?: number;
}

/** What a screen shows: its own, or what was asked for. */
const onScreen = (film: FilmSize, own: string): string => film.fill ?? own;

export const wobble = (t: number, seed: number, period: number): number =>
  valueNoise(t / period, seed, 300 + seed) + 0.5 * valueNoise((2.3 * t) / period, seed, 340 + seed) - 0.75;
export const ease = (t: number, a: number, b: number): number => {
  const x = clamp((t - a) / (b - a), 0, 1);
  return x * x * (3 - 2 * x);
};
export const there = (t: number, a: number, b: number, c: number, d: number): number =>
  ease(t, a, b) * (1 - ease(t, c, d));

/** Upright and facing the camera (which looks along +y), then rolled, pitched and yawed (radians). */
export function turned(
  centre: Vec,
  width: number,
  height: number,
  yaw: number,
  pitch: number,
  roll: number,
): Placement {
  const spin = ([x, y, z]: Vec): Vec => {
    const [a, c] = [x * Math.cos(roll) + z * Math.sin(roll), -x * Math.sin(roll) + z * Math.cos(roll)];
    const [b, d] = [y * Math.cos(pitch) + c * Math.sin(pitch), -y * Math.sin(pitch) + c * Math.cos(pitch)];
    return [a * Math.cos(yaw) - b * Math.sin(yaw), a * Math.sin(yaw) + b * Math.cos(yaw), d];
  };
  return placed(centre, spin([1, 0, 0]), spin([0, 0, -1]), width, height);
}

/** A smaller thing on a placement: centre in shares, size in mm, lifted off it towards the camera, turned in it. */
export function onto(p: Placement, u: number, v: number, width: number, height: number, lift = 0, turn = 0): Placement {
  const a = normalise(p.across);
  const d = normalise(p.down);
  const n = cross(d, a);
  const c = Math.cos(turn);
  const s = Math.sin(turn);
  return placed(
    add(add(add(p.origin, p.across, u), p.down, v), n, lift),
    add(scale(a, c), d, s),
    add(scale(d, c), a, -s),
    width,
    height,
  );
}

/** A hand whose fingertip touches a point of a placement (shares), `turn` radians off upright. */
function pointingAt(
  p: Placement,
  u: number,
  v: number,
  width: number,
  height: number,
  lift: number,
  turn: number,
): Placement {
  const at = onto(p, u, v, width, height, lift, turn);
  return { ...at, origin: add(add(at.origin, at.across, 0.5 - art.FINGERTIP[0]), at.down, 0.5 - art.FINGERTIP[1]) };
}

export function handheld(
  eye: (t: number) => Vec,
  target: (t: number) => Vec,
  shake: number,
  seed: number,
): (t: number) => View {
  return (t) =>
    lookAt(
      add(eye(t), [wobble(t, seed, 13), wobble(t, seed + 1, 17), wobble(t, seed + 2, 15)], 4 * shake),
      add(target(t), [wobble(t, seed + 3, 11), 0, wobble(t, seed + 4, 12)], 5 * shake),
      0.006 * shake * wobble(t, seed + 5, 19),
    );
}

export const still = (texture: Texture) => (): Texture => texture;
export const wall = (texture: Texture, y: number, width: number, height: number, z = 0): Surface => ({
  texture: still(texture),
  place: () => placed([0, y, z], [1, 0, 0], [0, 0, -1], width, height),
  level: () => 1.9,
});
export const tableTop = (texture: Texture, size: number, depth: number, at: Vec = [0, 0, 0]): Surface => ({
  texture: still(texture),
  place: () => placed(at, [1, 0, 0], [0, -1, 0], size, depth),
  level: () => 1.5,
});

export function glassWindow(g: readonly [number, number, number, number], radius: number): Window {
  return { x0: g[0], y0: g[1], x1: g[2], y1: g[3], radius };
}

interface Make {
  (film: FilmSize): Promise<DemoShot>;
}

export const base = (
  film: FilmSize,
  frames: number,
): Pick<Set, 'width' | 'height' | 'frames' | 'lens' | 'readout' | 'shutter' | 'grain' | 'exposure'> => ({
  width: film.width,
  height: film.height,
  frames: film.frames ?? frames,
  lens: 0,
  readout: 0,
  shutter: 0.5,
  grain: film.grain ?? 1,
  exposure: () => 1,
});

/**
 * The harbour phone picked up and turned in the hand: green with five crosses, a thumb wandering over crosses and a
 * corner.
 */
const phoneInHand: Make = async (film) => {
  const glass = [0.045, 0.05, 0.955, 0.95] as const;
  const w = 760;
  const h = 1600;
  const look = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 96,
    glassRadius: 26,
    body: '#5c6a70',
    bezel: '#0c0e10',
    content: onScreen(film, art.greenWithCrosses(w * 0.91, h * 0.9)),
  });
  const [phone, hand, pointing, tips, back, room] = await Promise.all([
    textureFromSvg(look),
    textureFromSvg(art.palm(900, 1900), 2),
    textureFromSvg(art.pointingHand(560, 1260), 1.5),
    textureFromSvg(art.wrappedTips(200, 330, 2), 1.5),
    textureFromSvg(art.loft(2400, 1500), 12),
    textureFromSvg(art.windowLight(1400, 900, 0.9), 10),
  ]);
  const place = (t: number): Placement =>
    turned(
      [
        14 * wobble(t, 1, 20) + 30 * ease(t, 20, 60),
        420 - 150 * ease(t, 30, 90) + 30 * ease(t, 100, 120),
        8 * wobble(t, 2, 16),
      ],
      76,
      160,
      0.75 * Math.sin(t / 17) * ease(t, 8, 30),
      0.35 * Math.sin(t / 23 + 1),
      0.5 * Math.sin(t / 29) + 0.05 * wobble(t, 3, 9),
    );
  return {
    reference: 12,
    screens: [{ name: 'harbour phone', device: 'phone', place, glass }],
    set: {
      ...base(film, 120),
      focal: () => 1.15,
      view: handheld(
        () => [0, 0, 0],
        () => [0, 400, 0],
        0.4,
        20,
      ),
      surfaces: [
        wall(back, 1500, 2600, 1600),
        { texture: still(hand), place: (t) => onto(place(t), 0.62, 1.08, 130, 276, -9, 0.06) },
        { texture: still(phone), place },
        {
          texture: still(room),
          place: () => placed([0, -900, 60], [-1, 0, 0], [0, 0, -1], 1500, 950),
          adds: true,
          level: () => 0.035,
          mirror: { place, window: glassWindow(glass, 0.03) },
        },
        {
          texture: still(pointing),
          place: (t) =>
            pointingAt(
              place(t),
              0.62 - 0.5 * there(t, 26, 44, 58, 74) + 0.1 * wobble(t, 6, 8),
              0.62 + 0.05 * wobble(t, 7, 9) - 0.5 * there(t, 80, 92, 102, 114),
              88,
              198,
              6,
              -0.65 + 0.3 * there(t, 30, 50, 60, 80),
            ),
        },
        {
          texture: still(tips),
          place: (t) => onto(place(t), -0.05 + 0.06 * ease(t, 40, 60), 0.55 + 0.02 * wobble(t, 8, 14), 24, 38, 3),
        },
      ],
    },
  };
};

/**
 * The logbook laptop: glass dark and flat, its bezel hardly lighter, window light sliding over it; a side leaves the
 * picture.
 */
const logbookLaptop: Make = async (film) => {
  const glass = [0.022, 0.04, 0.978, 0.935] as const;
  const w = 1500;
  const h = 980;
  const lid = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 30,
    glassRadius: 7,
    body: '#75797d',
    bezel: '#1d1f22',
    content: onScreen(film, art.darkGlass(w, h, '#0f1114')),
  });
  const [laptop, keys, table, back, room] = await Promise.all([
    textureFromSvg(lid),
    textureFromSvg(art.keyboard(1500, 1000)),
    textureFromSvg(art.boards(2600, 1500, [0.29, 0.3, 0.42, 0.42])),
    textureFromSvg(art.loft(2400, 1500), 10),
    textureFromSvg(art.windowLight(1800, 1100, 0.85), 3),
  ]);
  const tilt = 0.3;
  const size: [number, number] = [330, 216];
  const place = (): Placement =>
    turned([0, (Math.sin(tilt) * size[1]) / 2, (Math.cos(tilt) * size[1]) / 2 + 8], ...size, 0.06, tilt, 0);
  const eye = (t: number): Vec => [
    -330 + 520 * ease(t, 0, 118),
    -720 + 240 * ease(t, 30, 100),
    330 - 60 * ease(t, 20, 100),
  ];
  return {
    reference: 22,
    screens: [{ name: 'logbook laptop', device: 'laptop', place, glass }],
    set: {
      ...base(film, 120),
      focal: () => 1.1,
      view: handheld(
        eye,
        (t) => [-10 + 120 * there(t, 60, 80, 92, 112), 0, 92 + 30 * there(t, 62, 82, 92, 112)],
        0.9,
        40,
      ),
      surfaces: [
        wall(back, 1300, 3400, 2100, 500),
        tableTop(table, 1700, 1100),
        { texture: still(keys), place: () => placed([0, -116, 6], [1, 0.06, 0], [0.06, -1, 0], 330, 216) },
        { texture: still(laptop), place },
        {
          texture: still(room),
          place: () => placed([60, -1500, 400], [-1, 0, 0], [0, 0, -1], 2200, 1400),
          adds: true,
          level: () => 0.2,
          mirror: { place, window: glassWindow(glass, 0.005) },
        },
      ],
    },
  };
};

/** The chart tablet swung round in haste, half out of the picture; read out row by row. */
const chartTablet: Make = async (film) => {
  const glass = [0.05, 0.065, 0.95, 0.935] as const;
  const w = 1500;
  const h = 1080;
  const look = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 60,
    glassRadius: 10,
    body: '#3b4247',
    bezel: '#141618',
    content: onScreen(film, art.logPage(w * 0.9, h * 0.87, 5)),
  });
  const [tablet, hand, tips, back, room] = await Promise.all([
    textureFromSvg(look),
    textureFromSvg(art.palm(900, 1700), 2),
    textureFromSvg(art.wrappedTips(200, 220, 1), 1.5),
    textureFromSvg(art.loft(2400, 1500), 8),
    textureFromSvg(art.windowLight(1400, 900, 0.8), 8),
  ]);
  const swing = (t: number): number => 260 * there(t, 26, 48, 52, 72) - 210 * there(t, 78, 96, 98, 116);
  const place = (t: number): Placement =>
    turned(
      [
        swing(t) + 6 * wobble(t, 1, 14),
        520 - 60 * there(t, 36, 50, 60, 76),
        5 * wobble(t, 2, 12) + 30 * there(t, 40, 48, 52, 64),
      ],
      250,
      180,
      0.25 * Math.sin(t / 15) - swing(t) / 900,
      0.1 * wobble(t, 3, 18),
      0.3 * there(t, 28, 46, 54, 72) - 0.35 * there(t, 80, 94, 100, 116) + 0.04 * wobble(t, 4, 10),
    );
  return {
    reference: 8,
    screens: [{ name: 'chart tablet', device: 'tablet', place, glass }],
    set: {
      ...base(film, 120),
      readout: 0.35,
      focal: () => 1.2,
      view: handheld(
        () => [0, 0, 0],
        () => [0, 500, 0],
        0.5,
        60,
      ),
      surfaces: [
        wall(back, 1600, 3000, 1900),
        { texture: still(hand), place: (t) => onto(place(t), 1.02, 0.94, 110, 207, -8, -0.05) },
        { texture: still(tablet), place },
        {
          texture: still(room),
          place: () => placed([100, -800, 160], [-1, 0, 0], [0, 0, -1], 1400, 900),
          adds: true,
          level: () => 0.06,
          mirror: { place, window: glassWindow(glass, 0.01) },
        },
        { texture: still(tips), place: (t) => onto(place(t), 1, 0.66, 36, 28, 3, 3.0) },
      ],
    },
  };
};

/** The passer-by's silhouette, and a device's with rounded corners. */
const PASSER_BY: Front['outline'] = [
  [0.5, 0.03],
  [0.585, 0.045],
  [0.65, 0.09],
  [0.67, 0.14],
  [0.665, 0.2],
  [0.62, 0.25],
  [0.77, 0.29],
  [0.87, 0.38],
  [0.92, 0.55],
  [0.92, 1],
  [0.06, 1],
  [0.06, 0.55],
  [0.11, 0.38],
  [0.2, 0.28],
  [0.34, 0.24],
  [0.3, 0.19],
  [0.3, 0.14],
  [0.34, 0.07],
  [0.42, 0.04],
];
function roundedOutline(across: number, down: number): Front['outline'] {
  const arc = (x: number, y: number, from: number): (readonly [number, number])[] =>
    [0, 0.25, 0.5, 0.75, 1].map((t) => [
      x + across * Math.cos(((from + t) * Math.PI) / 2),
      y + down * Math.sin(((from + t) * Math.PI) / 2),
    ]);
  return [
    ...arc(across, down, 2),
    ...arc(1 - across, down, 3),
    ...arc(1 - across, 1 - down, 0),
    ...arc(across, 1 - down, 1),
  ];
}

/** The wall set in the net loft: a bulletin plays on it, the lamp flickers, somebody walks past twice, once close. */
const loftTv: Make = async (film) => {
  const glass = [0.016, 0.028, 0.984, 0.955] as const;
  const w = 1500;
  const h = 880;
  const frames = film.frames ?? 120;
  const sets = await Promise.all(
    Array.from({ length: frames }, (_, t) =>
      textureFromSvg(
        art.device({
          width: w,
          height: h,
          glass,
          bodyRadius: 8,
          glassRadius: 2,
          body: '#22262a',
          bezel: '#0e1012',
          content: onScreen(film, art.bulletin(w * 0.968, h * 0.927, t)),
        }),
      ),
    ),
  );
  const [back, person] = await Promise.all([
    textureFromSvg(art.loft(2800, 1700), 1.2),
    textureFromSvg(art.passerBy(700, 1300), 6),
  ]);
  const place = (): Placement => placed([-40, 2200, 80], [1, 0.12, 0], [0, 0, -1], 1000, 587);
  const walk = (t: number, from: number, speed: number, y: number, size: number): Placement =>
    placed(
      [from + speed * t, y, -120 + 16 * Math.abs(Math.sin(t / 4))],
      [Math.sign(speed), 0, 0],
      [0, 0, -1],
      size,
      size * 1.75,
    );
  const walks = [
    (t: number): Placement => walk(t, -1400, 34, 1500, 520),
    (t: number): Placement => walk(t, 3660, -41, 900, 700),
  ] as const;
  return {
    reference: 4,
    screens: [
      {
        name: 'loft set',
        device: 'tv',
        place,
        glass,
        fronts: walks.map((by) => ({ place: by, outline: PASSER_BY, soft: 0.03 })),
      },
    ],
    set: {
      ...base(film, 120),
      frames,
      grain: film.grain ?? 1.5,
      focal: () => 1.3,
      exposure: (t) => 0.85 * (1 + 0.2 * Math.sin(t * 1.9) * Math.sin(t * 0.31 + 1)),
      view: handheld(
        () => [0, 0, 0],
        () => [-20, 2200, 60],
        2.2,
        80,
      ),
      surfaces: [
        wall(back, 2215, 4200, 2550, 60),
        { texture: (t) => sets[Math.min(frames - 1, Math.max(0, Math.round(t)))]!, place, level: () => 0.9 },
        { texture: still(person), place: walks[0], level: () => 0.45 },
        { texture: still(person), place: walks[1], level: () => 0.25 },
      ],
    },
  };
};

/** A dark laptop and a lit phone in front of it, on one table. */
const twoDevices: Make = async (film) => {
  const lidGlass = [0.03, 0.045, 0.97, 0.93] as const;
  const phoneGlass = [0.05, 0.045, 0.95, 0.955] as const;
  const lid = art.device({
    width: 1500,
    height: 980,
    glass: lidGlass,
    bodyRadius: 26,
    glassRadius: 6,
    body: '#8a8074',
    bezel: '#3a3a3c',
    content: onScreen(film, art.logPage(1410, 867, 9, '#1d3440', '#b9cdd0')),
  });
  const look = art.device({
    width: 560,
    height: 1160,
    glass: phoneGlass,
    bodyRadius: 70,
    glassRadius: 24,
    body: '#6a3f36',
    bezel: '#0b0c0d',
    content: onScreen(film, art.darkGlass(520, 1080, '#14181b')),
  });
  const [laptop, phone, keys, table, back, room] = await Promise.all([
    textureFromSvg(lid),
    textureFromSvg(look),
    textureFromSvg(art.keyboard(1500, 1000)),
    textureFromSvg(art.boards(2600, 1600, [0.3, 0.3, 0.42, 0.4], '#6f5a48')),
    textureFromSvg(art.loft(2400, 1500), 12),
    textureFromSvg(art.windowLight(1800, 1100, 0.8), 3),
  ]);
  const tilt = 0.34;
  const place = (): Placement =>
    turned([40, 80 + Math.sin(tilt) * 106, Math.cos(tilt) * 106 + 8], 325, 212, -0.15, tilt, 0);
  const phonePlace = (t: number): Placement =>
    turned(
      [-120 + 45 * ease(t, 30, 80) + 2 * wobble(t, 1, 15), -40, 84 + 12 * ease(t, 24, 60) + 2 * wobble(t, 2, 13)],
      76,
      157,
      0.3 - 0.25 * ease(t, 20, 90),
      0.25,
      0.1 + 0.2 * Math.sin(t / 20),
    );
  return {
    reference: 10,
    screens: [
      {
        name: 'chart laptop',
        device: 'laptop',
        place,
        glass: lidGlass,
        fronts: [{ place: phonePlace, outline: roundedOutline(70 / 560, 70 / 1160), soft: 0 }],
      },
      { name: 'pocket phone', device: 'phone', place: phonePlace, glass: phoneGlass },
    ],
    set: {
      ...base(film, 120),
      focal: () => 1.25,
      view: handheld(
        (t) => [150 - 260 * ease(t, 0, 118), -680 + 90 * ease(t, 20, 100), 300],
        () => [0, 40, 84],
        0.8,
        100,
      ),
      surfaces: [
        wall(back, 1300, 3400, 2100, 400),
        tableTop(table, 1800, 1150, [0, 60, 0]),
        { texture: still(keys), place: () => placed([20, -34, 6], [1, -0.15, 0], [-0.15, -1, 0], 325, 212) },
        { texture: still(laptop), place },
        {
          texture: still(room),
          place: () => placed([-200, -1500, 640], [-1, 0, 0], [0, 0, -1], 2200, 1400),
          adds: true,
          level: () => 0.05,
          mirror: { place, window: glassWindow(lidGlass, 0.005) },
        },
        { texture: still(phone), place: phonePlace },
        {
          texture: still(room),
          place: () => placed([-100, -1300, 420], [-1, 0, 0], [0, 0, -1], 1800, 1150),
          adds: true,
          level: () => 0.16,
          mirror: { place: phonePlace, window: glassWindow(phoneGlass, 0.03) },
        },
      ],
    },
  };
};

/** A phone on a patterned cloth: dark, then its screen lights up; two stops of exposure, a hard highlight crossing. */
const curvedPhone: Make = async (film) => {
  const glass = [0.03, 0.035, 0.97, 0.965] as const;
  const w = 700;
  const h = 1480;
  const look = (content: string): string =>
    art.device({
      width: w,
      height: h,
      glass,
      bodyRadius: 110,
      glassRadius: 80,
      body: '#3c4a55',
      bezel: '#0d0f11',
      content,
    });
  const [off, on, table, room, spot] = await Promise.all([
    textureFromSvg(look(onScreen(film, art.darkGlass(w, h, '#0e1216')))),
    textureFromSvg(look(onScreen(film, art.logPage(w * 0.94, h * 0.93, 3, '#f3efe2')))),
    textureFromSvg(art.cloth(2400, 1800, [0.435, 0.37, 0.15, 0.29])),
    textureFromSvg(art.windowLight(1400, 900, 0.85), 4),
    textureFromSvg(art.spot(400)),
  ]);
  const place = (): Placement => placed([0, 0, 5], [1, 0.16, 0], [0.16, -1, 0], 72, 152);
  return {
    reference: 16,
    screens: [{ name: 'night phone', device: 'phone', place, glass }],
    set: {
      ...base(film, 120),
      focal: () => 1.35,
      exposure: (t) => 2 ** (0.3 - 2 * ease(t, 58, 84) + 1.2 * ease(t, 96, 114)),
      view: handheld(
        (t) => [150 * Math.sin(t / 34), -330 + 40 * Math.sin(t / 21), 330 - 40 * ease(t, 40, 110)],
        () => [0, 6, 0],
        0.7,
        120,
      ),
      surfaces: [
        tableTop(table, 900, 675),
        {
          texture: (t) => (t < 40 ? off : on),
          place,
          level: (t) => (t < 40 ? 1 : Math.min(1.2, 0.5 + (t - 40) * 0.2)),
        },
        {
          texture: still(room),
          place: () => placed([30, 40, 900], [1, 0, 0], [0, -1, 0], 1300, 850),
          adds: true,
          level: () => 0.3,
          mirror: { place, window: glassWindow(glass, 0.1) },
        },
        {
          texture: still(spot),
          place: (t) => onto(place(), -0.5 + 0.02 * t, 0.35, 46, 46, 1),
          adds: true,
          level: (t) => 3 * there(t, 20, 30, 84, 92),
        },
      ],
    },
  };
};

/** A tablet by the window through a wide lens: four times nearer, turned steeply away and back. */
const windowTablet: Make = async (film) => {
  const glass = [0.05, 0.065, 0.95, 0.935] as const;
  const w = 1900;
  const h = 1370;
  const look = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 70,
    glassRadius: 8,
    body: '#b9b4a8',
    bezel: '#f0ece2',
    content: onScreen(film, art.logPage(w * 0.9, h * 0.87, 12, '#dfe8e4')),
  });
  const [tablet, hand, tips, back] = await Promise.all([
    textureFromSvg(look),
    textureFromSvg(art.palm(900, 1900), 2),
    textureFromSvg(art.wrappedTips(200, 220, 1), 1.5),
    textureFromSvg(art.loft(2800, 1750), 5),
  ]);
  const place = (t: number): Placement =>
    turned(
      [20 * wobble(t, 1, 22), 1100 - 800 * ease(t, 12, 74), 10 * wobble(t, 2, 20)],
      260,
      187,
      1.27 * there(t, 68, 90, 94, 116),
      0.08 * Math.sin(t / 14),
      0.06 * wobble(t, 3, 12),
    );
  return {
    reference: 30,
    screens: [{ name: 'window tablet', device: 'tablet', place, glass }],
    set: {
      ...base(film, 120),
      lens: -0.09,
      focal: () => 0.95,
      view: handheld(
        () => [0, 0, 0],
        () => [0, 500, 0],
        0.5,
        140,
      ),
      surfaces: [
        wall(back, 1900, 4400, 2750),
        { texture: still(hand), place: (t) => onto(place(t), 1.02, 0.99, 120, 241, -8, -0.12) },
        { texture: still(tablet), place },
        { texture: still(tips), place: (t) => onto(place(t), 1, 0.62, 34, 26, 3, 3.0) },
      ],
    },
  };
};

/** Generated on demand: a long handheld take on the wall set's page, for drift and memory. */
const longTake: Make = async (film) => {
  const shot = await windowTablet({ ...film, frames: film.frames ?? 1000 });
  const [screen] = shot.screens;
  const place = (t: number): Placement =>
    turned(
      [40 * Math.sin(t / 61), 620 + 120 * Math.sin(t / 97), 12 * Math.sin(t / 43)],
      260,
      187,
      0.5 * Math.sin(t / 71),
      0.2 * Math.sin(t / 53),
      0.15 * Math.sin(t / 83),
    );
  const surfaces = shot.set.surfaces.map((s) => (s.place === screen!.place ? { ...s, place } : s));
  return { reference: 0, screens: [{ ...screen!, place }], set: { ...shot.set, lens: 0, surfaces } };
};

export const SHOTS: Readonly<Record<string, Make>> = {
  'phone-in-hand': phoneInHand,
  'logbook-laptop': logbookLaptop,
  'chart-tablet': chartTablet,
  'loft-tv': loftTv,
  'two-devices': twoDevices,
  'night-phone': curvedPhone,
  'window-tablet': windowTablet,
};
export const ON_DEMAND: Readonly<Record<string, Make>> = { 'long-take': longTake };

/** Exact corners TL, TR, BR, BL of a screen's glass at the shutter's centre. */
export function cornersAt(shot: DemoShot, screen: DemoScreen, frame: number): [number, number][] {
  const [l, t, r, b] = screen.glass;
  return (
    [
      [l, t],
      [r, t],
      [r, b],
      [l, b],
    ] as const
  ).map(([u, v]) => seenAt(shot.set, screen.place, frame, u, v));
}

export { undistort };
