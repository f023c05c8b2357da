import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { bentBy, bentSides, foldsOver, sideAt, unbend, withHandle } from '../src/dress/shape/bend';
import { BLEND } from '../src/dress/colour/blend';
import { gridFade } from '../src/dress/light/display-look';
import { coverageAt, edgeAt } from '../src/dress/shape/edge';
import { edgeSpread } from '../src/dress/light/edge-spread';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import { fillPicture } from '../src/dress/fill/fill-time';
import { glassLight, glassLightAt } from '../src/dress/light/glare';
import { grainField, measureGrain } from '../src/dress/light/grain';
import type { Holdout, OutlineHoldout } from '../src/dress/holdout/holdout';
import { keyStrength } from '../src/dress/holdout/holdout';
import { valueAt, withKey, withoutKey } from '../src/dress/base/keys';
import { applyLevels, gammaAt, levelsAt } from '../src/dress/colour/levels';
import type { Region } from '../src/dress/base/region';
import { moments } from '../src/dress/shape/motion-blur';
import { slotToFill } from '../src/dress/shape/placement';
import type { DressRecipe } from '../src/dress/layer/recipe';
import type { Layer } from '../src/dress/render';
import { Renderer } from '../src/dress/render';
import { defocus, discKernel, discRadius, gaussianKernel } from '../src/dress/shape/softness';
import { takeSpill } from '../src/dress/light/spill';
import type { Transfer } from '../src/dress/colour/transfer';
import { CURVES, encode, encodingTable, fillCurve, linearToSrgb } from '../src/dress/colour/transfer';
import { mapPoint } from '../src/geometry/homography';
import { distort, undistort } from '../src/geometry/lens';
import type { Quad } from '../src/geometry/quad';
import type { Luma, Raster } from '../src/image/image';
import { painted } from './builders/picture';
import { waves } from './builders/scene';

const flat = (width: number, height: number, rgb: readonly number[], channels: 3 | 4 = 3): Raster => ({
  width,
  height,
  channels,
  data: Uint8Array.from({ length: width * height * channels }, (_, i) => rgb[i % channels] ?? 255),
});
const at = (r: Raster, x: number, y: number): number[] => [
  ...r.data.slice((y * r.width + x) * r.channels, (y * r.width + x) * r.channels + 3),
];
const copy = (r: Raster): Raster => ({ ...r, data: r.data.slice() });
const PIN: Quad = [
  [40, 30],
  [120, 30],
  [120, 90],
  [40, 90],
];
function dressed(plate: Raster, fill: Raster, dress: DressRecipe, more: Partial<Layer> = {}): Raster {
  const target = copy(plate);
  new Renderer().render(
    plate,
    [
      {
        fill: fillPyramid(fill, dress.levels ? { gamma: gammaAt(dress.levels, more.frame ?? 0) } : {}),
        corners: PIN,
        dress,
        ...more,
      },
    ],
    target,
  );
  return target;
}
const box = (x0: number, y0: number, x1: number, y1: number): [number, number][] => [
  [x0, y0],
  [x1, y0],
  [x1, y1],
  [x0, y1],
];
const GREY = flat(160, 120, [90, 90, 90]);
const WHITE = flat(16, 12, [255, 255, 255]);

describe('transfer functions', () => {
  it('give every code value back', () => {
    for (const t of Object.keys(CURVES) as Transfer[])
      for (let v = -0.1; v <= 1.05; v += 0.01)
        if (t !== 'acescc') expect(CURVES[t].encode(CURVES[t].decode(v))).toBeCloseTo(v, t === 'pq' ? 5 : 6);
  });
  it('meet their published points', () => {
    // ITU-R BT.2408-4, table 1: diffuse white at 203 cd/m2 is 58 % PQ and 75 % HLG.
    expect(CURVES.pq.encode(1)).toBeCloseTo(0.58, 2);
    expect(CURVES.hlg.encode(1)).toBeCloseTo(0.75, 6);
    // SMPTE ST 2084: 10,000 cd/m2 is the top of the range.
    expect(CURVES.pq.encode(10000 / 203)).toBeCloseTo(1, 6);
    // Academy S-2016-001 and S-2014-003: mid grey, 0.18, is 0.4135884 in both logs.
    expect(CURVES.acescct.encode(0.18)).toBeCloseTo(0.4135884, 6);
    expect(CURVES.acescc.encode(0.18)).toBeCloseTo(0.4135884, 6);
    // ITU-R BT.709-6: 18 % grey is 40.9 % of the signal (from memory).
    expect(CURVES.bt709.encode(0.18)).toBeCloseTo(0.409, 3);
  });
  it('agree with a general-purpose colour library', () => {
    for (const v of [0.02, 0.2, 0.5, 0.8, 1]) {
      expect(CURVES.srgb.decode(v)).toBeCloseTo(new Color('srgb', [v, v, v]).to('srgb-linear').coords[0]!, 8);
      expect(CURVES.acescc.decode(v * 0.9)).toBeCloseTo(
        new Color('acescc', [v * 0.9, v * 0.9, v * 0.9]).to('acescg').coords[0]!,
        5,
      );
      // The library's diffuse white of PQ is 203 cd/m2 too.
      expect(CURVES.pq.decode(v)).toBeCloseTo(
        new Color('rec2100pq', [v, v, v]).to('rec2020-linear').coords[0]!,
        v < 0.9 ? 4 : 2,
      );
    }
  });
  it('carry negatives and super-whites, and tables are near them', () => {
    expect(CURVES.bt709.decode(-0.2)).toBeCloseTo(-CURVES.bt709.decode(0.2), 12);
    expect(CURVES.bt709.encode(CURVES.bt709.decode(1.09))).toBeCloseTo(1.09, 9);
    for (const t of ['srgb', 'bt709', 'pq', 'hlg'] as const) {
      const table = encodingTable(255, t);
      for (let v = 0; v <= 255; v++)
        expect(Math.abs(encode(table, CURVES[t].decode(v / 255)) - v)).toBeLessThan(t === 'pq' ? 0.4 : 0.05);
    }
  });
  it('keep the code values of a display picture in a display plate', () => {
    expect(fillCurve('srgb', 'bt709')).toBe('bt709');
    expect(fillCurve('srgb', 'pq')).toBe('srgb');
    expect(fillCurve('linear', 'bt709')).toBe('linear');
  });
});

