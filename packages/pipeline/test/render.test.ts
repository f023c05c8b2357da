import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { parseCube, throughTable } from '../../core/src/dress/colour/cube-table';
import { quadToQuad } from '../../core/src/geometry/homography';
import type { Quad } from '../../core/src/geometry/quad';
import type { Raster } from '../../core/src/image/image';
import { decodeRgb } from '../../media/src/decode';
import { Encoder } from '../../media/src/encode';
import { ingest, mezzanineProbe } from '../../media/src/ingest';
import { probe } from '../../media/src/probe';
import { openSource } from '../../media/src/source';
import { ffmpeg, makeClip, readCode } from '../../media/test/builders/clips';
import type { DressJob } from '../src/dress';
import { dress } from '../src/dress';
import { Fill, placeOf } from '../src/fill';
import { parseScreen } from '../src/screen-file';

const PIN: Quad = [
  [60, 40],
  [240, 44],
  [236, 150],
  [56, 146],
];
const WIDTH = 320;
const HEIGHT = 192;
const cornersOn = (n: number): Quad => PIN.map(([x, y]) => [x + 3 * n, y + n]) as unknown as Quad;
const screen = (more: object = {}) =>
  parseScreen({ format: 'yarlop-screen', version: 1, name: 's', referenceFrame: 0, pin: PIN, ...more });
const places = (frames: number) =>
  new Map(
    Array.from(
      { length: frames },
      (_, n) => [n, { corners: cornersOn(n), homography: quadToQuad(PIN, cornersOn(n)) }] as const,
    ),
  );

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-render-'));
  await makeClip({
    frames: 10,
    width: WIDTH,
    height: HEIGHT,
    args: ['-c:v', 'ffv1', '-pix_fmt', 'gbrp', join(folder, 'plate.mkv')],
  });
  await makeClip({
    frames: 4,
    width: 96,
    height: 64,
    args: ['-c:v', 'ffv1', '-pix_fmt', 'gbrp', join(folder, 'fill.mkv')],
  });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function pictures(path: string, alpha = false): Promise<Raster[]> {
  const source = await openSource(path);
  const out: Raster[] = [];
  try {
    for await (const r of decodeRgb(source, await probe(source), { alpha })) out.push({ ...r, data: r.data.slice() });
    return out;
  } finally {
    await source.dispose();
  }
}
async function render(
  plateFile: string,
  out: string,
  more: Partial<DressJob> = {},
  recipe: object = {},
  fill = 'fill.mkv',
): Promise<string[]> {
  const plate = await openSource(plateFile);
  const source = await openSource(join(folder, fill));
  const info = await probe(plate);
  try {
    const job = dress({
      plate,
      probe: info,
      seekable: false,
      layers: [
        {
          screen: screen(recipe),
          places: places(info.frameCount),
          fill: { media: placeOf(source), foreground: null, table: null },
          shutter: null,
          lens: 0,
        },
      ],
      out: join(folder, out),
      show: 'dressed',
      from: 0,
      count: info.frameCount,
      ...more,
    });
    for (;;) {
      const { done, value } = await job.next();
      if (done) return value;
    }
  } finally {
    await plate.dispose();
    await source.dispose();
  }
}
const at = (r: Raster, x: number, y: number): number[] => [
  ...r.data.slice((y * r.width + x) * r.channels, (y * r.width + x) * r.channels + r.channels),
];

/** Around the squares in which a clip's frame tells its number. */
const CODE = [
  [0, 0],
  [180, 0],
  [180, 30],
  [0, 30],
];

describe('a mark that is painted out from another frame', () => {
  it('shows what that frame shows there', async () => {
    const dress = { retouches: [{ kind: 'paint-out', from: 'frame', frame: 9, points: CODE, onPicture: true }] };
    await render(join(folder, 'plate.mkv'), 'painted.mkv', { from: 2, count: 2 }, { dress });
    const made = await pictures(join(folder, 'painted.mkv'));
    const plate = await pictures(join(folder, 'plate.mkv'));
    expect(readCode(plate[2]!)).toBe(2);
    expect(made.map(readCode)).toEqual([9, 9]);
  });
});

