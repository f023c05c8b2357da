/**
 * Rooms of The Tidewater Post: things that stand at several depths, a dark laptop among them, and a camera that moves
 * through in one of eight ways. The exact camera of every frame is known. Generated on demand.
 */
import type { View } from '../camera';
import { lookAt } from '../camera';
import type { Vec } from '../vector';
import * as art from './art';
import type { DemoScreen, DemoShot, FilmSize } from './shots';
import { base, ease, handheld, still, tableTop, turned, wall, wobble } from './shots';
import type { Placement, Set, Surface } from './stage';
import { placed } from './stage';
import { textureFromSvg } from './texture';

/** How the camera goes through a room. */
interface Path {
  readonly frames: number;
  readonly view: (time: number) => View;
  /** focal length in picture widths */
  readonly focal?: (time: number) => number;
  readonly lens?: number;
  readonly readout?: number;
  /** somebody is in the picture: how far to the right, mm */
  readonly passer?: (time: number) => number;
  /** nothing but the wall, and a tablet on it */
  readonly isFlat?: boolean;
}

const WALL_AT = 900;
const EYE_HEIGHT = 420;
const LOOKED_AT: Vec = [0, 100, 110];

const walked = (eye: (t: number) => Vec, shake: number, seed: number): ((t: number) => View) =>
  handheld(eye, () => LOOKED_AT, shake, seed);

/** A camera on a tripod at `eye`, turned by `pan` and `tilt` radians from looking along +y. */
function onTripod(eye: Vec, pan: number, tilt: number): View {
  const ahead: Vec = [Math.sin(pan) * Math.cos(tilt), Math.cos(pan) * Math.cos(tilt), Math.sin(tilt)];
  return lookAt(eye, [eye[0] + 1000 * ahead[0], eye[1] + 1000 * ahead[1], eye[2] + 1000 * ahead[2]], 0);
}

/** Frames of a second; a shake of seven hertz is told in them. */
const RATE = 24;
const SHAKE_HERTZ = 7;

/** Walks through from the left. */
const walksBy = (t: number): number => -900 + 19 * t;

const PATHS: Readonly<Record<string, Path>> = {
  'room-handheld': {
    frames: 96,
    view: walked((t) => [-60 + 120 * ease(t, 0, 95), -900, EYE_HEIGHT], 2.5, 500),
  },
  'room-dolly': { frames: 96, view: walked((t) => [-420 + 8.8 * t, -880, EYE_HEIGHT - 40], 0.5, 510), passer: walksBy },
  'room-arc': {
    frames: 120,
    lens: -0.08,
    view: walked(
      (t) => [950 * Math.sin(-0.6 + 0.01 * t), 100 - 950 * Math.cos(-0.6 + 0.01 * t), EYE_HEIGHT + 60],
      0.8,
      520,
    ),
    passer: walksBy,
  },
  'room-zoom': {
    frames: 96,
    view: walked((t) => [-100 + 200 * ease(t, 0, 95), -1200 + 400 * ease(t, 0, 95), EYE_HEIGHT], 0.8, 530),
    focal: (t) => 1 + 0.55 * ease(t, 16, 84),
  },
  'room-tripod': {
    frames: 96,
    view: (t) => onTripod([40, -850, EYE_HEIGHT], -0.22 + 0.45 * ease(t, 4, 90), -0.3 + 0.06 * wobble(t, 541, 30)),
    passer: walksBy,
  },
  'room-jitter': {
    frames: 72,
    readout: 0.6,
    view: (t) => {
      const shake = Math.sin((2 * Math.PI * SHAKE_HERTZ * t) / RATE);
      const eye: Vec = [-200 + 5 * t, -900, EYE_HEIGHT + 3 * shake];
      return lookAt(eye, [LOOKED_AT[0] + 8 * shake, LOOKED_AT[1], LOOKED_AT[2] + 6 * shake], 0.004 * shake);
    },
  },
  'room-long': {
    frames: 1000,
    view: walked(
      (t) => [500 * Math.sin(t / 159), -900 + 150 * Math.sin(t / 90), EYE_HEIGHT + 60 * Math.sin(t / 70)],
      1,
      550,
    ),
  },
  // Somebody comes and stays before the screen, and two of its corners leave the picture.
  'room-covered': {
    frames: 96,
    view: handheld(
      (t) => [-320 + 6 * t, -900, EYE_HEIGHT],
      (t) => [LOOKED_AT[0] - 330 * ease(t, 20, 50), LOOKED_AT[1], LOOKED_AT[2]],
      1.5,
      570,
    ),
    passer: (t) => -900 + 850 * ease(t, 8, 44) + 3 * Math.max(0, t - 44) + 12 * wobble(t, 571, 24),
  },
  'room-flat': {
    frames: 96,
    view: handheld(
      (t) => [-300 + 6 * t, -500, 330],
      () => [20, WALL_AT, 290],
      1,
      560,
    ),
    isFlat: true,
  },
};

