import { describe, expect, it } from 'vitest';
import { addLights } from '../src/dress/light/added-light';
import { mirrored } from '../src/dress/light/display-look';
import { takeSpill } from '../src/dress/light/spill';
import { cornerRadii } from '../src/dress/shape/corner-radius';
import { fillIn } from '../src/dress/base/fill-in';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import { coverOf } from '../src/dress/content/cover';
import type { LetterOutlines } from '../src/dress/content/letters';
import { madeSize, makeFill } from '../src/dress/content/made-fill';
import { outlineCover } from '../src/dress/shape/outline-matte';
import { lifted, slotToLaidFill } from '../src/dress/shape/placement';
import type { DressRecipe } from '../src/dress/layer/recipe';
import type { Layer } from '../src/dress/render';
import { Renderer } from '../src/dress/render';
import { mapPoint, unitSquareToQuad } from '../src/geometry/homography';
import { inverse } from '../src/geometry/matrix3';
import { IDENTITY } from '../src/geometry/matrix3';
import { distance } from '../src/geometry/point';
import { focalFromViews, poseOf, projectCorners, rotationBy } from '../src/geometry/pose';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { painted } from './builders/picture';

const CAMERA = { width: 1920, height: 1080, focal: 1.2 };
const ASPECT = 0.56;
const view = (turn: readonly number[], centre: readonly [number, number, number]): Quad =>
  projectCorners(CAMERA, { rotation: rotationBy(turn), centre }, ASPECT);
const PIN: Quad = [
  [40, 30],
  [120, 30],
  [120, 90],
  [40, 90],
];
const at = (r: Raster, x: number, y: number): number[] => [
  ...r.data.slice((y * r.width + x) * r.channels, (y * r.width + x) * r.channels + 3),
];
const GREY = painted(160, 120, () => 90);
function dressed(plate: Raster, fill: Raster, dress: DressRecipe, more: Partial<Layer> = {}): Raster {
  const target = { ...plate, data: plate.data.slice() };
  new Renderer().render(plate, [{ fill: fillPyramid(fill), corners: PIN, pin: PIN, dress, ...more }], target);
  return target;
}

describe('the rigid pose', () => {
  it('is found again from its corners', () => {
    for (const [turn, centre] of [
      [
        [0.4, -0.3, 0.1],
        [0.2, -0.1, 3],
      ],
      [
        [-0.7, 0.2, 1.2],
        [-0.4, 0.3, 2.2],
      ],
      [
        [0, 0, 0],
        [0, 0, 5],
      ],
    ] as [number[], [number, number, number]][]) {
      const { pose, misfit } = poseOf(CAMERA, view(turn, centre), ASPECT);
      expect(misfit).toBeLessThan(1e-3);
      pose.centre.forEach((v, i) => expect(v).toBeCloseTo(centre[i]!, 4));
      pose.rotation.forEach((v, i) => expect(v).toBeCloseTo(rotationBy(turn)[i]!, 4));
    }
  });
  it('tells the focal length from leaning views, and nothing from flat ones', () => {
    const leaning = [0, 1, 2, 3, 4, 5].map((i) =>
      view([0.5 - 0.2 * i, -0.6 + 0.2 * i, 0.1 * i], [0.1 * i - 0.2, 0.1, 2]),
    );
    expect(focalFromViews(leaning, 1920, 1080, ASPECT)).toBeCloseTo(1.2, 1);
    expect(focalFromViews([view([0, 0, 0], [0, 0, 6]), view([0, 0, 0.2], [0.1, 0, 6])], 1920, 1080, ASPECT)).toBeNull();
  });
  it('says by how much a quadrilateral is no rectangle', () => {
    const q = view([0.4, -0.3, 0.1], [0, 0, 3]);
    const bent = q.map((p, i) => (i === 1 ? [p[0] + 40, p[1]] : p)) as unknown as Quad;
    expect(poseOf(CAMERA, bent, ASPECT).misfit).toBeGreaterThan(4);
  });
});