describe('a delivery on threads', () => {
  it('writes the same bytes as on one, in order', async () => {
    const recipe = {
      fill: { media: 'a'.repeat(64), end: 'loop' },
      dress: {
        softness: { more: 1 },
        motionBlur: { on: true },
        grain: { amount: 1, seed: 3, measured: { levels: [0.5], sigma: [[0.02], [0.02], [0.02]], size: 0.4 } },
        retouches: [
          { kind: 'paint-out', from: 'frame', frame: 9, points: CODE, onPicture: true },
          { kind: 'grade', points: CODE, levels: { gain: 0.8 }, after: true, softness: 3 },
        ],
      },
    };
    await render(join(folder, 'plate.mkv'), 'one.%04d.png', {}, recipe);
    const threads = { program: new URL('../../../dist/render-thread.mjs', import.meta.url), count: 2 };
    // The threads of the first delivery make the second as well, and nothing of the first is left in them.
    await render(join(folder, 'plate.mkv'), 'other.mkv', { threads }, { ...recipe, dress: { softness: { more: 4 } } });
    await render(join(folder, 'plate.mkv'), 'two.%04d.png', { threads }, recipe);
    const one = await pictures(join(folder, 'one.%04d.png'));
    const two = await pictures(join(folder, 'two.%04d.png'));
    expect(two).toHaveLength(10);
    two.forEach((r, n) =>
      expect(
        Buffer.compare(
          Buffer.from(r.data.buffer, r.data.byteOffset, r.data.byteLength),
          Buffer.from(one[n]!.data.buffer, one[n]!.data.byteOffset, one[n]!.data.byteLength),
        ),
        `frame ${n}`,
      ).toBe(0),
    );
  });
  it('that fails says why, and leaves nothing behind', async () => {
    await writeFile(join(folder, 'broken.png'), 'no picture');
    await expect(
      render(
        join(folder, 'plate.mkv'),
        'bad.%04d.png',
        { threads: { program: new URL('../../../dist/render-thread.mjs', import.meta.url), count: 2 } },
        {},
        'broken.png',
      ),
    ).rejects.toThrow(/broken/);
    expect((await readdir(folder)).filter((n) => n.startsWith('bad') || n.startsWith('.yarlop'))).toEqual([]);
  });
});

describe('floats', () => {
  const bright = (n: number): Raster => ({
    width: WIDTH,
    height: HEIGHT,
    channels: 3,
    data: Float32Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => [8.5, 0.18, -0.125][i % 3]! + n),
  });
  beforeAll(async () => {
    const e = await Encoder.open(join(folder, 'light.%04d.exr'), {
      width: WIDTH,
      height: HEIGHT,
      frameRate: [24, 1],
      firstNumber: 1001,
      depth: 32,
      alpha: false,
      fullFloat: true,
    });
    for (let n = 0; n < 2; n++) await e.write(bright(n));
    await e.close();
  });
  it('come out of OpenEXR as they went in', async () => {
    const source = await openSource(join(folder, 'light.%04d.exr'));
    const info = await probe(source);
    expect(info).toMatchObject({ firstFrame: 1001, bitDepth: 32, colour: { transfer: 'linear' } });
    await source.dispose();
    for (const [n, r] of (await pictures(join(folder, 'light.%04d.exr'))).entries())
      at(r, 5, 5).forEach((v, c) => expect(v).toBeCloseTo([8.5, 0.18, -0.125][c]! + n, 6));
  });
  it('go through a delivery untouched outside the Screen, in half floats too', async () => {
    await render(join(folder, 'light.%04d.exr'), 'out.%04d.exr', { fullFloat: false });
    const [first] = await pictures(join(folder, 'out.1001.exr'));
    // Half floats carry 8.5 and -0.125 exactly; 0.18 to one part in a thousand.
    at(first!, 5, 5).forEach((v, c) => expect(v).toBeCloseTo([8.5, 0.18, -0.125][c]!, 3));
  });
  it('of a plate of integers are scene-linear light', async () => {
    await render(join(folder, 'plate.mkv'), 'lin.%04d.exr', { count: 1 });
    const [light] = await pictures(join(folder, 'lin.0000.exr'));
    const [code] = await pictures(join(folder, 'plate.mkv'));
    const v = at(code!, 5, 100)[0]! / 255;
    expect(at(light!, 5, 100)[0]).toBeCloseTo(v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4, 3);
  });
  it('are kept for viewing through the sRGB curve', async () => {
    const source = await openSource(join(folder, 'light.%04d.exr'));
    const info = await probe(source);
    const media = join(folder, 'media');
    await (await import('node:fs/promises')).mkdir(media, { recursive: true });
    await ingest(
      source,
      info,
      media,
      () => {},
      () => false,
    );
    await source.dispose();
    const kept = await openSource(join(media, 'mezzanine.mkv'));
    for await (const r of decodeRgb(kept, mezzanineProbe(info), { count: 1 })) {
      // 0.18 is shown as 0.461 (IEC 61966-2-1, equation 8); what is brighter than white is white here alone.
      expect(at(r, 5, 5)[1]! / 65535).toBeCloseTo(0.4614, 2);
      expect(at(r, 5, 5)[0]).toBeGreaterThan(65500);
    }
    await kept.dispose();
  });
});

