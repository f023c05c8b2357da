import { describe, expect, it } from 'vitest';
import { CURVES } from '../src/dress/colour/transfer';
import { fillPyramid, noFill } from '../src/dress/fill/fill-pyramid';
import type { DressRecipe } from '../src/dress/layer/recipe';
import { changesPlate, planesRiddenOn, stillFrames } from '../src/dress/layer/recipe';
import type { Layer, Show } from '../src/dress/render';
import { Renderer, reachOf } from '../src/dress/render';
import type { Graded, PaintedOut, Retouch } from '../src/dress/retouch/retouch';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { emptyLike } from '../src/image/image';
import { luminance } from '../src/image/luminance';
import { random } from './builders/scene';
import { painted } from './builders/picture';

const [WIDTH, HEIGHT] = [200, 140];
const PIN: Quad = [
  [150, 20],
  [190, 20],
  [190, 60],
  [150, 60],
];
const box = (x0: number, y0: number, x1: number, y1: number): Point[] => [
  [x0, y0],
  [x1, y0],
  [x1, y1],
  [x0, y1],
];
const FILL = fillPyramid(painted(16, 16, () => 240));
const LAYER: Layer = { fill: FILL, corners: PIN, pin: PIN, frame: 0 };

function retouched(
  plate: Raster,
  retouches: readonly Retouch[],
  { more = {}, dress = {}, show = 'dressed' }: { more?: Partial<Layer>; dress?: DressRecipe; show?: Show } = {},
): Raster {
  const target = { ...plate, data: plate.data.slice() };
  new Renderer().render(target, [{ ...LAYER, dress: { ...dress, retouches }, ...more }], target, { show });
  return target;
}
const at = (r: Raster, x: number, y: number): number[] => [
  ...r.data.slice((y * r.width + x) * r.channels, (y * r.width + x) * r.channels + 3),
];
/** Normal deviates by the sum of twelve even ones. */
function noise(seed: number, sigma: number): () => number {
  const dice = random(seed);
  return () => sigma * (Array.from({ length: 12 }, dice).reduce((a, b) => a + b, 0) - 6);
}
const isMark = (x: number, y: number): boolean =>
  (Math.abs(x - 60) <= 2 && Math.abs(y - 60) <= 9) || (Math.abs(y - 60) <= 2 && Math.abs(x - 60) <= 9);
const MARK = box(47, 47, 74, 74);
const around: PaintedOut = { kind: 'paint-out', points: MARK, from: 'around' };

/** Deviations of a box's values from what they should be: their mean, and their root mean square about it. */
function deviations(r: Raster, truth: (x: number, y: number) => number): { mean: number; sigma: number } {
  const all: number[] = [];
  for (let y = 49; y < 72; y++) for (let x = 49; x < 72; x++) all.push(at(r, x, y)[1]! - truth(x, y));
  const mean = all.reduce((a, b) => a + b, 0) / all.length;
  return { mean, sigma: Math.sqrt(all.reduce((a, b) => a + (b - mean) ** 2, 0) / all.length) };
}

