import { beforeAll, describe, expect, it } from 'vitest';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import type { DressRecipe } from '../src/dress/layer/recipe';
import type { Show } from '../src/dress/render';
import { Renderer } from '../src/dress/render';
import { decodingTable, encode, encodingTable, linearToSrgb, srgbToLinear } from '../src/dress/colour/transfer';
import { quadToQuad } from '../src/geometry/homography';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { proofCard } from '../src/proof/proof-card';
import type { OpenCv } from './builders/opencv';
import { openCv } from './builders/opencv';
import { random, waves } from './builders/scene';

function raster(
  width: number,
  height: number,
  f: (x: number, y: number, c: number) => number,
  channels: 3 | 4 = 3,
): Raster {
  const data = new Uint8Array(width * height * channels);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++) data[(y * width + x) * channels + c] = Math.min(255, Math.max(0, f(x, y, c)));
  return { width, height, channels, data };
}
const noisePlate = (): Raster => {
  const r = random(2);
  return raster(160, 120, () => 255 * r());
};
const copy = (r: Raster): Raster => ({ ...r, data: r.data.slice() });
const render = (plate: Raster, fill: Raster, q: Quad): Raster => {
  const out = copy(plate);
  new Renderer().over(out, fillPyramid(fill), q);
  return out;
};