describe('an element', () => {
  it('has straight alpha, or alpha multiplied into its colours', async () => {
    const half = { dress: { levels: { opacity: 0.5 } } };
    await render(join(folder, 'plate.mkv'), 'straight.%04d.png', { show: 'element', count: 1 }, half);
    await render(
      join(folder, 'plate.mkv'),
      'multiplied.%04d.png',
      { show: 'element', count: 1, premultiplied: true },
      half,
    );
    const [straight] = await pictures(join(folder, 'straight.0000.png'), true);
    const [multiplied] = await pictures(join(folder, 'multiplied.0000.png'), true);
    const a = at(straight!, 150, 100);
    const b = at(multiplied!, 150, 100);
    expect(a[3]).toBe(128);
    expect(b[3]).toBe(128);
    for (let c = 0; c < 3; c++) expect(b[c]).toBe(Math.round((a[c]! * 128) / 255));
  });
});

describe('passes', () => {
  it('add up: the element over the clean plate is the finished picture, in light', async () => {
    const recipe = {
      dress: {
        levels: { opacity: 0.7 },
        softness: { more: 1.2 },
        motionBlur: { on: true },
        edge: { feather: 6 },
        spill: { colour: [0.2, 0.7, 0.3], amount: 1, reach: 40 },
      },
    };
    for (const show of ['dressed', 'element', 'clean'] as const)
      await render(
        join(folder, 'plate.mkv'),
        `${show}.%04d.exr`,
        { show, fullFloat: true, premultiplied: show === 'element', count: 3 },
        recipe,
      );
    for (const n of [0, 2]) {
      const [whole] = await pictures(join(folder, `dressed.000${n}.exr`));
      const [element] = await pictures(join(folder, `element.000${n}.exr`), true);
      const [clean] = await pictures(join(folder, `clean.000${n}.exr`));
      let worst = 0;
      for (let i = 0; i < WIDTH * HEIGHT; i++)
        for (let c = 0; c < 3; c++)
          worst = Math.max(
            worst,
            Math.abs(
              element!.data[i * 4 + c]! +
                (1 - element!.data[i * 4 + 3]!) * clean!.data[i * 3 + c]! -
                whole!.data[i * 3 + c]!,
            ),
          );
      expect(worst, `frame ${n}`).toBeLessThan(1e-4);
    }
  });
});