describe('a mark that is painted out', () => {
  const level = (x: number, y: number): number => 70 + 0.3 * x - 0.15 * y;

  it('from around it lies within one level of its surroundings, with their noise', () => {
    for (const seed of [1, 2, 3]) {
      const grain = noise(seed, 3);
      const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 200 : level(x, y) + grain()));
      const { mean, sigma } = deviations(retouched(plate, [around]), level);
      expect(Math.abs(mean)).toBeLessThan(1);
      expect(sigma).toBeGreaterThan(2.3);
      expect(sigma).toBeLessThan(3.7);
    }
  });

  it('needs nothing in the slot: what lies within the pin stays the plate, to the last bit', () => {
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 20 : 90 + (x + y) / 8));
    const cleaned = retouched(plate, [around], { more: { fill: noFill() } });
    expect(Math.abs(at(cleaned, 60, 60)[1]! - 105)).toBeLessThanOrEqual(1);
    for (const [x, y] of [[170, 40], [150, 20], [5, 5]] as const) expect(at(cleaned, x, y)).toEqual(at(plate, x, y)); // prettier-ignore
    expect(changesPlate({ retouches: [around] })).toBe(true);
    expect(changesPlate({ retouches: [{ ...around, off: true }] })).toBe(false);
  });
  it('changes nothing beyond its outline, and nothing when it is off', () => {
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 200 : level(x, y)));
    const bare = retouched(plate, []);
    expect(retouched(plate, [{ ...around, off: true }]).data).toEqual(bare.data);
    const made = retouched(plate, [around]);
    const changed = Array.from(made.data.keys()).filter((i) => made.data[i] !== bare.data[i]);
    const beyond = changed.filter((i) => {
      const [x, y] = [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH)];
      return x < 46 || y < 46 || x > 75 || y > 75;
    });
    expect(changed.length).toBeGreaterThan(100);
    expect(beyond).toEqual([]);
    expect(Math.abs(at(made, 60, 60)[0]! - level(60, 60))).toBeLessThan(1.5);
  });

  it('from beside it brings that picture along at its own level', () => {
    const stripes = (x: number, y: number): number => (Math.floor(x / 5) % 2 === 0 ? 40 : 90) + 0.2 * y;
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 220 : stripes(x, y)));
    const beside: PaintedOut = { kind: 'paint-out', points: MARK, from: 'beside', offset: [0, 40] };
    const { mean, sigma } = deviations(retouched(plate, [beside]), stripes);
    expect(Math.abs(mean)).toBeLessThan(1);
    expect(sigma).toBeLessThan(1);
  });

  it('is mirrored where the picture is the same on both sides', () => {
    // Mirrored about 100.5 across: the mark's middle lies at 60.5, what is taken 80 px further. About 80 down.
    const waves = (far: number, along: number): number => 80 + 25 * Math.sin(far / 2.5) + (along % 8 < 4 ? 20 : 0);
    const mirrored: PaintedOut = { kind: 'paint-out', points: MARK, from: 'beside', offset: [80, 0], mirror: 'across' };
    const across = (x: number, y: number): number => waves(Math.abs(x - 100), y);
    const down = (x: number, y: number): number => waves(Math.abs(y + 0.5 - 80), x);
    const sigmaOf = (truth: typeof across, retouch: PaintedOut): number =>
      deviations(
        retouched(
          painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 220 : truth(x, y))),
          [retouch],
        ),
        truth,
      ).sigma;
    const { mirror: _mirror, ...straight } = mirrored;
    expect(sigmaOf(across, mirrored)).toBeLessThan(1);
    expect(sigmaOf(across, straight)).toBeGreaterThan(5);
    expect(sigmaOf(down, { ...straight, offset: [0, 39], mirror: 'down' })).toBeLessThan(1);
    expect(sigmaOf(down, { ...straight, offset: [0, 39] })).toBeGreaterThan(1.5);
  });

  it('from another frame follows that frame and the plane, and its level', () => {
    const texture = (x: number, y: number): number => 80 + 30 * Math.sin(x / 4) * Math.cos(y / 5);
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 220 : texture(x, y)));
    // The other frame lies 30 px aside, is brighter, and has no mark.
    const other = painted(WIDTH, HEIGHT, (x, y) => 12 + texture(x - 30, y - 10));
    const moved = PIN.map(([x, y]): Point => [x + 30, y + 10]) as unknown as Quad;
    const stills = { 7: { picture: other, own: { corners: moved, pin: PIN, referenceFrame: 0 } } };
    const from: PaintedOut = { kind: 'paint-out', points: MARK, from: 'frame', frame: 7 };
    const { mean, sigma } = deviations(retouched(plate, [from], { more: { stills } }), texture);
    expect(Math.abs(mean)).toBeLessThan(1);
    expect(sigma).toBeLessThan(1.5);
    expect(retouched(plate, [from]).data).toEqual(retouched(plate, []).data);
    expect(stillFrames({ retouches: [from, { ...from, off: true, frame: 9 }, around] })).toEqual([7]);
  });

  it('is the same on 8 bits, 16 bits and light, within half a level', () => {
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 200 : level(x, y)));
    const deep: Raster = { ...plate, data: Uint16Array.from(plate.data, (v) => v * 257) };
    const light: Raster = { ...plate, data: Float32Array.from(plate.data, (v) => CURVES.srgb.decode(v / 255)) };
    const plain: PaintedOut = { ...around, softness: 4 };
    const made = retouched(plate, [plain]);
    const target = { ...light, data: light.data.slice() };
    new Renderer().render(target, [{ ...LAYER, dress: { retouches: [plain] } }], target, { transfer: 'linear' });
    const sixteen = retouched(deep, [plain]);
    for (const [x, y] of [
      [60, 60],
      [48, 60],
      [47, 47],
      [70, 66],
    ] as const) {
      expect(Math.abs(at(sixteen, x, y)[0]! / 257 - at(made, x, y)[0]!)).toBeLessThan(1);
      expect(Math.abs(255 * CURVES.srgb.encode(at(target, x, y)[0]!) - at(made, x, y)[0]!)).toBeLessThan(1);
    }
  });

  it('rides on its plane, or stays on the picture', () => {
    const moved = PIN.map(([x, y]): Point => [x - 20, y + 30]) as unknown as Quad;
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x + 20, y - 30) ? 200 : 80));
    const more = { corners: moved };
    expect(at(retouched(plate, [around], { more }), 40, 90)[0]).toBe(80);
    expect(at(retouched(plate, [{ ...around, onPicture: true }], { more }), 40, 90)[0]).toBe(200);
    const there = box(27, 77, 54, 104);
    expect(at(retouched(plate, [{ ...around, points: there, onPicture: true }], { more }), 40, 90)[0]).toBe(80);
    const other = { quay: { corners: moved, pin: PIN, referenceFrame: 0 } };
    expect(at(retouched(plate, [{ ...around, plane: 'quay' }], { more: { others: other } }), 40, 90)[0]).toBe(80);
    expect(at(retouched(plate, [{ ...around, plane: 'gone' }], { more }), 40, 90)[0]).toBe(200);
    expect([
      ...planesRiddenOn({
        retouches: [
          { ...around, plane: 'quay' },
          { ...around, plane: 'x', onPicture: true },
        ],
      }),
    ]).toEqual(['quay']);
  });
});