describe('the renderer', () => {
  let cv: OpenCv;
  beforeAll(async () => {
    cv = await openCv();
  });
  it('copies a fill that lies pixel on pixel exactly', () => {
    const t = waves(3);
    const fill = raster(80, 60, (x, y, c) => t(x + 9 * c, y));
    const out = render(noisePlate(), fill, [
      [20, 30],
      [100, 30],
      [100, 90],
      [20, 90],
    ]);
    for (let y = 0; y < 60; y++)
      for (let x = 0; x < 80; x++)
        for (let c = 0; c < 3; c++)
          expect(out.data[((y + 30) * 160 + x + 20) * 3 + c]).toBe(fill.data[(y * 80 + x) * 3 + c]);
  });
  it('passes every pixel outside the pin through bit-exactly and says what it touched', () => {
    const plate = noisePlate();
    const out = copy(plate);
    const q: Quad = [
      [40.3, 30.2],
      [110.7, 41.1],
      [98.2, 88.8],
      [33.3, 80.1],
    ];
    const touched = new Renderer().over(out, fillPyramid(raster(20, 20, () => 200)), q)!;
    for (let y = 0; y < 120; y++)
      for (let x = 0; x < 160; x++) {
        const inside =
          x >= touched.x && y >= touched.y && x < touched.x + touched.width && y < touched.y + touched.height;
        if (!inside)
          for (let c = 0; c < 3; c++) expect(out.data[(y * 160 + x) * 3 + c]).toBe(plate.data[(y * 160 + x) * 3 + c]);
      }
    expect(touched.width * touched.height).toBeLessThan(90 * 70);
  });
  it('warps as the OpenCV build does, within interpolation', () => {
    const t = waves(6, 24, 80);
    const fill = raster(90, 66, (x, y) => t(x, y));
    const q: Quad = [
      [30, 20],
      [140, 34],
      [126, 104],
      [18, 92],
    ];
    const out = render(
      raster(160, 120, () => 0),
      fill,
      q,
    );
    const m = quadToQuad(
      [
        [0, 0],
        [90, 0],
        [90, 66],
        [0, 66],
      ],
      q,
    );
    // OpenCV counts from pixel centres.
    const half = (s: number): number[] => [1, 0, s, 0, 1, s, 0, 0, 1];
    const mul = (a: readonly number[], b: readonly number[]): number[] =>
      [0, 3, 6].flatMap((r) => [0, 1, 2].map((c) => a[r]! * b[c]! + a[r + 1]! * b[c + 3]! + a[r + 2]! * b[c + 6]!));
    const theirs = new cv.Mat();
    const linear = Float32Array.from({ length: 90 * 66 }, (_, i) => srgbToLinear(fill.data[i * 3]! / 255));
    cv.warpPerspective(
      cv.matFromArray(66, 90, cv.CV_32FC1, linear),
      theirs,
      cv.matFromArray(3, 3, cv.CV_64FC1, mul(half(-0.5), mul(m, half(0.5)))),
      new cv.Size(160, 120),
      cv.INTER_LINEAR,
      cv.BORDER_REPLICATE,
    );
    let worst = 0;
    let sum = 0;
    let n = 0;
    for (let y = 45; y < 80; y++)
      for (let x = 45; x < 110; x++) {
        const d = Math.abs(out.data[(y * 160 + x) * 3]! - 255 * linearToSrgb(theirs.data32F[y * 160 + x]!));
        worst = Math.max(worst, d);
        sum += d;
        n++;
      }
    expect(sum / n).toBeLessThan(0.6);
    expect(worst).toBeLessThan(4);
  });
  it('does not alias when a fill is shrunk: a fine checkerboard turns into its mean light', () => {
    const fill = raster(512, 512, (x, y) => ((x + y) % 2 ? 255 : 0));
    const out = render(
      raster(160, 120, () => 0),
      fill,
      [
        [20, 20],
        [84, 20],
        [84, 84],
        [20, 84],
      ],
    );
    const mean = Math.round(255 * linearToSrgb(0.5));
    for (let y = 26; y < 78; y++)
      for (let x = 26; x < 78; x++) expect(Math.abs(out.data[(y * 160 + x) * 3]! - mean)).toBeLessThan(4);
  });
  it('covers edge pixels by the share that lies inside, in linear light', () => {
    const out = render(
      raster(40, 40, () => 0),
      raster(8, 8, () => 255),
      [
        [10.25, 10],
        [30, 10],
        [30, 30],
        [10.25, 30],
      ],
    );
    expect(out.data[(20 * 40 + 10) * 3]).toBe(Math.round(255 * linearToSrgb(0.75)));
    expect(out.data[(20 * 40 + 11) * 3]).toBe(255);
    expect(out.data[(20 * 40 + 9) * 3]).toBe(0);
  });
  it('blends a half-transparent fill in linear light, with no dark fringe from transparent colours', () => {
    const half = raster(8, 8, (_x, _y, c) => (c === 3 ? 128 : 255), 4);
    const out = render(
      raster(40, 40, () => 0),
      half,
      [
        [10, 10],
        [30, 10],
        [30, 30],
        [10, 30],
      ],
    );
    expect(out.data[(20 * 40 + 20) * 3]).toBe(Math.round(255 * linearToSrgb(128 / 255)));
    const cut = raster(
      8,
      8,
      (x, _y, c) => {
        if (c === 3) return x < 4 ? 255 : 0;
        if (x < 4) return 255;
        return 0;
      },
      4,
    );
    const white = render(
      raster(40, 40, () => 255),
      cut,
      [
        [8, 8],
        [32, 8],
        [32, 32],
        [8, 32],
      ],
    );
    for (let x = 8; x < 32; x++) expect(white.data[(20 * 40 + x) * 3]).toBe(255);
  });
  it('keeps 16 bits and the sum of a mirrored pin', () => {
    const plate: Raster = { width: 40, height: 40, channels: 3, data: new Uint16Array(40 * 40 * 3).fill(1234) };
    const fill: Raster = { width: 4, height: 4, channels: 3, data: new Uint16Array(48).fill(50001) };
    const q: Quad = [
      [10, 10],
      [30, 10],
      [30, 30],
      [10, 30],
    ];
    const out = render(plate, fill, q);
    expect(Math.abs(out.data[(20 * 40 + 20) * 3]! - 50001)).toBeLessThanOrEqual(2);
    expect(out.data[0]).toBe(1234);
    expect(render(plate, fill, [q[1], q[0], q[3], q[2]]).data).toEqual(out.data);
  });
  it('draws nothing for a pin outside the picture and refuses a folded one', () => {
    const fill = fillPyramid(raster(4, 4, () => 9));
    expect(
      new Renderer().over(noisePlate(), fill, [
        [-90, -90],
        [-20, -90],
        [-20, -20],
        [-90, -20],
      ]),
    ).toBeNull();
    expect(() =>
      new Renderer().over(noisePlate(), fill, [
        [0, 0],
        [50, 50],
        [50, 0],
        [0, 50],
      ]),
    ).toThrow(/cross/);
  });
});

describe('the sRGB transfer', () => {
  it('meets the joints and mid grey of IEC 61966-2-1 (from memory: linear 0.2140 at code 0.5; thresholds 0.04045, 0.0031308)', () => {
    expect(srgbToLinear(0.5)).toBeCloseTo(0.214, 4);
    expect(srgbToLinear(0.04045)).toBeCloseTo(0.0031308, 6);
    expect(linearToSrgb(1)).toBeCloseTo(1, 12);
  });
  it('gives every 8-bit and 16-bit code value back', () => {
    for (const max of [255, 65535] as const) {
      const d = decodingTable(max);
      const e = encodingTable(max);
      for (let v = 0; v <= max; v += max === 255 ? 1 : 97)
        expect(Math.abs(Math.round(encode(e, d[v]!)) - v)).toBeLessThanOrEqual(max === 255 ? 0 : 2);
    }
  });
});