describe('values over the shot', () => {
  const keys = [
    { frame: 10, value: 2 },
    { frame: 20, value: 6, ease: 'hold' as const },
    { frame: 30, value: 0, ease: 'eased' as const },
    { frame: 40, value: 8 },
  ];
  it('go from key to key as each says, and stay beyond the ends', () => {
    expect([0, 10, 15, 20, 29, 30, 35, 40, 99].map((f) => valueAt(keys, f, 7))).toEqual([2, 2, 4, 6, 6, 0, 4, 8, 8]);
    expect(valueAt(undefined, 5, 7)).toBe(7);
    expect(valueAt(3, 5, 7)).toBe(3);
  });
  it('take a key, and turn steady again without the last one', () => {
    expect(withKey(5, { frame: 3, value: 1 })).toEqual([{ frame: 3, value: 1 }]);
    expect(withKey(keys, { frame: 20, value: 1 }).map((k) => k.value)).toEqual([2, 1, 0, 8]);
    expect(withoutKey([{ frame: 3, value: 1 }], 3)).toBe(1);
  });
});

describe('blending', () => {
  it('follows the formulas of W3C Compositing and Blending Level 1, section 10.1', () => {
    const pairs = [
      [0.2, 0.3],
      [0.8, 0.6],
      [0.1, 0.9],
      [0.5, 0.5],
    ] as const;
    for (const [cb, cs] of pairs) {
      expect(BLEND.multiply(cb, cs)).toBeCloseTo(cb * cs, 12);
      expect(BLEND.screen(cb, cs)).toBeCloseTo(1 - (1 - cb) * (1 - cs), 12);
      expect(BLEND.lighten(cb, cs)).toBe(Math.max(cb, cs));
    }
    // Soft light: from its two branches, worked out by hand. Cs 0.25: 0.4 - 0.5 * 0.4 * 0.6; Cs 0.75, Cb 0.16: D = ((16
    // * 0.16 - 12) * 0.16 + 4) * 0.16.
    expect(BLEND['soft light'](0.4, 0.25)).toBeCloseTo(0.28, 12);
    expect(BLEND['soft light'](0.16, 0.75)).toBeCloseTo(0.16 + 0.5 * (0.398336 - 0.16), 6);
    expect(BLEND['soft light'](0.64, 0.75)).toBeCloseTo(0.64 + 0.5 * (0.8 - 0.64), 12);
  });
  it('works in light, or as shown when asked', () => {
    const half = flat(16, 12, [255, 255, 255]);
    const light = dressed(GREY, half, { blend: { mode: 'multiply' } });
    const lit = dressed(GREY, half, { levels: { opacity: 0.5 } });
    const shown = dressed(GREY, half, { levels: { opacity: 0.5 }, blend: { space: 'display' } });
    expect(at(light, 80, 60)).toEqual([90, 90, 90]);
    expect(Math.abs(at(shown, 80, 60)[0]! - (90 + 255) / 2)).toBeLessThanOrEqual(0.5);
    expect(at(lit, 80, 60)[0]).toBe(Math.round(255 * linearToSrgb(0.5 + 0.5 * CURVES.srgb.decode(90 / 255))));
  });
});

