/**
 * Rendering's hot loops as WASM against the same loops in TypeScript: whole frames, of many dresses, must come out
 * alike.
 */
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Layer } from '../src/dress/render';
import type { DressRecipe } from '../src/dress/layer/recipe';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { random } from './builders/scene';

const load = async () => ({
  render: await import('../src/dress/render'),
  pyramid: await import('../src/dress/fill/fill-pyramid'),
  grain: await import('../src/dress/light/grain'),
  softness: await import('../src/dress/shape/softness'),
  kernels: await import('../src/image/kernels'),
  workroom: await import('../src/dress/element/workroom'),
});
type Modules = Awaited<ReturnType<typeof load>>;
let wasm: Modules;
let plain: Modules;
beforeAll(async () => {
  wasm = await load();
  vi.resetModules();
  vi.doMock('../src/image/kernels', async (original) => ({
    ...(await original<object>()),
    kernels: () => null,
    renderKernels: () => null,
    kernelsFor: () => null,
  }));
  plain = await load();
});
afterAll(() => {
  vi.doUnmock('../src/image/kernels');
  vi.resetModules();
});

const r = random(11);
const W = 160;
const H = 110;
const noise = (width: number, height: number, channels: 3 | 4, most: number): Raster => {
  const n = width * height * channels;
  const at = (i: number): number => Math.round(most * (0.5 + 0.3 * Math.sin(i / 37) + 0.2 * r()));
  return {
    width,
    height,
    channels,
    data:
      most > 255 ? Uint16Array.from({ length: n }, (_, i) => at(i)) : Uint8Array.from({ length: n }, (_, i) => at(i)),
  };
};
const PIN: Quad = [
  [30, 18],
  [128, 26],
  [120, 92],
  [22, 84],
];
const BEFORE = PIN.map(([x, y]) => [x - 6, y + 2]) as unknown as Quad;
const AFTER = PIN.map(([x, y], i) => [x + 7, y - 3 + i]) as unknown as Quad;
const GRAIN = {
  amount: 1,
  measured: {
    levels: [0.1, 0.9],
    sigma: [
      [0.02, 0.01],
      [0.02, 0.02],
      [0.01, 0.03],
    ],
    size: 0.6,
  },
};
const DRESSES: Readonly<Record<string, DressRecipe>> = {
  bare: {},
  levels: {
    levels: { black: [0.02, 0.03, 0.04], white: [0.8, 0.9, 0.7], gamma: 1.2, saturation: 0.6, hue: 40, opacity: 0.8 },
  },
  soft: { softness: { more: 1.7 } },
  'very soft': { softness: { more: 9 } },
  moving: { motionBlur: { on: true, shutter: 200 } },
  grain: { grain: GRAIN },
  'fine grain': { grain: { ...GRAIN, size: 0 } },
  bent: { bend: { sides: { top: [[0.5, 0.06]] } } as never, edge: { radius: 0.1 } },
  edges: { edge: { inset: 1.5, feather: 4, radius: 0.2, wrap: 0.4 } },
  contained: { placement: { fit: 'contain' } },
  outside: { edge: { inset: -6 } },
  turned: { placement: { turn: 17, scale: 0.8 } as never },
  all: {
    levels: { gain: 0.9 },
    softness: { more: 1 },
    motionBlur: { on: true },
    edge: { feather: 2 },
    grain: GRAIN,
    glare: {
      keep: 0.5,
      measured: { columns: 3, rows: 2, values: Array.from({ length: 18 }, (_, i) => 0.05 + 0.01 * i) },
    },
  },
};

function frame(
  m: Modules,
  plate: Raster,
  fill: Raster,
  dress: DressRecipe,
  over: Partial<Layer> = {},
  target: Raster = { ...plate, data: plate.data.slice() },
): Raster {
  new m.render.Renderer().render(
    target.data.length === plate.data.length ? target : plate,
    [
      {
        fill: m.pyramid.fillPyramid(fill),
        corners: PIN,
        before: BEFORE,
        after: AFTER,
        pin: PIN,
        dress,
        frame: 5,
        ...over,
      },
    ],
    target,
    { transfer: 'bt709' },
  );
  return target;
}

/** Largest and mean difference, code values. */
function apart(a: Raster, b: Raster): { worst: number; mean: number } {
  let worst = 0;
  let sum = 0;
  for (let i = 0; i < a.data.length; i++) {
    const d = Math.abs(a.data[i]! - b.data[i]!);
    worst = Math.max(worst, d);
    sum += d;
  }
  return { worst, mean: sum / a.data.length };
}