describe('lifting off the glass', () => {
  it('by nothing moves nothing; by a height lands where the scene’s own projection does', () => {
    const turn = [0.5, -0.4, 0.2];
    const centre: [number, number, number] = [0.1, 0, 3];
    const q = view(turn, centre);
    expect(lifted(q, 0, ASPECT, CAMERA, 1.2)).toBe(q);
    const expected = projectCorners(CAMERA, { rotation: rotationBy(turn), centre }, ASPECT, 0.2);
    lifted(q, 0.2, ASPECT, CAMERA, 1.2).forEach((p, i) => expect(distance(p, expected[i]!)).toBeLessThan(0.05));
  });
  it('towards the camera makes a flat-on fill larger', () => {
    const out = dressed(
      GREY,
      painted(16, 12, () => 255),
      { placement: { lift: 0.5 } },
    );
    expect(at(out, 38, 60)[0]).toBe(255);
    expect(at(GREY, 38, 60)[0]).toBe(90);
  });
});

describe('a fill laid over the reference frame', () => {
  it('keeps its own shape: a fill as large as the plate lies on it pixel by pixel', () => {
    const m = slotToLaidFill({ lay: 'plate' }, 0, { width: 160, height: 120 }, PIN, { width: 160, height: 120 });
    const slot = inverse(unitSquareToQuad(PIN));
    for (const p of [
      [50, 40],
      [111, 77],
      [40, 30],
    ] as const)
      expect(distance(mapPoint(m, mapPoint(slot, p)), p)).toBeLessThan(1e-9);
  });
  it('is carried by the plane, and cut to the pin or to an outline', () => {
    const stripes = painted(160, 120, (x) => (x < 80 ? 200 : 30));
    const there = PIN.map(([x, y]) => [x + 10, y]) as unknown as Quad;
    const cut = dressed(GREY, stripes, { placement: { lay: 'plate' } }, { corners: there });
    expect(at(cut, 85, 60)[0]).toBe(200);
    expect(at(cut, 95, 60)[0]).toBe(30);
    expect(at(cut, 45, 60)[0]).toBe(90);
    const wide = dressed(
      GREY,
      stripes,
      {
        placement: {
          lay: 'plate',
          cut: [
            [20, 50],
            [140, 50],
            [140, 70],
            [20, 70],
          ],
        },
      },
      { corners: there },
    );
    expect(at(wide, 35, 60)[0]).toBe(200);
    expect(at(wide, 145, 60)[0]).toBe(30);
    expect(at(wide, 60, 40)[0]).toBe(90);
  });
});

describe('added light', () => {
  const light = { shape: 'pool', rides: 'plane', x: 0.5, y: 0.5, size: 0.4, amount: 0.5, colour: [1, 1, 1] } as const;
  it('is strongest in its middle, ends without an edge, and lies only where the fill does', () => {
    const out = dressed(
      GREY,
      painted(16, 12, () => 0),
      { lights: [light] },
    );
    expect(at(out, 80, 60)[0]).toBeGreaterThan(180);
    expect(at(out, 80, 45)[0]).toBeLessThan(at(out, 80, 55)[0]!);
    expect(at(out, 45, 35)[0]).toBe(0);
    expect(at(out, 30, 60)[0]).toBe(90);
  });
  it('rides with the plane, or stays in the room while the Screen moves', () => {
    const there = PIN.map(([x, y]) => [x + 12, y]) as unknown as Quad;
    const region = { x: 0, y: 0, width: 160, height: 120 };
    const peak = (rides: 'plane' | 'room'): number => {
      const e = new Float32Array(160 * 120 * 4).map((_, i) => (i % 4 === 3 ? 1 : 0));
      addLights(e, region, [{ ...light, rides }], 0, there, PIN, 80 / 60);
      const row = Array.from({ length: 160 }, (_, x) => e[(60 * 160 + x) * 4]!);
      return row.indexOf(Math.max(...row));
    };
    expect(Math.abs(peak('plane') - 92)).toBeLessThanOrEqual(1);
    expect(Math.abs(peak('room') - 80)).toBeLessThanOrEqual(1);
  });
});