describe('a graded region', () => {
  const GREEN = [40, 160, 60];
  const plate = painted(WIDTH, HEIGHT, (_x, _y, c) => GREEN[c]!);
  const region = (part: Partial<Graded>): Graded => ({ kind: 'grade', points: MARK, ...part });
  const light = (v: number): number => CURVES.srgb.decode(v / 255);

  it('without saturation is a grey of the same luminance (ITU-R BT.709-6)', () => {
    const grey = at(retouched(plate, [region({ levels: { saturation: 0 } })]), 60, 60);
    const y = luminance(light(GREEN[0]!), light(GREEN[1]!), light(GREEN[2]!));
    for (const v of grey) expect(Math.abs(v - 255 * CURVES.srgb.encode(y))).toBeLessThanOrEqual(0.51);
  });

  it('takes gain as light and gamma as it is shown, within the outline alone', () => {
    const dark = retouched(plate, [region({ levels: { gain: 0.5 } })]);
    expect(light(at(dark, 60, 60)[1]!)).toBeCloseTo(light(160) / 2, 2);
    expect(at(dark, 40, 60)).toEqual(GREEN);
    const bent = at(retouched(plate, [region({ levels: { gamma: 2 } })]), 60, 60);
    expect(Math.abs(bent[1]! - 255 * (160 / 255) ** 0.5)).toBeLessThan(1);
    const half = at(retouched(plate, [region({ levels: { gain: 0, opacity: 0.5 } })]), 60, 60);
    expect(light(half[1]!)).toBeCloseTo(light(160) / 2, 2);
  });

  it('is soft as each point says', () => {
    const soft = retouched(plate, [region({ levels: { gain: 0 }, soft: [20, 0, 0, 20] })]);
    const left = at(soft, 51, 60)[1]!;
    expect(left).toBeGreaterThan(20);
    expect(left).toBeLessThan(150);
    expect(at(soft, 71, 60)[1]).toBe(0);
  });

  it('blurs what it covers and keeps its mean', () => {
    const checks = painted(WIDTH, HEIGHT, (x, y) => (((x >> 1) + (y >> 1)) % 2 === 0 ? 60 : 180));
    const made = retouched(checks, [region({ blur: 3 })]);
    const mean = (light(60) + light(180)) / 2;
    for (const [x, y] of [
      [60, 60],
      [55, 63],
    ] as const)
      expect(light(at(made, x, y)[0]!)).toBeCloseTo(mean, 2);
    expect(at(made, 20, 60)).toEqual(at(checks, 20, 60));
  });

  it('lies under the fill, or over it', () => {
    const over = box(145, 15, 195, 65);
    const grade = region({ points: over, levels: { gain: 0 } });
    expect(at(retouched(plate, [grade]), 170, 40)[0]).toBe(240);
    expect(at(retouched(plate, [grade]), 147, 40)[1]).toBe(0);
    expect(at(retouched(plate, [{ ...grade, after: true }]), 170, 40)[0]).toBe(0);
    expect(at(retouched(plate, [{ ...grade, after: true }], { show: 'matte' }), 170, 40)[0]).toBe(255);
  });

  it('is reached by what says how far a picture may change', () => {
    const dress = { retouches: [region({ points: box(5, 90, 30, 110) })] };
    const reach = reachOf(plate, [{ ...LAYER, dress }])!;
    expect(reach.x).toBeLessThanOrEqual(5);
    expect(reach.y + reach.height).toBeGreaterThanOrEqual(110);
    expect(reach.x + reach.width).toBeGreaterThanOrEqual(190);
  });
});