/** A crate: its front and its top, seen from before and above. */
async function crate(at: Vec, size: readonly [number, number, number], seed: number): Promise<Surface[]> {
  const [w, d, h] = size;
  const [front, top] = await Promise.all([
    textureFromSvg(art.boards(3 * w, 3 * h, null, ['#7a5a38', '#4c6470', '#8a4f33'][seed % 3], 3)),
    textureFromSvg(art.boards(3 * w, 3 * d, null, ['#927048', '#5d7783', '#9c6042'][seed % 3], 4)),
  ]);
  return [
    {
      texture: still(top),
      place: () => placed([at[0], at[1] + d / 2, at[2] + h], [1, 0, 0], [0, -1, 0], w, d),
      level: () => 1.6,
    },
    {
      texture: still(front),
      place: () => placed([at[0], at[1], at[2] + h / 2], [1, 0, 0], [0, 0, -1], w, h),
      level: () => 1.2,
    },
  ];
}

/** A framed sheet that hangs or stands upright. */
async function sheet(centre: Vec, width: number, height: number, seed: number, yaw = 0): Promise<Surface> {
  const page = await textureFromSvg(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${4 * width}" height="${4 * height}">${art.logPage(4 * width, 4 * height, seed)}</svg>`,
  );
  return { texture: still(page), place: () => turned(centre, width, height, yaw, 0, 0) };
}

async function darkLaptop(): Promise<{ screen: DemoScreen; surfaces: Surface[] }> {
  const glass = [0.022, 0.04, 0.978, 0.935] as const;
  const [w, h] = [1500, 980];
  const lid = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 30,
    glassRadius: 7,
    body: '#75797d',
    bezel: '#2d2f33',
    content: art.darkGlass(w, h, '#0f1114'),
  });
  const [laptop, keys] = await Promise.all([textureFromSvg(lid), textureFromSvg(art.keyboard(1500, 1000))]);
  const tilt = 0.3;
  const size = [330, 216] as const;
  const place = (): Placement =>
    turned([0, (Math.sin(tilt) * size[1]) / 2, (Math.cos(tilt) * size[1]) / 2 + 8], ...size, 0.06, tilt, 0);
  return {
    screen: { name: 'logbook laptop', device: 'laptop', place, glass },
    surfaces: [
      { texture: still(keys), place: () => placed([0, -116, 6], [1, 0.06, 0], [0.06, -1, 0], 330, 216) },
      { texture: still(laptop), place },
    ],
  };
}

async function tabletOnWall(): Promise<{ screen: DemoScreen; surfaces: Surface[] }> {
  const glass = [0.06, 0.08, 0.94, 0.92] as const;
  const [w, h] = [1300, 900];
  const look = art.device({
    width: w,
    height: h,
    glass,
    bodyRadius: 50,
    glassRadius: 6,
    body: '#8d9296',
    bezel: '#26282b',
    content: art.darkGlass(w, h, '#101216'),
  });
  const tablet = await textureFromSvg(look);
  const place = (): Placement => placed([40, WALL_AT - 1, 260], [1, 0, 0], [0, 0, -1], 420, 290);
  return {
    screen: { name: 'wall tablet', device: 'tablet', place, glass },
    surfaces: [{ texture: still(tablet), place }],
  };
}