describe('the proof card', () => {
  it('is not symmetric, so that a turned pin shows, and has contrast all over', () => {
    const c = proofCard(320, 200);
    const value = (x: number, y: number): number => c.data[(y * 320 + x) * 4]!;
    expect(value(8, 8)).toBeLessThan(80);
    expect(value(311, 191)).toBeGreaterThan(140);
    const mean = [...Array(64000).keys()].reduce((s, i) => s + c.data[i * 4]! / 64000, 0);
    expect(mean).toBeGreaterThan(120);
    expect(mean).toBeLessThan(230);
  });
});

describe('passes', () => {
  const W = 120;
  const H = 90;
  const r = random(5);
  const PIN: Quad = [
    [30, 20],
    [95, 26],
    [90, 70],
    [26, 64],
  ];
  const screen = [0.05, 0.5, 0.08];
  const plate: Raster = {
    width: W,
    height: H,
    channels: 3,
    data: Float32Array.from(
      { length: W * H * 3 },
      (_, i) => r() * 0.05 + (Math.floor(i / 3) % W > 40 && Math.floor(i / 3) % W < 80 ? screen[i % 3]! : 0.2),
    ),
  };
  const fill = fillPyramid(raster(60, 40, (x, y, c) => 40 + 3 * x + 2 * y + 20 * c));
  const full = {
    softness: { more: 1.2 },
    edge: { feather: 3, radius: 0.1 },
    levels: { black: [0.01, 0.01, 0.01], white: [0.8, 0.7, 0.6] },
    glare: { keep: 0.7, measured: { columns: 1, rows: 1, values: [0.02, 0.02, 0.02] } },
    holdouts: [
      {
        kind: 'outline' as const,
        points: [
          [50, 30],
          [70, 32],
          [66, 60],
          [48, 58],
        ] as const,
        softness: 4,
      },
    ],
    spill: { colour: [0.25, 0.73, 0.31], amount: 1, recolour: 0.3 },
    rim: { on: true },
    grain: { amount: 1, measured: { levels: [0.5], sigma: [[0.01], [0.01], [0.01]], size: 0.5 } },
  } as unknown as DressRecipe;
  const shown = (show: Show, dress: DressRecipe): Float32Array => {
    const channels = show === 'pass-element' ? 4 : 3;
    const target: Raster =
      show === 'dressed' || show === 'clean'
        ? { ...plate, data: plate.data.slice() }
        : { width: W, height: H, channels, data: new Float32Array(W * H * channels) };
    new Renderer().render(plate, [{ fill, corners: PIN, pin: PIN, dress, frame: 2 }], target, {
      transfer: 'linear',
      show,
    });
    return target.data as Float32Array;
  };
  for (const mode of ['over', 'screen', 'add'] as const)
    it(`add up over the clean plate to the finished picture, ${mode}`, () => {
      const dress = { ...full, blend: { mode } };
      const [whole, clean, element, light, spill, held] = (
        ['dressed', 'clean', 'pass-element', 'pass-light', 'pass-spill', 'pass-holdout'] as const
      ).map((s) => shown(s, dress)) as [
        Float32Array,
        Float32Array,
        Float32Array,
        Float32Array,
        Float32Array,
        Float32Array,
      ];
      let worst = 0;
      let worstClean = 0;
      let lit = 0;
      let changed = 0;
      for (let i = 0; i < W * H; i++)
        for (let c = 0; c < 3; c++) {
          worst = Math.max(
            worst,
            Math.abs(
              clean[i * 3 + c]! * (1 - element[i * 4 + 3]!) +
                element[i * 4 + c]! +
                light[i * 3 + c]! -
                whole[i * 3 + c]!,
            ),
          );
          worstClean = Math.max(worstClean, Math.abs(plate.data[i * 3 + c]! + spill[i * 3 + c]! - clean[i * 3 + c]!));
          lit = Math.max(lit, light[i * 3 + c]!);
          changed = Math.min(changed, spill[i * 3 + c]!);
        }
      expect(worst).toBeLessThan(2e-5);
      expect(worstClean).toBeLessThan(2e-6);
      expect(lit).toBeGreaterThan(0.05);
      // Spill takes light away: a pass holds negative numbers.
      expect(changed).toBeLessThan(-0.05);
      expect(held[(45 * W + 58) * 3]).toBeCloseTo(1, 3);
      expect(held[(45 * W + 32) * 3]).toBe(0);
    });
});