describe('outlines', () => {
  const region = { x: 0, y: 0, width: 60, height: 40 };
  const box = [
    [10, 10],
    [40, 10],
    [40, 30],
    [10, 30],
  ] as const;
  it('are soft by what each point says, half to each side', () => {
    const cover = outlineCover(region, box, [0, 12, 12, 0], [IDENTITY], 1);
    const row = (x: number): number => cover[20 * 60 + x]!;
    expect(row(9)).toBe(0);
    expect(row(11)).toBe(1);
    expect(row(39) + row(40)).toBeCloseTo(1, 1);
    expect(row(36)).toBeLessThan(1);
    expect(row(43)).toBeGreaterThan(0);
  });
  it('smear along the plane while the shutter is open', () => {
    const planes = Array.from({ length: 10 }, (_, i) => [1, 0, i - 4.5, 0, 1, 0, 0, 0, 1]);
    const cover = outlineCover(region, box, null, planes, 1);
    expect(cover[20 * 60 + 10]).toBeCloseTo(0.5, 0);
    expect(cover[20 * 60 + 5]).toBeLessThan(0.15);
    expect(cover[20 * 60 + 25]).toBeCloseTo(1, 4);
  });
  it('ride on another Screen’s plane', () => {
    const other = { corners: PIN.map(([x, y]) => [x + 20, y]) as unknown as Quad, pin: PIN, referenceFrame: 0 };
    const out = dressed(
      GREY,
      painted(16, 12, () => 255),
      {
        holdouts: [
          {
            kind: 'outline',
            plane: 'laptop',
            points: [
              [50, 40],
              [70, 40],
              [70, 80],
              [50, 80],
            ],
          },
        ],
      },
      { others: { laptop: other } },
    );
    expect(at(out, 60, 60)[0]).toBe(255);
    expect(at(out, 80, 60)[0]).toBe(90);
  });
});

describe('a clean plate', () => {
  it('closes holes smoothly from what surrounds them', () => {
    const w = 64;
    const h = 48;
    const ramp = Float32Array.from({ length: w * h * 3 }, (_, i) => 0.2 + 0.005 * (Math.floor(i / 3) % w));
    const known = new Float32Array(w * h).fill(1);
    const holed = ramp.slice();
    for (let y = 15; y < 30; y++) for (let x = 20; x < 35; x++) [known[y * w + x], holed[(y * w + x) * 3]] = [0, 9];
    fillIn(holed, known, w, h);
    let worst = 0;
    for (let i = 0; i < w * h; i++) worst = Math.max(worst, Math.abs(holed[i * 3]! - ramp[i * 3]!));
    expect(worst).toBeLessThan(0.03);
  });
  it('loses the crosses of the screen and keeps the hand', () => {
    const screen = [40, 180, 60];
    const skin = [190, 140, 110];
    const colourAt = (x: number, y: number): number[] => {
      if (x > 100 && y > 70) return skin;
      if (!(x > 40 && x < 120 && y > 30 && y < 90)) return [90, 90, 90];
      return Math.abs(x - 70) < 2 && Math.abs(y - 50) < 7 ? [200, 200, 200] : screen;
    };
    const plate = painted(160, 120, (x, y, c) => colourAt(x, y)[c]!);
    const target = { ...plate, data: plate.data.slice() };
    new Renderer().render(
      plate,
      [
        {
          fill: fillPyramid(painted(16, 12, () => 255)),
          corners: PIN,
          dress: {
            holdouts: [{ kind: 'key', colours: [screen.map((v) => v / 255)], gone: 0.3, solid: 0.6, crosses: 8 }],
          },
        },
      ],
      target,
      { show: 'clean' },
    );
    at(target, 70, 50).forEach((v, c) => expect(Math.abs(v - screen[c]!)).toBeLessThan(6));
    expect(at(target, 110, 80)).toEqual(skin);
  });
});