async function passing(across: (time: number) => number): Promise<Surface> {
  const person = await textureFromSvg(art.passerBy(700, 1300), 4);
  return {
    texture: still(person),
    place: (t) => placed([across(t), -330, 130 + 10 * Math.abs(Math.sin(t / 4))], [1, 0, 0], [0, 0, -1], 230, 420),
    level: () => 0.5,
  };
}

async function furnished(path: Path): Promise<{ screen: DemoScreen; surfaces: Surface[] }> {
  const [back, table, laptop, ...things] = await Promise.all([
    textureFromSvg(art.loft(3600, 2200)),
    textureFromSvg(art.boards(2600, 1700, [0.4, 0.32, 0.2, 0.24])),
    darkLaptop(),
    sheet([-520, WALL_AT - 120, 420], 260, 340, 3),
    sheet([620, WALL_AT - 300, 300], 300, 380, 4, -0.3),
    crate([-330, 330, 0], [260, 160, 180], 0),
    crate([360, 240, 0], [220, 200, 120], 1),
    sheet([-300, 40, 70], 110, 140, 7, 0.35),
    crate([300, -150, 0], [130, 110, 70], 2),
    sheet([-260, -260, 45], 70, 90, 9, -0.2),
  ]);
  return {
    screen: laptop.screen,
    surfaces: [
      wall(back, WALL_AT, 3600, 2200, 500),
      ...things.slice(0, 2).flat(),
      tableTop(table, 1500, 1000, [0, 60, 0]),
      ...things.slice(2, 5).flat(),
      ...laptop.surfaces,
      ...things.slice(5).flat(),
      ...(path.passer ? [await passing(path.passer)] : []),
    ],
  };
}

async function bareWall(): Promise<{ screen: DemoScreen; surfaces: Surface[] }> {
  const on = WALL_AT - 1;
  const [back, tablet, ...sheets] = await Promise.all([
    textureFromSvg(art.loft(3600, 2200)),
    tabletOnWall(),
    sheet([-420, on, 420], 200, 260, 3),
    sheet([460, on, 150], 240, 180, 4),
    sheet([-350, on, 40], 260, 190, 5),
    sheet([520, on, 520], 150, 210, 6),
  ]);
  return { screen: tablet.screen, surfaces: [wall(back, WALL_AT, 3600, 2200, 300), ...sheets, ...tablet.surfaces] };
}

/** A frame on which whoever passes has not come in yet. */
const CLEAR_FRAME = 4;

async function room(path: Path, film: FilmSize): Promise<DemoShot> {
  const { screen, surfaces } = await (path.isFlat ? bareWall() : furnished(path));
  const set: Set = {
    ...base(film, path.frames),
    lens: path.lens ?? 0,
    readout: path.readout ?? 0,
    focal: path.focal ?? ((): number => 1.15),
    view: path.view,
    surfaces,
  };
  // A frame on which nobody stands before the screen.
  const reference = path.passer ? CLEAR_FRAME : Math.floor(set.frames / 2);
  return { reference, screens: [screen], set };
}

export const ROOMS: Readonly<Record<string, (film: FilmSize) => Promise<DemoShot>>> = Object.fromEntries(
  Object.entries(PATHS).map(([name, path]) => [name, (film: FilmSize) => room(path, film)]),
);

/** The camera of a frame, as `CAMERA.json` has it: right-handed, looking along -z, y up; lengths in mm. */
export interface TrueCamera {
  readonly frame: number;
  readonly position: Vec;
  /** columns right, up and back of the camera in the room, row-major */
  readonly axes: readonly number[];
  /** px */
  readonly focal: number;
}

export function trueCamera(set: Set, frame: number): TrueCamera {
  const { eye, right, down, forward } = set.view(frame);
  return {
    frame,
    position: eye,
    axes: [0, 1, 2].flatMap((i) => [right[i]!, -down[i]!, -forward[i]!]),
    focal: set.focal(frame) * set.width,
  };
}
