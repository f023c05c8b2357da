import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { parseCube, throughTable } from '../src/dress/colour/cube-table';
import { fillPyramid, linearise, readingOf } from '../src/dress/fill/fill-pyramid';
import type { Primaries } from '../src/dress/colour/primaries';
import { CHROMATICITIES, primariesMatrix, primariesOf, toXyz } from '../src/dress/colour/primaries';
import { Renderer } from '../src/dress/render';
import { CURVES } from '../src/dress/colour/transfer';
import { toCodes, toFloat } from '../src/image/float-raster';
import type { Raster } from '../src/image/image';
import type { Quad } from '../src/geometry/quad';

const times = (m: readonly number[], v: readonly number[]): number[] =>
  [0, 3, 6].map((r) => m[r]! * v[0]! + m[r + 1]! * v[1]! + m[r + 2]! * v[2]!);
const PIN: Quad = [
  [8, 6],
  [40, 6],
  [40, 30],
  [8, 30],
];
const floats = (rgb: readonly number[], channels: 3 | 4 = 3): Raster => ({
  width: 48,
  height: 36,
  channels,
  data: Float32Array.from({ length: 48 * 36 * channels }, (_, i) => rgb[i % channels] ?? 1),
});
const at = (r: Raster, x: number, y: number): number[] => [
  ...r.data.slice((y * r.width + x) * r.channels, (y * r.width + x) * r.channels + r.channels),
];

describe('primaries', () => {
  it('make the published matrix of Rec.709', () => {
    // IEC 61966-2-1:1999, equation 1 (amended): linear sRGB to CIE XYZ with D65.
    [0.4124, 0.3576, 0.1805, 0.2126, 0.7152, 0.0722, 0.0193, 0.1192, 0.9505].forEach((v, i) =>
      expect(toXyz('bt709')[i]).toBeCloseTo(v, 3),
    );
    // ITU-R BT.2020-2, table 4: the luminance weights are the middle row.
    [0.2627, 0.678, 0.0593].forEach((v, i) => expect(toXyz('bt2020')[3 + i]).toBeCloseTo(v, 4));
  });
  it.each([
    ['bt2020', 'rec2020-linear'],
    ['p3', 'p3-linear'],
    ['ap1', 'acescg'],
    ['bt709', 'srgb-linear'],
  ] as const)('%s agree with a general-purpose colour library', (own, theirs) => {
    for (const rgb of [
      [1, 0, 0],
      [0, 1, 0],
      [0.2, 0.5, 0.9],
      [1, 1, 1],
    ] as const) {
      const expected = new Color(theirs, [...rgb]).to('srgb-linear', { inGamut: false }).coords;
      times(primariesMatrix(own, 'bt709'), rgb).forEach((v, i) => expect(v).toBeCloseTo(expected[i]!, 3));
    }
  });
  it('keep white, go there and back, and change nothing between equal ones', () => {
    for (const p of Object.keys(CHROMATICITIES) as Primaries[]) {
      times(primariesMatrix(p, 'bt709'), [1, 1, 1]).forEach((v) => expect(v).toBeCloseTo(1, 6));
      times(primariesMatrix('bt709', p), times(primariesMatrix(p, 'bt709'), [0.1, 0.6, 0.3])).forEach((v, i) =>
        expect(v).toBeCloseTo([0.1, 0.6, 0.3][i]!, 9),
      );
    }
    expect(
      readingOf(undefined, 0, { transfer: null, primaries: null }, {}, { transfer: null, primaries: 'bt709' })
        .primaries,
    ).toBeUndefined();
  });
  it('are read from tags, and set by hand before them', () => {
    expect(primariesOf('smpte432')).toBe('p3');
    expect(primariesOf(null)).toBe('bt709');
    expect(primariesOf('bt709', 'ap0')).toBe('ap0');
  });
  it('of a fill are taken to the plate’s: a wide green is beyond what Rec.709 shows, and stays so', () => {
    const green: Raster = {
      width: 4,
      height: 4,
      channels: 3,
      data: Uint8Array.from({ length: 48 }, (_, i) => (i % 3 === 1 ? 255 : 0)),
    };
    const { data } = linearise(
      green,
      readingOf(
        undefined,
        0,
        { transfer: 'linear', primaries: 'bt2020' },
        {},
        { transfer: 'linear', primaries: 'bt709' },
      ),
    );
    expect(data[0]).toBeLessThan(-0.4);
    expect(data[1]).toBeGreaterThan(1.1);
  });
});