describe('A frame rendered by WASM and by TypeScript', () => {
  it('has the loops on one side only', () => {
    expect(wasm.kernels.renderKernels()).not.toBeNull();
    expect(plain.kernels.renderKernels()).toBeNull();
  });
  for (const [name, dress] of Object.entries(DRESSES))
    for (const most of [255, 65535])
      it(`is the same, ${name}, ${most === 255 ? 8 : 16} bits`, () => {
        const plate = noise(W, H, 3, most);
        const fill = noise(301, 203, 4, 255);
        const a = frame(wasm, plate, fill, dress);
        const b = frame(plain, plate, fill, dress);
        const { worst, mean } = apart(a, b);
        expect(apart(a, plate).worst).toBeGreaterThan(most / 20);
        expect(worst).toBeLessThanOrEqual(most === 255 ? 1 : 24);
        expect(mean).toBeLessThan(most === 255 ? 0.01 : 0.6);
      });
  it('is the same for small and thin fills, and one that is shown larger than it is', () => {
    const plate = noise(W, H, 3, 255);
    for (const [w, h] of [
      [1, 1],
      [1, 40],
      [60, 2],
      [5, 5],
      [2000, 30],
    ] as const) {
      const fill = noise(w, h, 4, 255);
      expect(apart(frame(wasm, plate, fill, {}), frame(plain, plate, fill, {})).worst).toBeLessThanOrEqual(1);
    }
  });
  it('is the same behind a lens', () => {
    const plate = noise(W, H, 3, 255);
    const fill = noise(301, 203, 4, 255);
    const lens = { radial: -0.1, width: W, height: H };
    // The kernels take the footprint's size anew every eight px only.
    const { worst, mean } = apart(frame(wasm, plate, fill, {}, { lens }), frame(plain, plate, fill, {}, { lens }));
    expect(worst).toBeLessThanOrEqual(2);
    expect(mean).toBeLessThan(0.06);
  });
  it.each([
    ['lies behind a lens that bows inwards, its corners round', { edge: { radius: 0.1 } }, 0.08],
    ['lies behind a lens, feathered and set in', { edge: { inset: 3, feather: 4 } }, -0.15],
    ['lies behind a lens and is bent', { bend: { top: [{ at: 0.5, x: 0, y: 0.05 }] } }, -0.1],
    ['is bent, without a lens', { bend: { top: [{ at: 0.4, y: 0.05 }], left: [{ at: 0.5, x: -0.03 }] } }, 0],
  ])('is the same where the fill %s', (_, dress, radial) => {
    const plate = noise(W, H, 3, 255);
    const fill = noise(301, 203, 4, 255);
    const lens = radial === 0 ? null : { radial, width: W, height: H };
    const [a, b] = [wasm, plain].map((m) => frame(m, plate, fill, dress as DressRecipe, { lens })) as [Raster, Raster];
    expect(apart(a, plate).worst).toBeGreaterThan(10);
    expect(apart(a, b).worst).toBeLessThanOrEqual(4);
    expect(apart(a, b).mean).toBeLessThan(0.06);
  });
  it('is the same in a picture with alpha, opaque or not', () => {
    const plate = noise(W, H, 4, 255);
    const fill = noise(301, 203, 4, 255);
    const [a, b] = [wasm, plain].map((m) => frame(m, plate, fill, {})) as [Raster, Raster];
    expect(apart(a, plate).worst).toBeGreaterThan(10);
    expect(apart(a, b).worst).toBeLessThanOrEqual(1);
  });
  it('is the same when two Screens with fills of their own take turns', () => {
    const plate = noise(W, H, 3, 255);
    const fills = [noise(301, 203, 4, 255), noise(64, 64, 4, 255)];
    const layers = (m: Modules): Layer[] =>
      fills.map((f, i) => ({
        fill: m.pyramid.fillPyramid(f),
        corners: PIN.map(([x, y]) => [x * 0.5 + 60 * i, y * 0.5 + 20]) as unknown as Quad,
      }));
    const drawn = (m: Modules): Raster => {
      const target = { ...plate, data: plate.data.slice() };
      const list = layers(m);
      const renderer = new m.render.Renderer();
      for (let i = 0; i < 2; i++) renderer.render(plate, list, target);
      return target;
    };
    expect(apart(drawn(wasm), drawn(plain)).worst).toBeLessThanOrEqual(1);
  });
  it('goes without WASM where the region would not fit its memory', () => {
    const fill = wasm.pyramid.fillPyramid(noise(8, 8, 4, 255));
    const region = { x: 0, y: 0, width: 6000, height: 1500 };
    const room = wasm.workroom.workroom(
      region,
      fill,
      { low: 0, high: 0 },
      { under: false, glare: false, field: 0, reach: 4 },
    );
    expect(wasm.kernels.kernelsFor(room.element)).toBeNull();
    const small = wasm.workroom.workroom(
      { ...region, width: 60, height: 15 },
      fill,
      { low: 0, high: 0 },
      {
        under: false,
        glare: false,
        field: 0,
        reach: 4,
      },
    );
    expect(wasm.kernels.kernelsFor(small.element)).not.toBeNull();
  });
});

describe('Made-up noise', () => {
  it('has the moments of the normal distribution', () => {
    const t = wasm.grain.normalTable();
    const moment = (k: number): number => t.reduce((s, v) => s + v ** k, 0) / t.length;
    expect(moment(1)).toBeCloseTo(0, 6);
    expect(moment(2)).toBeCloseTo(1, 5);
    expect(moment(3)).toBeCloseTo(0, 5);
    // The normal distribution's kurtosis is 3; 68.27 % lie within one deviation (textbook).
    expect(moment(4)).toBeGreaterThan(2.97);
    expect(moment(4)).toBeLessThan(3.02);
    expect(t.filter((v) => Math.abs(v) < 1).length / t.length).toBeCloseTo(0.6827, 3);
  });
  it('is the same by WASM', () => {
    const region = { x: 7, y: 3, width: 40, height: 30 };
    const room = wasm.workroom.workroom(
      region,
      wasm.pyramid.fillPyramid(noise(8, 8, 4, 255)),
      { low: 0, high: 0 },
      {
        under: false,
        glare: false,
        field: wasm.grain.grainRoom(region, 0.8),
        reach: 4,
      },
    );
    const a = wasm.grain.grainField(region, 3, 2, 0.8, room.field);
    const b = plain.grain.grainField(region, 3, 2, 0.8);
    expect(wasm.kernels.kernelsFor(a.data)).not.toBeNull();
    let worst = 0;
    for (let i = 0; i < b.data.length; i++) worst = Math.max(worst, Math.abs(a.data[i]! - b.data[i]!));
    expect(worst).toBeLessThan(1e-5);
  });
});