describe('the corner radius', () => {
  it.each([0, 0.06, 0.12])('of %d heights is told from the plate', (radius) => {
    const q: Quad = [
      [100, 60],
      [420, 60],
      [420, 260],
      [100, 260],
    ];
    const tall = 200;
    const r = radius * tall;
    const lit = (x: number, y: number): boolean => {
      const dx = Math.max(100 + r - x, x - 420 + r, 0);
      const dy = Math.max(60 + r - y, y - 260 + r, 0);
      return x > 100 && x < 420 && y > 60 && y < 260 && (r === 0 || Math.hypot(dx, dy) <= r);
    };
    const told = cornerRadii(q, 1.6, (x, y) => (lit(x, y) ? [0.2, 0.7, 0.3] : [0.1, 0.1, 0.1]));
    expect(told).toHaveLength(4);
    for (const v of told) expect(Math.abs(v - radius)).toBeLessThan(0.02);
  });
  it('is not told where glass and bezel look alike', () => {
    expect(cornerRadii(PIN, 4 / 3, () => [0.1, 0.1, 0.1])).toEqual([]);
  });
});

describe('a made-up fill', () => {
  const square: LetterOutlines = (text) => ({
    contours: [...text].map(
      (_, i) =>
        [
          [i, -0.7],
          [i + 1, -0.7],
          [i + 1, 0],
          [i, 0],
        ] as const,
    ),
    width: text.length,
  });
  const pixel = (p: { width: number; data: Float32Array }, x: number, y: number): number[] => [
    ...p.data.slice((y * p.width + x) * 4, (y * p.width + x) * 4 + 4),
  ];
  it('covers outlines by shares of a pixel, exactly along a row', () => {
    const cover = coverOf(
      [
        [
          [2.25, 1],
          [6.5, 1],
          [6.5, 3],
          [2.25, 3],
        ],
      ],
      { x: 0, y: 0, width: 10, height: 5 },
    );
    expect([...cover.slice(20, 30)]).toEqual([0, 0, 0.75, 1, 1, 1, 0.5, 0, 0, 0]);
    expect(cover.reduce((s, v) => s + v, 0)).toBeCloseTo(4.25 * 2, 6);
  });
  it('is made at the slot’s own size, a little finer', () => {
    expect(madeSize(PIN)).toEqual([120, 90]);
  });
  it('lays ground, background, keyed foreground and text over each other', () => {
    const background = fillPyramid(painted(40, 20, (_x, _y, c) => [0, 0, 255][c]!));
    const person = fillPyramid(painted(20, 20, (x, _y, c) => (x < 10 ? [20, 200, 40] : [255, 0, 0])[c]!));
    const made = makeFill(
      {
        ground: [0, 0, 0],
        foreground: { media: 'x', scale: 0.5, key: { colour: [20 / 255, 200 / 255, 40 / 255], gone: 0.3, solid: 0.6 } },
        lines: [{ text: 'ab', size: 0.2, y: 0.9, colour: [1, 1, 1] }],
      },
      0,
      [80, 40],
      { background, foreground: person, letters: square },
    );
    expect(pixel(made, 4, 4)).toEqual([0, 0, 1, 1]);
    expect(pixel(made, 34, 20)[2]).toBeCloseTo(1, 2);
    expect(pixel(made, 46, 20)[0]).toBeCloseTo(1, 2);
    expect(pixel(made, 40, 36)).toEqual([1, 1, 1, 1]);
  });
  it('slides and fades by its keys', () => {
    const line = {
      text: 'a',
      size: 0.25,
      x: [
        { frame: 0, value: 0.2 },
        { frame: 10, value: 0.8 },
      ],
      opacity: [
        { frame: 0, value: 0 },
        { frame: 10, value: 1 },
      ],
    };
    const on = (frame: number): number[] =>
      pixel(
        makeFill({ ground: [0, 0, 0], lines: [line] }, frame, [80, 40], {
          background: null,
          foreground: null,
          letters: square,
        }),
        Math.round(80 * (0.2 + 0.06 * frame)),
        20,
      );
    expect(on(0)[0]).toBe(0);
    expect(on(5)[0]).toBeCloseTo(0.5, 5);
    expect(on(10)[0]).toBeCloseTo(1, 5);
  });
});