describe('softness', () => {
  it('has kernels that sum to one and have the sigma that they are named by', () => {
    for (const sigma of [0.6, 1.5, 4]) {
      const k = gaussianKernel(sigma);
      const half = k.length >> 1;
      const d = discKernel(discRadius(sigma));
      const side = 2 * d.half + 1;
      expect(k.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 5);
      expect(Math.sqrt(k.reduce((s, w, i) => s + w * (i - half) ** 2, 0))).toBeCloseTo(sigma, 3);
      expect(d.weights.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4);
      // An even disc of radius r has the variance r^2 / 4 along an axis.
      expect(Math.sqrt(d.weights.reduce((s, w, i) => s + w * ((i % side) - d.half) ** 2, 0))).toBeCloseTo(sigma, 0);
    }
  });
  it('keeps the sum of light and alpha, and both shapes are what their kernels say', () => {
    for (const shape of ['gaussian', 'disc'] as const) {
      const data = new Float32Array(41 * 41 * 4);
      const k = (20 * 41 + 20) * 4;
      data.set([2, 1, 0.5, 1], k);
      defocus(data, 41, 41, 4, 2.2, shape);
      const sum = [0, 1, 2, 3].map((c) => data.reduce((s, v, i) => s + (i % 4 === c ? v : 0), 0));
      [2, 1, 0.5, 1].forEach((v, c) => expect(sum[c]).toBeCloseTo(v, 3));
      const d = discKernel(discRadius(2.2));
      const side = 2 * d.half + 1;
      if (shape === 'disc')
        for (let y = -d.half; y <= d.half; y++)
          for (let x = -d.half; x <= d.half; x++)
            expect(data[((20 + y) * 41 + 20 + x) * 4 + 3]).toBeCloseTo(d.weights[(y + d.half) * side + x + d.half]!, 5);
    }
  });
  /** A bright rectangle blurred by the exact integral of a Gaussian and smeared to the right, shown by the sRGB curve. */
  function blurred(sigma: number, smear: number): Luma {
    const erf = (x: number): number =>
      Math.sign(x) *
      (1 - 1 / (1 + 0.278393 * Math.abs(x) + 0.230389 * x * x + 0.000972 * Math.abs(x) ** 3 + 0.078108 * x ** 4) ** 4);
    const inside = (v: number, a: number, b: number): number =>
      0.5 * (erf((v - a) / (sigma * Math.SQRT2)) - erf((v - b) / (sigma * Math.SQRT2)));
    const moments = Array.from({ length: Math.max(1, 2 * smear) }, (_, i) => (i + 0.5) / 2 - smear / 2);
    const across = (x: number): number =>
      moments.reduce((s, m) => s + inside(x - (smear > 0 ? m : 0), 40, 120) / moments.length, 0);
    const data = Float32Array.from({ length: 160 * 120 }, (_, k) => {
      const light = 0.05 + 0.6 * across((k % 160) + 0.5) * inside(Math.floor(k / 160) + 0.5, 30, 90);
      return 255 * linearToSrgb(light);
    });
    return { width: 160, height: 120, data };
  }
  it('is measured at edges of known width', () => {
    for (const sigma of [0.6, 1, 2, 3.2])
      expect(Math.abs(edgeSpread(blurred(sigma, 0), PIN) - sigma)).toBeLessThan(0.15 + 0.08 * sigma);
  });
  it('is told by the sides along which a fast Screen moves, whatever is thought of its shutter', () => {
    for (const thought of [8, 14, 20])
      expect(Math.abs(edgeSpread(blurred(1, 14), PIN, () => [thought, 0]) - 1)).toBeLessThan(0.25);
  });
  it('of the plate is given to the fill', () => {
    const soft = dressed(flat(160, 120, [10, 10, 10]), WHITE, {
      softness: { amount: 1, measured: { from: 0, values: [2] } },
    });
    const profile = [36, 38, 40, 42, 44].map((x) => at(soft, x, 60)[0]!);
    profile.slice(1).forEach((v, i) => expect(v).toBeGreaterThan(profile[i]!));
    expect(at(soft, 40, 60)[0]).toBeLessThan(255 * linearToSrgb(0.68));
  });
});

describe('motion blur', () => {
  const moved = (x: number): Quad => PIN.map(([px, py]) => [px + x, py]) as unknown as Quad;
  it('at 180 degrees smears an edge over half of its movement (common practice, no source)', () => {
    const out = dressed(
      flat(160, 120, [0, 0, 0]),
      WHITE,
      { motionBlur: { on: true, shutter: 180 } },
      { before: moved(-16), after: moved(16) },
    );
    const light = (x: number): number => CURVES.srgb.decode(at(out, x, 60)[0]! / 255);
    expect(light(35)).toBeLessThan(0.02);
    expect(light(44)).toBeGreaterThan(0.98);
    for (let x = 37; x < 43; x++) expect(light(x)).toBeCloseTo((x + 0.5 - 36) / 8, 1);
  });
  it('follows the path that bends, and is nothing at rest', () => {
    expect(moments(PIN, PIN, PIN, 0.5)).toEqual([PIN]);
    const path = moments(moved(-10), PIN, moved(14), 1);
    expect(path.length).toBeGreaterThan(8);
    expect(path.at(-1)![0][0] - PIN[0][0]).toBeGreaterThan(PIN[0][0] - path[0]![0][0]);
  });
});

describe('levels', () => {
  const one = (r: number, g: number, b: number, l: Parameters<typeof levelsAt>[0]): number[] => {
    const data = Float32Array.from([r, g, b, 1]);
    applyLevels(data, levelsAt(l, 0, 24));
    return [...data];
  };
  it("lay the fill between the plate's black and white", () => {
    expect(
      one(0, 0, 0, { black: [0.02, 0.03, 0.04], white: [0.6, 0.6, 0.6] })
        .slice(0, 3)
        .map((v) => Number(v.toFixed(6))),
    ).toEqual([0.02, 0.03, 0.04]);
    expect(one(1, 1, 1, { black: [0.02, 0.03, 0.04], white: [0.6, 0.6, 0.6] })[0]).toBeCloseTo(0.6, 6);
  });
  it('lift leaves white, gain scales it, saturation zero is luminance, a whole turn of hue is none', () => {
    expect(one(1, 1, 1, { lift: 0.2 })[0]).toBeCloseTo(1, 6);
    expect(one(0, 0, 0, { lift: 0.2 })[0]).toBeCloseTo(0.2, 6);
    expect(one(0.5, 0.5, 0.5, { gain: 0.5 })[0]).toBeCloseTo(0.25, 6);
    expect(one(1, 0, 0, { saturation: 0 })[1]).toBeCloseTo(0.2126, 5);
    expect(one(0.3, 0.5, 0.7, { hue: 360 })[0]).toBeCloseTo(0.3, 3);
  });
  it('temperature and tint keep the luminance of white', () => {
    for (const l of [{ temperature: 1 }, { temperature: -0.7, tint: 0.5 }]) {
      const [r, g, b] = one(1, 1, 1, l);
      expect(0.2126 * r! + 0.7152 * g! + 0.0722 * b!).toBeCloseTo(1, 5);
    }
    expect(one(1, 1, 1, { temperature: 1 })[0]).toBeGreaterThan(one(1, 1, 1, { temperature: 1 })[2]!);
  });
  it('gamma is bent into the fill as it is read, and flicker is the same each time', () => {
    const out = dressed(GREY, flat(16, 12, [128, 128, 128]), { levels: { gamma: 2 } });
    expect(at(out, 80, 60)[0]).toBe(Math.round(255 * linearToSrgb(Math.sqrt(CURVES.srgb.decode(128 / 255)))));
    const f = { flicker: { depth: 0.3, rate: 12, seed: 4 } };
    const run = [0, 1, 2, 3, 4, 5].map((n) => levelsAt(f, n, 24).matrix[0]!);
    expect(run).toEqual([0, 1, 2, 3, 4, 5].map((n) => levelsAt(f, n, 24).matrix[0]!));
    expect(Math.max(...run) - Math.min(...run)).toBeGreaterThan(0.02);
  });
});