describe('colour tables', () => {
  it('agree with ffmpeg’s own tetrahedra', async () => {
    const n = 5;
    const bend = (v: number, w: number): string => (v ** 1.7 * 0.9 + 0.08 * w).toFixed(6);
    const text = `LUT_3D_SIZE ${n}\n${Array.from({ length: n ** 3 }, (_, i) =>
      [i % n, Math.floor(i / n) % n, Math.floor(i / n / n)].map((k) => k / (n - 1)),
    )
      .map(([r, g, b]) => `${bend(r!, b!)} ${bend(g!, r!)} ${bend(b!, g!)}`)
      .join('\n')}\n`;
    await writeFile(join(folder, 'look.cube'), text);
    await ffmpeg([
      '-f',
      'lavfi',
      '-i',
      'rgbtestsrc=size=128x96',
      '-frames:v',
      '1',
      '-vf',
      'hue=h=25:s=0.7',
      '-pix_fmt',
      'rgb48be',
      join(folder, 'in.png'),
    ]);
    await ffmpeg([
      '-i',
      join(folder, 'in.png'),
      '-vf',
      `format=gbrp16le,lut3d=file=${join(folder, 'look.cube')}:interp=tetrahedral`,
      '-pix_fmt',
      'rgb48be',
      join(folder, 'table.png'),
    ]);
    const [before] = await pictures(join(folder, 'in.png'));
    const [after] = await pictures(join(folder, 'table.png'));
    const table = parseCube(text);
    const rgb = new Float32Array(3);
    let worst = 0;
    for (let i = 0; i < before!.data.length; i += 3) {
      throughTable(table, before!.data[i]! / 65535, before!.data[i + 1]! / 65535, before!.data[i + 2]! / 65535, rgb);
      for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs(65535 * rgb[c]! - after!.data[i + c]!));
    }
    expect(worst).toBeLessThan(4);
  });
});

describe('a made-up fill', () => {
  it('is drawn with the shipped fonts over its background, alike each time, and needs no file of its own', async () => {
    const plate = await openSource(join(folder, 'plate.mkv'));
    const info = await probe(plate);
    const made = screen({
      fill: {
        made: {
          ground: [0.1, 0.2, 0.3],
          lines: [{ text: 'Gale warning: Gannet Flats', size: 0.14, colour: [1, 1, 1] }],
        },
      },
    });
    const fill = await Fill.open({ media: null, foreground: null, table: null }, made);
    const [one] = await fill.on(0, info);
    const [two] = await fill.on(5, info);
    await plate.dispose();
    expect(one!.width).toBeGreaterThan(200);
    const lit = one!.data.filter((v, i) => i % 4 === 0 && v > 0.9).length;
    const all = one!.width * one!.height;
    expect(lit / all).toBeGreaterThan(0.01);
    expect(lit / all).toBeLessThan(0.15);
    expect(two!.data).toEqual(one!.data);
  });
  it('that names nothing at all is refused', () => {
    expect(() => screen({ fill: { start: 3 } })).toThrow(/neither a picture or clip nor/);
    expect(() =>
      screen({
        dress: {
          holdouts: [
            {
              kind: 'outline',
              points: [
                [0, 0],
                [9, 0],
                [9, 9],
              ],
              soft: [1, 2, 3, 4],
            },
          ],
        },
      }),
    ).toThrow(/3 points but 4/);
  });
  it('with an outline or a painted-out mark that does not say all is refused with the mend', () => {
    const points = [
      [0, 0],
      [9, 0],
      [9, 9],
    ];
    const led = points.map(() => [0, 0, 0, 0]);
    const refused = (dress: object) => expect(() => screen({ dress }));
    refused({ retouches: [{ kind: 'grade', points, handles: [...led, [0, 0, 0, 0]] }] }).toThrow(
      /3 points but 4 handles/,
    );
    refused({
      holdouts: [{ kind: 'outline', points, keys: [{ frame: 2, points, handles: [...led, [1, 1, 1, 1]] }] }],
    }).toThrow(/one for each point of every shape/);
    refused({ retouches: [{ kind: 'paint-out', points, from: 'frame' }] }).toThrow(
      /"frame" is left out; say which one/,
    );
    refused({ retouches: [{ kind: 'paint-out', points }] }).toThrow(/from/);
  });
});