describe('colour tables', () => {
  const lattice = (n: number, f: (r: number, g: number, b: number) => readonly number[], head = ''): string =>
    `# made here\nTITLE "quay"\nLUT_3D_SIZE ${n}\n${head}` +
    Array.from({ length: n ** 3 }, (_, i) =>
      f((i % n) / (n - 1), (Math.floor(i / n) % n) / (n - 1), Math.floor(i / n / n) / (n - 1))
        .map((v) => v.toFixed(7))
        .join(' '),
    ).join('\n');
  const look = (text: string, rgb: readonly [number, number, number]): number[] => {
    const out = new Float32Array(3);
    throughTable(parseCube(text), ...rgb, out);
    return [...out];
  };
  it('give an affine map exactly, red changing fastest', () => {
    for (const rgb of [
      [0, 0, 0],
      [1, 1, 1],
      [0.3, 0.7, 0.1],
      [0.91, 0.2, 0.55],
      [0.5, 0.4, 0.6],
    ] as const)
      look(
        lattice(5, (r, g, b) => [0.5 * r + 0.1, g * 0.8, 1 - b]),
        rgb,
      ).forEach((v, i) => expect(v).toBeCloseTo([0.5 * rgb[0] + 0.1, rgb[1] * 0.8, 1 - rgb[2]][i]!, 6));
  });
  it('keep greys grey where a lattice’s own greys are', () => {
    const out = look(
      lattice(4, (r, g, b) => [r * r, g * g, b * b]),
      [0.45, 0.45, 0.45],
    );
    expect(out[0]).toBeCloseTo(out[1]!, 6);
    expect(out[1]).toBeCloseTo(out[2]!, 6);
  });
  it('of one dimension are a curve per channel, over their own domain', () => {
    const text = 'LUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n0 0 0\n0.5 0.25 1\n1 1 1\n';
    look(text, [1, 1, 1]).forEach((v, i) => expect(v).toBeCloseTo([0.5, 0.25, 1][i]!, 6));
    look(text, [5, -3, 0.5]).forEach((v, i) => expect(v).toBeCloseTo([1, 0, 0.5][i]!, 6));
  });
  it('say what is wrong with them, and where', () => {
    expect(() => parseCube('hello')).toThrow(/line 1/);
    expect(() => parseCube('LUT_3D_SIZE 2\n0 0 0\n')).toThrow(/ends after 1 of 8/);
    expect(() => parseCube('LUT_3D_SIZE 500\n')).toThrow(/from 2 to 129/);
    expect(() => parseCube(`${lattice(2, (r) => [r, r, r])}\n1 1 1`)).toThrow(/more than the 8/);
    expect(() => parseCube('LUT_1D_SIZE 2\n0 0\n1 1 1')).toThrow(/line 2.*three numbers/);
    expect(() => parseCube('# nothing')).toThrow(/no line LUT_1D_SIZE/);
  });
  it('turn a fill’s code values before its curve', () => {
    const half: Raster = { width: 4, height: 4, channels: 3, data: new Uint8Array(48).fill(128) };
    const inverted = lattice(2, (r, g, b) => [1 - r, 1 - g, 1 - b]);
    expect(linearise(half, { table: parseCube(inverted), curve: 'srgb' }).data[0]).toBeCloseTo(
      CURVES.srgb.decode(1 - 128 / 255),
      5,
    );
  });
});

describe('pictures of floats', () => {
  it('keep light beyond white and below black, outside the fill and in it', () => {
    const plate = floats([6.5, -0.25, 0.18]);
    const fill = fillPyramid({ ...floats([12, 0.5, -0.1, 1], 4) }, { curve: 'linear' });
    const out = { ...plate, data: plate.data.slice() };
    new Renderer().render(plate, [{ fill, corners: PIN }], out, { transfer: 'linear' });
    expect(at(out, 2, 2)).toEqual(at(plate, 2, 2));
    at(out, 24, 18).forEach((v, i) => expect(v).toBeCloseTo([12, 0.5, -0.1][i]!, 5));
  });
  it('give the element straight alpha without clipping', () => {
    const plate = floats([0.2, 0.2, 0.2]);
    const target: Raster = { width: 48, height: 36, channels: 4, data: new Float32Array(48 * 36 * 4) };
    new Renderer().render(
      plate,
      [
        {
          fill: fillPyramid(floats([3, 2, 1, 1], 4), { curve: 'linear' }),
          corners: PIN,
          dress: { levels: { opacity: 0.25 } },
        },
      ],
      target,
      { transfer: 'linear', show: 'element' },
    );
    at(target, 24, 18).forEach((v, i) => expect(v).toBeCloseTo([3, 2, 1, 0.25][i]!, 5));
  });
  it('go from code values to light and back without a loss', () => {
    const codes: Raster = {
      width: 16,
      height: 16,
      channels: 3,
      data: Uint16Array.from({ length: 768 }, (_, i) => (i * 85) & 65535),
    };
    expect([...toCodes(toFloat(codes, CURVES.bt709.decode), CURVES.bt709.encode, 16).data]).toEqual([...codes.data]);
  });
});