describe('placement', () => {
  const where = (m: readonly number[], s: number, t: number): number[] =>
    mapPoint(m, [s, t]).map((v) => Number(v.toFixed(6)));
  it('stretches, contains and covers by the measured aspect', () => {
    expect(where(slotToFill({}, 0, 200, 100, 1), 1, 1)).toEqual([200, 100]);
    expect(where(slotToFill({ fit: 'contain' }, 0, 200, 100, 1), 0.5, 0.25)).toEqual([100, 0]);
    expect(where(slotToFill({ fit: 'cover' }, 0, 200, 100, 1), 0, 0)).toEqual([50, 0]);
  });
  it('turns by quarters, mirrors and crops', () => {
    // A quarter clockwise: the fill's top-left comes to the slot's top-right.
    expect(where(slotToFill({ quarterTurns: 1 }, 0, 200, 100, 1), 1, 0)).toEqual([0, 0]);
    expect(where(slotToFill({ mirror: true }, 0, 200, 100, 1), 0, 0)).toEqual([200, 0]);
    expect(where(slotToFill({ crop: [2, 2, 2, 2] }, 0, 200, 100, 1), 0, 0)).toEqual([2, 2]);
    expect(where(slotToFill({ crop: [2, 2, 2, 2] }, 0, 200, 100, 1), 1, 1)).toEqual([198, 98]);
  });
  it('moves, scales and turns within the plane, over time', () => {
    const p = {
      x: [
        { frame: 0, value: 0 },
        { frame: 10, value: 0.5 },
      ],
      scale: 0.5,
    };
    expect(where(slotToFill(p, 10, 200, 100, 2), 1, 0.5)).toEqual([100, 50]);
    expect(where(slotToFill({ turn: 90 }, 0, 100, 100, 1), 1, 0)).toEqual([0, 0]);
  });
  it('ends where the picture ends when it does not fill the slot', () => {
    const out = dressed(GREY, WHITE, { placement: { scale: 0.5 } });
    expect(at(out, 80, 60)).toEqual([255, 255, 255]);
    expect(at(out, 45, 60)).toEqual([90, 90, 90]);
  });
});

describe('the edge', () => {
  it('is drawn in, feathered and rounded', () => {
    const out = dressed(flat(160, 120, [0, 0, 0]), WHITE, { edge: { inset: 3, radius: 0.2 } });
    expect(at(out, 42, 60)[0]).toBe(0);
    expect(at(out, 43, 60)[0]).toBe(255);
    expect(at(out, 45, 35)[0]).toBe(0);
    const soft = dressed(flat(160, 120, [0, 0, 0]), WHITE, { edge: { feather: { sides: [0, 0, 0, 10] } } });
    expect(at(soft, 42, 60)[0]).toBeGreaterThan(0);
    expect(at(soft, 45, 60)[0]).toBeLessThan(240);
    expect(at(soft, 118, 60)[0]).toBe(255);
  });
  it('is drawn in side by side, and grows where a side is negative', () => {
    const cut = { edge: { inset: { sides: [0, 0, 0, 6] } } };
    const out = dressed(flat(160, 120, [0, 0, 0]), WHITE, cut);
    // The left side stands at 40, the right one at 120.
    expect([at(out, 45, 60)[0], at(out, 46, 60)[0], at(out, 119, 60)[0]]).toEqual([0, 255, 255]);
    const grown = dressed(flat(160, 120, [0, 0, 0]), WHITE, { edge: { inset: { sides: [0, -4, 0, 0] } } });
    expect([at(grown, 123, 60)[0], at(grown, 124, 60)[0], at(grown, 39, 60)[0]]).toEqual([255, 0, 0]);
  });
  it('covers a rounded corner by about its exact area', () => {
    const e = edgeAt({ radius: 0.25 }, 0, 1, 1);
    const n = 200;
    let sum = 0;
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) sum += coverageAt(e, 1, (x + 0.5) / n, (y + 0.5) / n, 1 / n, 0, 0, 1 / n) / (n * n);
    // A square of side 1 whose corners are quarter circles of radius r has the area 1 - (4 - pi) r^2.
    expect(sum).toBeCloseTo(1 - (4 - Math.PI) * 0.25 ** 2, 3);
  });
  it('has no dark fringe where feather meets colour', () => {
    const out = dressed(flat(160, 120, [255, 255, 255]), WHITE, { edge: { feather: 12 } });
    for (let x = 30; x < 130; x++) expect(at(out, x, 60)).toEqual([255, 255, 255]);
  });
});