describe('passes of a retouched plate', () => {
  it('add up to the dressed picture', () => {
    const plate = painted(WIDTH, HEIGHT, (x, y) => (isMark(x, y) ? 200 : 60 + x / 4));
    const light: Raster = { ...plate, data: Float32Array.from(plate.data, (v) => CURVES.srgb.decode(v / 255)) };
    const layer: Layer = {
      ...LAYER,
      dress: { retouches: [around, { kind: 'grade', points: MARK, levels: { gain: 0.8 } }] },
    };
    const make = (show: Show, channels: 3 | 4 = 3): Raster => {
      const target =
        show === 'dressed' ? { ...light, data: light.data.slice() } : emptyLike(light, WIDTH, HEIGHT, channels);
      new Renderer().render(light, [layer], target, { transfer: 'linear', show });
      return target;
    };
    const before = light.data.slice();
    const whole = make('dressed');
    const [spill, element, kept] = [make('pass-spill'), make('pass-element', 4), make('pass-light')];
    expect(light.data).toEqual(before);
    let worst = 0;
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      for (let c = 0; c < 3; c++) {
        const clean = light.data[3 * i + c]! + spill.data[3 * i + c]!;
        const a = element.data[4 * i + 3]!;
        const sum = clean * (1 - a) + element.data[4 * i + c]! + kept.data[3 * i + c]!;
        worst = Math.max(worst, Math.abs(sum - whole.data[3 * i + c]!));
      }
    expect(worst).toBeLessThan(1e-5);
  });
});