describe('a loop', () => {
  const LOOP = { from: 4, to: 8, dissolve: 3 };
  it('is the same in parts: one that was stopped goes on from its last whole part', async () => {
    await render(join(folder, 'plate.mkv'), 'whole.mkv', { from: 4, count: 5, loop: LOOP });
    await render(join(folder, 'plate.mkv'), 'begun.mkv', { from: 4, count: 3, loop: LOOP });
    await render(join(folder, 'plate.mkv'), 'rest.mkv', { from: 7, count: 2, loop: LOOP });
    const [whole, begun, rest] = await Promise.all(
      ['whole', 'begun', 'rest'].map((name) => pictures(join(folder, `${name}.mkv`))),
    );
    expect([begun!.length, rest!.length]).toEqual([3, 2]);
    const bytes = (all: readonly Raster[]): Buffer => Buffer.concat(all.map((p) => Buffer.from(p.data as Uint8Array)));
    expect(bytes([...begun!, ...rest!]).equals(bytes(whole!))).toBe(true);
  });
  it('fades its end into what comes before its beginning, picture by picture, and the Screen goes along once and not twice', async () => {
    await render(join(folder, 'plate.mkv'), 'looped.mkv', { from: 4, count: 5, loop: LOOP });
    const made = await pictures(join(folder, 'looped.mkv'));
    const plate = await pictures(join(folder, 'plate.mkv'));
    const away = [300, 20] as const;
    expect(made).toHaveLength(5);
    // Frames 4 and 5 as they are; 6, 7 and 8 mixed with 1, 2 and 3 by a quarter, a half, three quarters.
    for (const [i, [own, before, share]] of (
      [
        [4, 0, 0],
        [5, 0, 0],
        [6, 1, 0.25],
        [7, 2, 0.5],
        [8, 3, 0.75],
      ] as const
    ).entries())
      at(made[i]!, ...away).forEach((v, c) =>
        expect(
          Math.abs(v - ((1 - share) * at(plate[own]!, ...away)[c]! + share * at(plate[before]!, ...away)[c]!)),
        ).toBeLessThanOrEqual(1),
      );
    // The Screen's left side: where both places, mixed by the same shares, lie; one edge, at the middle of the row.
    const [edge] = [6, 7, 8].map((own, k) => {
      const share = [0.25, 0.5, 0.75][k]!;
      const x = 58 + (1 - share) * 3 * own + share * 3 * (own - 5);
      return { x, picture: made[own - 4]! };
    });
    expect(at(edge!.picture, Math.round(edge!.x) + 6, 100)).not.toEqual(at(plate[6]!, Math.round(edge!.x) + 6, 100));
    expect(
      at(edge!.picture, Math.round(edge!.x) - 6, 100).map(
        (v) =>
          Math.abs(
            v -
              (0.75 * at(plate[6]!, Math.round(edge!.x) - 6, 100)[0]! +
                0.25 * at(plate[1]!, Math.round(edge!.x) - 6, 100)[0]!),
          ) <= 1,
      ),
    ).toEqual([true, true, true]);
  });
  it('that has nothing to fade into is refused with the mend, and nothing is written', async () => {
    await expect(
      render(join(folder, 'plate.mkv'), 'no-loop.mkv', { from: 1, count: 6, loop: { from: 1, to: 6, dissolve: 3 } }),
    ).rejects.toThrow(/before frame 1 there are 1; begin later, or dissolve for less/);
    await expect(
      render(join(folder, 'plate.mkv'), 'no-loop.mkv', { from: 5, count: 2, loop: { from: 5, to: 6, dissolve: 3 } }),
    ).rejects.toThrow(/has 2 frames and cannot dissolve for 3/);
    expect(await readdir(folder)).not.toContain('no-loop.mkv');
  });
});

describe('passes', () => {
  it('are written as floats alone, and hold what adds up', async () => {
    await expect(render(join(folder, 'plate.mkv'), 'pass.%04d.png', { show: 'pass-element' })).rejects.toThrow(
      /NAME\.%04d\.exr/,
    );
    for (const show of ['dressed', 'clean', 'pass-element'] as const)
      await render(
        join(folder, 'plate.mkv'),
        `${show}.%04d.exr`,
        { show, count: 1, fullFloat: true },
        { dress: { edge: { feather: 6 } } },
      );
    const [whole, clean, element] = (await Promise.all(
      ['dressed', 'clean', 'pass-element'].map(async (n) => (await pictures(join(folder, `${n}.0000.exr`), true))[0]!),
    )) as [Raster, Raster, Raster];
    let worst = 0;
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      for (let c = 0; c < 3; c++)
        worst = Math.max(
          worst,
          Math.abs(
            clean.data[i * 4 + c]! * (1 - element.data[i * 4 + 3]!) + element.data[i * 4 + c]! - whole.data[i * 4 + c]!,
          ),
        );
    expect(worst).toBeLessThan(1e-5);
  });
});