describe('the bend', () => {
  const top = [
    { at: 0.3, y: -0.05 },
    { at: 0.7, y: -0.08 },
  ];
  it('goes through its handles, and one more on the curve changes nothing', () => {
    expect(sideAt(top, 0, 0.3)[1]).toBeCloseTo(-0.05, 12);
    const more = withHandle(top, 0.5, 0);
    for (let t = 0; t <= 1; t += 0.05) expect(sideAt(more, 0, t)[1]).toBeCloseTo(sideAt(top, 0, t)[1], 10);
  });
  it('moves the inside smoothly and is undone place by place', () => {
    const sides = bentSides({ top, left: [{ at: 0.5, x: 0.06 }] }, 0)!;
    const out = new Float64Array(2);
    for (const [s, t] of [
      [0.2, 0.1],
      [0.5, 0.5],
      [0.9, 0.3],
    ] as const) {
      unbend(sides, s + bentBy(sides, s, t, 0), t + bentBy(sides, s, t, 1), out);
      expect(out[0]).toBeCloseTo(s, 3);
      expect(out[1]).toBeCloseTo(t, 3);
    }
    expect(bentBy(sides, 0.5, 1, 1)).toBeCloseTo(0, 6);
  });
  it('is seen in the picture, and a fold is told', () => {
    const out = dressed(flat(160, 120, [0, 0, 0]), WHITE, { bend: { top: [{ at: 0.5, y: -0.1 }] } });
    expect(at(out, 80, 26)[0]).toBe(255);
    expect(at(out, 42, 28)[0]).toBe(0);
    expect(foldsOver(bentSides({ top }, 0)!)).toBe(false);
    expect(foldsOver(bentSides({ top: [{ at: 0.5, y: 1.4 }] }, 0)!)).toBe(true);
  });
});

describe('a lens that bows the picture', () => {
  it("bows the fill alike: a side's middle lies where the lens puts it, corners stay", () => {
    const lens = { radial: -0.12, width: 160, height: 120 };
    const far: Quad = [
      [12, 12],
      [148, 12],
      [148, 108],
      [12, 108],
    ];
    const target = flat(160, 120, [0, 0, 0]);
    new Renderer().render(flat(160, 120, [0, 0, 0]), [{ fill: fillPyramid(WHITE), corners: far, lens }], target);
    const ideal = far.map((c) => undistort(lens, c));
    const middle = distort(lens, [(ideal[0]![0] + ideal[1]![0]) / 2, (ideal[0]![1] + ideal[1]![1]) / 2]);
    // Barrel: the upper side's middle lies outside the line between its corners.
    expect(middle[1]).toBeLessThan(11);
    expect(at(target, 80, Math.round(middle[1]) + 1)[0]).toBe(255);
    expect(at(target, 80, Math.round(middle[1]) - 2)[0]).toBe(0);
    expect(at(target, 10, 10)[0]).toBe(0);
    expect(at(target, 15, 15)[0]).toBe(255);
  });
});

describe('light on the glass', () => {
  it('is what a robust dark level over time leaves, and is laid over the fill', () => {
    const dark = 0.02;
    const samples = Array.from({ length: 20 }, (_, n) =>
      Float32Array.from({ length: 8 * 6 * 3 }, (_, k) => (n > 12 && Math.floor(k / 3) % 8 > 4 ? 0.3 : dark)),
    );
    const own = glassLight(samples, 8, 6);
    expect(glassLightAt(own, 0.8, 0.5, 0)).toBeCloseTo(dark, 5);
    const plate = painted(160, 120, (x) => 255 * linearToSrgb(x > 90 && x < 110 ? dark + 0.2 : dark));
    const black = flat(16, 12, [0, 0, 0]);
    const out = dressed(plate, black, { glare: { keep: 1, soften: 0, measured: own } });
    expect(CURVES.srgb.decode(at(out, 100, 60)[0]! / 255)).toBeCloseTo(0.2, 1);
    expect(at(out, 60, 60)[0]).toBeLessThan(8);
    expect(at(dressed(plate, black, { glare: { keep: 0, soften: 0, measured: own } }), 100, 60)[0]).toBe(0);
  });
});

