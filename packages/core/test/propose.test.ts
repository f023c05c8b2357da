/** Screens that are seen on one frame: devices drawn with exact corners, and each part of the search by itself. */
import { describe, expect, it } from 'vitest';
import { quadToQuad } from '../src/geometry/homography';
import { insidePolygon } from '../src/geometry/polygon';
import { projectCorners, rotationBy } from '../src/geometry/pose';
import type { Quad } from '../src/geometry/quad';
import { farthest } from '../src/geometry/quad';
import { mapPoint } from '../src/geometry/homography';
import type { Raster } from '../src/image/image';
import { grownPin } from '../src/pin/inset';
import { quadsOfLines } from '../src/propose/quads-of-lines';
import { rectangleLook } from '../src/propose/rectangle-look';
import { screensSeen } from '../src/propose/screens-seen';
import { segmentsOf } from '../src/propose/segments';
import { slopesOf, smallPicture } from '../src/propose/small-picture';
import { seenBetween, straightLines } from '../src/propose/straight-lines';
import { random } from './builders/scene';

type Rgb = readonly [number, number, number];
interface Device {
  readonly glass: Quad;
  readonly bezel: Rgb;
  /** of the screen at (u, v), 0 to 1 from its top left */
  readonly shows: (u: number, v: number) => Rgb;
}

const WIDTH = 480;
const HEIGHT = 300;
/** Finer samples a px, each way. */
const SUB = 4;
const BEZEL = 9;
const GLASS: Quad = [
  [120.4, 62.7],
  [335.2, 84.1],
  [322.9, 231.6],
  [108.3, 226.2],
];
const UNIT: Quad = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

/** Devices on a table whose light falls off across it, with noise. */
function picture(devices: readonly Device[], noise = 1, seed = 5): Raster {
  const r = random(seed);
  const data = new Uint8Array(3 * WIDTH * HEIGHT);
  const parts = devices.map((d) => ({ ...d, rim: grownPin(d.glass, BEZEL), to: quadToQuad(d.glass, UNIT) }));
  const colourAt = (x: number, y: number): Rgb => {
    const d = parts.find((p) => insidePolygon([x, y], p.rim));
    if (!d) return [110 + x / 16, 96 + y / 20, 80 + y / 16];
    return insidePolygon([x, y], d.glass) ? d.shows(...mapPoint(d.to, [x, y])) : d.bezel;
  };
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const sum = [0, 0, 0];
      for (let k = 0; k < SUB * SUB; k++)
        colourAt(x + ((k % SUB) + 0.5) / SUB, y + (Math.floor(k / SUB) + 0.5) / SUB).forEach((v, c) => (sum[c]! += v));
      for (let c = 0; c < 3; c++)
        data[3 * (y * WIDTH + x) + c] = sum[c]! / SUB ** 2 + noise * (r() + r() + r() + r() - 2) * Math.sqrt(3);
    }
  return { width: WIDTH, height: HEIGHT, channels: 3, data };
}

const dark: Device = { glass: GLASS, bezel: [52, 52, 54], shows: () => [14, 15, 17] };
const BLACK: Rgb = [12, 12, 12];

/** A page with a bar on top and lines of text, as pages are: its own lines lie parallel to the glass. */
function page(u: number, v: number): Rgb {
  if (v < 0.12) return u % 0.2 < 0.08 && v > 0.04 && v < 0.08 ? [230, 220, 190] : [40, 90, 110];
  return u > 0.06 && u < 0.8 && v % 0.08 < 0.03 && u % 0.13 < 0.1 ? [60, 60, 60] : [232, 228, 214];
}