describe('a real display', () => {
  const fill = painted(16, 12, () => 128);
  const on = (look: object, more: Partial<Layer> = {}): Raster =>
    dressed(
      painted(160, 120, () => 200),
      fill,
      { look },
      more,
    );
  const mean = (r: Raster): number => {
    let s = 0;
    for (let y = 32; y < 88; y++) for (let x = 42; x < 118; x++) s += at(r, x, y)[0]! / (56 * 76);
    return s;
  };
  it('has bands that roll from frame to frame, and a panel whose noise changes', () => {
    const rows = (frame: number): number[] =>
      Array.from(
        { length: 50 },
        (_, y) => at(on({ scan: 0.5, scanBands: 2, scanSpeed: 1 }, { frame, frameRate: 24 }), 80, 35 + y)[0]!,
      );
    expect(Math.max(...rows(0)) - Math.min(...rows(0))).toBeGreaterThan(25);
    expect(rows(0)).not.toEqual(rows(6));
    expect(rows(0)).toEqual(rows(24));
    const noisy = on({ noise: 0.2 }, { frame: 1 });
    expect(noisy.data).not.toEqual(on({ noise: 0.2 }, { frame: 2 }).data);
    expect(Math.abs(mean(noisy) - 128)).toBeLessThan(2);
  });
  it('is colder or warmer by its panel', () => {
    const cold = at(on({ tint: 1 }), 80, 60);
    const warm = at(on({ tint: -1 }), 80, 60);
    expect(cold[2]! - cold[0]!).toBeGreaterThan(8);
    expect(warm[0]! - warm[2]!).toBeGreaterThan(8);
  });
  it('darkens as it is seen askew, and its glass mirrors the room the more', () => {
    const aside = projectCorners(
      { width: 160, height: 120, focal: 1.3 },
      { rotation: rotationBy([0, 1.1, 0]), centre: [0, 0, 2.5] },
      4 / 3,
    );
    const flat = on({ askew: 1 });
    const turned = on({ askew: 1 }, { corners: aside });
    expect(at(flat, 80, 60)[0]).toBeGreaterThan(120);
    expect(at(turned, 80, 60)[0]).toBeLessThan(100);
    expect(mirrored(1)).toBeCloseTo(0.04, 9);
    expect(mirrored(0)).toBeCloseTo(1, 9);
    expect(at(on({ mirror: 1 }, { corners: aside }), 80, 60)[0]! - 128).toBeGreaterThan(
      at(on({ mirror: 1 }), 80, 60)[0]! - 128,
    );
    expect(at(on({ mirror: 1 }), 80, 60)[0]).toBeGreaterThan(128);
  });
});

describe('what has the old screen’s hue', () => {
  const green = [0.1, 0.6, 0.2];
  const skin = [0.5, 0.3, 0.25];
  const region = { x: 0, y: 0, width: 2, height: 1 };
  const bent = (bend: { shift: number; desaturate: number }): number[] => {
    const plate = Float32Array.from([...green, ...skin]);
    takeSpill(plate, region, PIN, [0.1, 0.6, 0.2], 0, 0, Infinity, [0, 0, 0], bend);
    return [...plate];
  };
  it('is turned to another hue or greyed out, and nothing else is', () => {
    const grey = bent({ shift: 0, desaturate: 1 });
    const turned = bent({ shift: 120, desaturate: 0 });
    expect(Math.max(...grey.slice(0, 3)) - Math.min(...grey.slice(0, 3))).toBeLessThan(0.2);
    expect(turned[2]).toBeGreaterThan(turned[1]!);
    for (const out of [grey, turned]) out.slice(3).forEach((v, i) => expect(v).toBeCloseTo(skin[i]!, 6));
  });
});