describe('holdouts', () => {
  it('that are soft leave the fill whole up to its own sides', () => {
    // A soft outline in the middle of the Screen: it must not reach for the border of what is rendered.
    const plate = flat(160, 120, [200, 40, 40]);
    const middle = { kind: 'outline', points: box(75, 55, 85, 65), softness: 14 } as const;
    const out = dressed(plate, flat(16, 12, [0, 0, 255]), { holdouts: [middle] });
    for (const [x, y] of [[42, 60], [118, 60], [80, 32], [80, 88]] as const) expect(at(out, x, y)).toEqual([0, 0, 255]); // prettier-ignore
    expect(at(out, 80, 60)[0]).toBeGreaterThan(60);
  });
  const GREEN = [40, 180, 70];
  const SKIN = [200, 150, 120];
  const plate = painted(160, 120, (x, y, c) => {
    if (x >= 40 && x < 120 && y >= 30 && y < 90) return x > 70 && x < 90 && y > 60 ? SKIN[c]! : GREEN[c]!;
    return 60;
  });
  const key = { kind: 'key' as const, colours: [GREEN.map((v) => v / 255)], gone: 0.3, solid: 0.7 };
  it("tell the screen's colour from skin, greys and darker shades of itself", () => {
    const s = (c: readonly number[], k = 1): number =>
      keyStrength(
        GREEN.map((v) => v / 255),
        (k * c[0]!) / 255,
        (k * c[1]!) / 255,
        (k * c[2]!) / 255,
      );
    expect(s(GREEN)).toBeCloseTo(1, 6);
    expect(s(SKIN)).toBe(0);
    expect(s([128, 128, 128])).toBeCloseTo(0, 6);
    expect(s(GREEN, 0.8)).toBeCloseTo(0.8, 6);
  });
  it('keep a finger in front, and can be turned round', () => {
    const out = dressed(plate, WHITE, { holdouts: [key] });
    expect(at(out, 80, 80)).toEqual(SKIN);
    expect(at(out, 60, 50)).toEqual([255, 255, 255]);
    expect(at(dressed(plate, WHITE, { holdouts: [{ ...key, invert: true }] }), 60, 50)).toEqual(GREEN);
  });
  it('work in their order: what is held out first is given back after', () => {
    const out: Holdout = { kind: 'outline', points: box(60, 50, 80, 70) };
    const back: Holdout = { kind: 'outline', points: box(65, 55, 75, 65), givesBack: true };
    const seen = (holdouts: readonly Holdout[]): number[] => {
      const made = dressed(GREY, WHITE, { holdouts });
      return [70, 62, 50].map((x) => at(made, x, 60)[0]!);
    };
    expect(seen([out, back])).toEqual([255, 90, 255]);
    expect(seen([back, out])).toEqual([90, 90, 255]);
    expect(seen([back])).toEqual([255, 255, 255]);
  });
  it('that stay on the picture are moved by their own keys alone', () => {
    const moved = PIN.map(([x, y]) => [x - 10, y]) as unknown as Quad;
    const points = box(60, 50, 80, 70);
    const keys = [{ frame: 4, points: box(90, 50, 110, 70) }];
    const held = (h: Partial<OutlineHoldout>, frame: number): number[] => {
      const holdouts = [{ kind: 'outline' as const, points, ...h }];
      const made = dressed(GREY, WHITE, { holdouts }, { corners: moved, pin: PIN, frame });
      return Array.from({ length: 70 }, (_, i) => 35 + i).filter((x) => at(made, x, 60)[0] === 90);
    };
    expect(held({}, 0)[0]).toBe(50);
    expect(held({ onPicture: true }, 0)[0]).toBe(60);
    expect(held({ onPicture: true, keys }, 2)[0]).toBe(75);
    expect(held({ onPicture: true, keys }, 9)[0]).toBe(90);
  });
  it('are led by handles', () => {
    const round: Holdout = {
      kind: 'outline',
      points: box(60, 50, 80, 70),
      handles: [0, 1, 2, 3].map(() => [0, 0, 0, 0] as const),
    };
    const bowed = { ...round, handles: round.handles!.with(0, [0, 0, 0, -8]).with(1, [0, -8, 0, 0]) };
    expect(at(dressed(GREY, WHITE, { holdouts: [round] }), 70, 47)[0]).toBe(255);
    expect(at(dressed(GREY, WHITE, { holdouts: [bowed] }), 70, 47)[0]).toBe(90);
  });
  it('grow over the fill by so many px, and shrink by them', () => {
    // The outline holds out the columns 60 to 79; three px more and less to each side.
    const held = (grow: number): number[] => {
      const out = dressed(GREY, WHITE, { holdouts: [{ kind: 'outline', points: box(60, 50, 80, 70), grow }] });
      return Array.from({ length: 80 }, (_, i) => 40 + i).filter((x) => at(out, x, 60)[0] === 90);
    };
    expect([held(0)[0], held(0).at(-1)]).toEqual([60, 79]);
    expect([held(3)[0], held(3).at(-1)]).toEqual([57, 82]);
    expect([held(-3)[0], held(-3).at(-1)]).toEqual([63, 76]);
  });
  it('fill crosses before they are used', () => {
    const crossed = painted(160, 120, (x, y, c) =>
      Math.abs(x - 60) < 2 && Math.abs(y - 50) < 6 ? 20 : at(plate, x, y)[c]!,
    );
    expect(at(dressed(crossed, WHITE, { holdouts: [key] }), 60, 50)).toEqual([20, 20, 20]);
    const filled = dressed(crossed, WHITE, { holdouts: [{ ...key, crosses: 8 }] });
    expect(at(filled, 60, 50)).toEqual([255, 255, 255]);
    expect(at(filled, 80, 80)).toEqual(SKIN);
  });
  it('leave a fingertip in front that reaches in over a side, though it is no wider than a cross, and close one that it touches', () => {
    const isTip = (x: number, y: number): boolean => x < 52 && y >= 46 && y < 56;
    const isCross = (x: number, y: number): boolean =>
      (x >= 48 && x < 60 && y >= 50 && y < 53) || (x >= 54 && x < 57 && y >= 45 && y < 58);
    const tip = painted(160, 120, (x, y, c) => {
      if (isTip(x, y)) return SKIN[c]!;
      return isCross(x, y) ? 20 : at(plate, x, y)[c]!;
    });
    const out = dressed(tip, WHITE, { holdouts: [{ ...key, crosses: 14 }] });
    for (const x of [41, 44, 48]) expect(at(out, x, 49)).toEqual(SKIN);
    for (const [x, y] of [[58, 51], [55, 46], [55, 57], [62, 51]] as const) expect(at(out, x, y)).toEqual([255, 255, 255]); // prettier-ignore
  });
  it('by outline ride on the plane and are cut by shares of a pixel', () => {
    const out = dressed(
      GREY,
      WHITE,
      {
        holdouts: [
          {
            kind: 'outline',
            points: [
              [60, 40],
              [80.5, 40],
              [80.5, 80],
              [60, 80],
            ],
          },
        ],
      },
      { pin: PIN.map(([x, y]) => [x - 5, y]) as unknown as Quad },
    );
    expect(at(out, 70, 60)).toEqual([90, 90, 90]);
    expect(at(out, 62, 60)).toEqual([255, 255, 255]);
    expect(CURVES.srgb.decode(at(out, 85, 60)[0]! / 255)).toBeCloseTo(0.5 + 0.5 * CURVES.srgb.decode(90 / 255), 1);
  });
  it('by difference hold out what is not the dark glass', () => {
    const glass = { columns: 2, rows: 2, values: new Array<number>(12).fill(CURVES.srgb.decode(60 / 255)) };
    const finger = painted(160, 120, (x) => (x > 70 && x < 90 ? 150 : 60));
    const out = dressed(finger, WHITE, {
      glare: { keep: 0, measured: glass },
      holdouts: [{ kind: 'difference', solid: 0.06, gone: 0.15 }],
    });
    expect(at(out, 80, 60)[0]).toBe(150);
    expect(at(out, 50, 60)[0]).toBe(255);
  });
});