describe('a frame that shows', () => {
  it.each([
    ['dark glass in a grey bezel', 'dark', dark],
    ['keyed glass in a black one', 'keyed', { glass: GLASS, bezel: BLACK, shows: () => [50, 180, 70] }],
    ['a page with a bar and text', 'lit', { glass: GLASS, bezel: BLACK, shows: page }],
  ] as [string, string, Device][])('%s has it first, to half a px, and says of which kind it is', (_, kind, device) => {
    const [first] = screensSeen(picture([device]));
    expect(farthest(first!.corners, GLASS)).toBeLessThan(0.5);
    expect(first).toMatchObject({ kind, device: 'tablet' });
  });

  it('two devices has both before all that else may be meant', () => {
    const other: Quad = [
      [366, 92],
      [450, 98],
      [444, 248],
      [360, 240],
    ];
    const seen = screensSeen(picture([dark, { glass: other, bezel: BLACK, shows: () => [200, 205, 210] }]));
    const places = [GLASS, other].map((q) => seen.findIndex((s) => farthest(s.corners, q) < 2));
    expect(Math.min(...places)).toBe(0);
    expect(Math.max(...places)).toBeGreaterThan(0);
    expect(seen.map((s) => s.score)).toEqual(seen.map((s) => s.score).sort((a, b) => b - a));
  });

  it('nothing but a table, noise alone, black or white proposes nothing', () => {
    for (const noise of [1, 20]) expect(screensSeen(picture([], noise))).toEqual([]);
    for (const level of [0, 255]) {
      const data = new Uint8Array(3 * WIDTH * HEIGHT).fill(level);
      expect(screensSeen({ width: WIDTH, height: HEIGHT, channels: 3, data })).toEqual([]);
    }
    expect(screensSeen({ width: 2, height: 2, channels: 3, data: new Uint8Array(12) })).toEqual([]);
  });

  it('a device in sixteen bits and with an alpha is found at the same place', () => {
    const p = picture([dark]);
    const data = new Uint16Array(4 * WIDTH * HEIGHT).fill(65535);
    for (let i = 0; i < WIDTH * HEIGHT; i++) for (let c = 0; c < 3; c++) data[4 * i + c] = 257 * p.data[3 * i + c]!;
    const deep: Raster = { width: WIDTH, height: HEIGHT, channels: 4, data };
    expect(farthest(screensSeen(deep)[0]!.corners, screensSeen(p)[0]!.corners)).toBeLessThan(0.01);
  });
});

describe('the parts of the search', () => {
  it('tell a rectangle’s proportions from its picture, and that a lozenge is none', () => {
    const camera = { width: WIDTH, height: HEIGHT, focal: 1.4 };
    const pose = { rotation: rotationBy([0.5, -0.4, 0.2]), centre: [0.1, 0, 4] } as const;
    const look = rectangleLook(projectCorners(camera, pose, 1.6), WIDTH, HEIGHT);
    expect(look.aspect).toBeCloseTo(1.6, 6);
    expect(look.skew).toBeLessThan(1e-9);
    const lozenge: Quad = [
      [240, 60],
      [300, 150],
      [240, 240],
      [180, 150],
    ];
    expect(rectangleLook(lozenge, WIDTH, HEIGHT).skew).toBeGreaterThan(0.3);
  });

  it('find the stretches of an edge, as long as it is and through its middle', () => {
    const bright = { glass: GLASS, bezel: [200, 200, 200] as Rgb, shows: () => [200, 200, 200] as Rgb };
    const found = segmentsOf(slopesOf(smallPicture(picture([bright], 0))), 0);
    const rim = grownPin(GLASS, BEZEL);
    for (let i = 0; i < 4; i++) {
      const [a, b] = [rim[i]!, rim[(i + 1) % 4]!];
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const beside = ([x, y]: readonly [number, number]): number =>
        Math.abs((x - a[0]) * (b[1] - a[1]) - (y - a[1]) * (b[0] - a[0])) / length;
      const side = found.find((s) => beside(s.a) < 0.5 && beside(s.b) < 0.5 && s.length > 0.9 * length);
      expect(side).toBeDefined();
      expect(side!.length).toBeLessThan(length + 2);
    }
  });

  it('put together what a hand parts, and say how much of a side is seen', () => {
    const stretch = (x0: number, x1: number) => ({
      a: [x0, 10 + x0 / 10] as const,
      b: [x1, 10 + x1 / 10] as const,
      length: (x1 - x0) * Math.hypot(1, 0.1),
      strength: 9,
    });
    const parts = [stretch(0, 80), stretch(110, 160)];
    const [line, ...more] = straightLines(parts, 9);
    expect(more).toEqual([]);
    expect(line!.seen).toBeCloseTo(parts[0]!.length + parts[1]!.length, 6);
    const [from, to] = [line!.spans[0]![0], line!.spans[1]![0]];
    expect(seenBetween(line!, from, to)[0]).toBeCloseTo(parts[0]!.length, 6);
    expect(seenBetween(line!, from, to)[1]).toBeCloseTo(parts[1]!.length, 6);
  });

  it('make quads of lines that end where they meet, and of no others', () => {
    const side = (a: readonly [number, number], b: readonly [number, number], until = 1) => {
      const end = [a[0] + until * (b[0] - a[0]), a[1] + until * (b[1] - a[1])] as const;
      return { a, b: end, length: Math.hypot(end[0] - a[0], end[1] - a[1]), strength: 9 };
    };
    const of = (until: number) =>
      quadsOfLines(
        straightLines(
          GLASS.map((p, i) => side(p, GLASS[(i + 1) % 4]!, i === 0 ? until : 1)),
          9,
        ),
        WIDTH,
        HEIGHT,
      );
    expect(of(1).some((q) => farthest(q.corners, GLASS) < 1e-6)).toBe(true);
    expect(of(0.2)).toEqual([]);
  });
});