describe('spill', () => {
  it("is taken near the pin, fades away from it, and may come back in the fill's colour", () => {
    const region = { x: 0, y: 0, width: 160, height: 120 };
    const light = (): Float32Array => Float32Array.from({ length: 160 * 120 * 3 }, (_, i) => [0.2, 0.4, 0.2][i % 3]!);
    const plate = light();
    expect(takeSpill(plate, region, PIN, [0.1, 0.7, 0.2], 1, 0, 20, [0, 0, 0])).toBe(true);
    const green = (x: number): number => plate[(60 * 160 + x) * 3 + 1]!;
    expect(green(38)).toBeLessThan(0.21);
    expect(green(28)).toBeGreaterThan(green(38));
    expect(green(10)).toBeCloseTo(0.4, 6);
    const red = light();
    takeSpill(red, region, PIN, [0.1, 0.7, 0.2], 1, 1, Infinity, [1, 0, 0]);
    expect(red[0]).toBeCloseTo(0.4, 5);
  });
  it('is what the strongest channel has over the mean of both others, each counted', () => {
    const region = { x: 0, y: 0, width: 4, height: 4 };
    const taken = (colour: number[], light: number[]): number[] => {
      const plate = Float32Array.from({ length: 4 * 4 * 3 }, (_, i) => light[i % 3]!);
      takeSpill(plate, region, PIN, colour, 1, 0, Infinity, [0, 0, 0]);
      return [...plate.slice(0, 3)].map((v) => Math.round(v * 1e4) / 1e4);
    };
    expect(taken([0.1, 0.7, 0.2], [0.1, 0.5, 0.3])).toEqual([0.1, 0.2, 0.3]);
    expect(taken([0.1, 0.2, 0.7], [0.3, 0.1, 0.5])).toEqual([0.3, 0.1, 0.2]);
    expect(taken([0.7, 0.1, 0.2], [0.5, 0.1, 0.3])).toEqual([0.2, 0.1, 0.3]);
  });
  it('leaves pixels without it bit for bit', () => {
    const plate = painted(160, 120, (x, y) => 40 + ((x * 7 + y * 13) % 90));
    const out = dressed(plate, WHITE, { spill: { colour: [0.1, 0.7, 0.2], reach: 30 } });
    for (let x = 0; x < 38; x++) expect(at(out, x, 20)).toEqual(at(plate, x, 20));
  });
});

describe('the rim of the old screen', () => {
  it('is replaced by what lies beyond it, and fingers are left alone', () => {
    // A bright screen whose light was smeared 4 px over a dark bezel.
    const plate = painted(160, 120, (x, y) => (x >= 36 && x < 124 && y >= 26 && y < 94 ? 220 : 30));
    const black = flat(16, 12, [0, 0, 0]);
    const soft = { softness: { more: 1.5 } };
    expect(at(dressed(plate, black, soft), 37, 60)[0]).toBeGreaterThan(150);
    const clean = dressed(plate, black, { ...soft, rim: { on: true, more: 2 } });
    expect(at(clean, 37, 60)[0]).toBeLessThan(60);
    expect(at(clean, 41, 60)[0]).toBeLessThan(60);
    expect(at(clean, 20, 60)).toEqual([30, 30, 30]);
    const finger = dressed(plate, black, {
      ...soft,
      rim: { on: true, more: 2 },
      holdouts: [
        {
          kind: 'outline',
          points: [
            [20, 50],
            [60, 50],
            [60, 70],
            [20, 70],
          ],
        },
      ],
    });
    expect(at(finger, 37, 60)).toEqual(at(plate, 37, 60));
  });
});

const unitNoise = (region: Region, frame: number, size: number): Float32Array => {
  const { data, row, first, strength } = grainField(region, frame, 1, size);
  return Float32Array.from(
    { length: region.width * region.height * 3 },
    (_, i) => data[first + Math.floor(i / (3 * region.width)) * row + (i % (3 * region.width))]! / strength,
  );
};

describe('grain', () => {
  it('that is made has the strength and size that were measured, on one frame as on the next', () => {
    for (const size of [0, 0.7]) {
      const field = unitNoise({ x: 3, y: 5, width: 200, height: 160 }, 4, size);
      const picture = Float32Array.from(field, (v, i) => 0.3 + 0.3 * (Math.floor(i / 3 / 200) > 80 ? 1 : 0) + 0.02 * v);
      const m = measureGrain(picture, 200, 160);
      for (const s of m.sigma[1]!) expect(Math.abs(s / 0.02 - 1)).toBeLessThan(size > 0 ? 0.3 : 0.2);
      expect(Math.abs(m.size - size)).toBeLessThan(0.35);
    }
  });
  it('differs from frame to frame, and not with where the region begins', () => {
    const a = unitNoise({ x: 0, y: 0, width: 30, height: 20 }, 1, 0.6);
    const b = unitNoise({ x: 10, y: 5, width: 20, height: 15 }, 1, 0.6);
    const c = unitNoise({ x: 0, y: 0, width: 30, height: 20 }, 2, 0.6);
    for (let y = 0; y < 15; y++)
      for (let x = 0; x < 20; x++) expect(b[(y * 20 + x) * 3]).toBeCloseTo(a[((y + 5) * 30 + x + 10) * 3]!, 5);
    expect(Math.abs(c[0]! - a[0]!)).toBeGreaterThan(1e-3);
  });
  it('lies over the fill alone', () => {
    const out = dressed(GREY, flat(16, 12, [120, 120, 120]), {
      grain: { amount: 1, measured: { levels: [0.5], sigma: [[0.02], [0.02], [0.02]], size: 0 } },
    });
    const inside = Array.from({ length: 60 }, (_, i) => at(out, 50 + i, 60)[0]! - 120);
    const rms = Math.sqrt(inside.reduce((s, v) => s + v * v, 0) / 60);
    expect(rms).toBeGreaterThan(3);
    expect(rms).toBeLessThan(8);
    expect(at(out, 20, 60)).toEqual([90, 90, 90]);
  });
});

describe("a display's pixel grid", () => {
  it('is gone before the plate could no longer carry it, so that no beat is left', () => {
    expect(gridFade(2)).toBe(0);
    expect(gridFade(5)).toBe(1);
    // 80 px hold 50 periods here: 1.6 px each. Nothing may be seen of it, least of all a slow wave.
    const out = dressed(flat(160, 120, [0, 0, 0]), flat(16, 12, [128, 128, 128]), {
      look: { grid: 1, resolution: [50, 40] },
    });
    for (let x = 44; x < 116; x++) expect(Math.abs(at(out, x, 60)[0]! - 128)).toBeLessThanOrEqual(1);
    const near = dressed(flat(160, 120, [0, 0, 0]), flat(16, 12, [128, 128, 128]), {
      look: { grid: 1, resolution: [16, 12] },
    });
    const row = Array.from({ length: 70 }, (_, i) => at(near, 45 + i, 60)[0]!);
    expect(Math.max(...row) - Math.min(...row)).toBeGreaterThan(30);
  });
});

describe('kinds of pixels', () => {
  it('give the same numbers, whether their array clamps or not', () => {
    const plate = painted(160, 120, (x, y) => waves(4)(x, y));
    const clamped: Raster = { ...plate, data: Uint8ClampedArray.from(plate.data) };
    const fill = painted(32, 24, (x, _y, c) => 40 + 6 * x + 10 * c);
    const dress: DressRecipe = { softness: { more: 1.5 }, levels: { gain: 0.9 } };
    expect([...dressed(clamped, fill, dress).data]).toEqual([...dressed(plate, fill, dress).data]);
  });
});

describe('several Screens', () => {
  it('lie in their order, and each is keyed by the plate and not by the one beneath', () => {
    const red = flat(8, 8, [200, 30, 30]);
    const blue = flat(8, 8, [30, 30, 200]);
    const plate = copy(GREY);
    const target = copy(plate);
    const other: Quad = [
      [80, 30],
      [150, 30],
      [150, 90],
      [80, 90],
    ];
    new Renderer().render(
      plate,
      [
        { fill: fillPyramid(red), corners: PIN },
        { fill: fillPyramid(blue), corners: other },
      ],
      target,
    );
    expect(at(target, 100, 60)).toEqual([30, 30, 200]);
    expect(at(target, 60, 60)).toEqual([200, 30, 30]);
  });
});

describe('the element', () => {
  it('has straight alpha, and over the plate gives the finished picture', () => {
    const plate = painted(160, 120, (x, y) => waves(4)(x, y));
    const dress: DressRecipe = {
      softness: { more: 1.5 },
      edge: { feather: 4 },
      levels: { black: [0.01, 0.01, 0.01], white: [0.8, 0.8, 0.8], opacity: 0.8 },
    };
    const fill = painted(32, 24, (x, _y, c) => 40 + 6 * x + 10 * c);
    const whole = dressed(plate, fill, dress);
    const element: Raster = { width: 160, height: 120, channels: 4, data: new Uint8Array(160 * 120 * 4) };
    new Renderer().render(plate, [{ fill: fillPyramid(fill), corners: PIN, dress }], element, { show: 'element' });
    for (let y = 20; y < 100; y += 3)
      for (let x = 30; x < 130; x += 3) {
        const a = element.data[(y * 160 + x) * 4 + 3]! / 255;
        const own = at(element, x, y);
        const under = at(plate, x, y);
        const over = own.map(
          (v, c) => 255 * linearToSrgb(a * CURVES.srgb.decode(v / 255) + (1 - a) * CURVES.srgb.decode(under[c]! / 255)),
        );
        over.forEach((v, c) => expect(Math.abs(v - at(whole, x, y)[c]!)).toBeLessThan(3));
      }
  });
});

describe('the time of a fill', () => {
  it('is its own, begins where told, and ends as told', () => {
    const rate = [24, 1] as const;
    expect([0, 5, 30].map((f) => fillPicture({}, f, 10, rate, rate))).toEqual([0, 5, 9]);
    expect([0, 5, 9, 12].map((f) => fillPicture({ start: 5, end: 'loop' }, f, 6, rate, rate))).toEqual([0, 0, 4, 1]);
    expect([0, 1].map((f) => fillPicture({ reverse: true }, f, 10, rate, rate))).toEqual([9, 8]);
    // 30 pictures a second beside a plate of 24: five pictures in four frames.
    expect([0, 1, 2, 3, 4].map((f) => fillPicture({}, f, 99, [30, 1], rate))).toEqual([0, 1, 2, 3, 5]);
    expect([0, 1, 2].map((f) => fillPicture({ rate: 'frames', speed: 2 }, f, 99, [30, 1], rate))).toEqual([0, 2, 4]);
    expect(fillPicture({}, 24000, 99999, [30000, 1001], [24000, 1001])).toBe(30000);
  });
});
