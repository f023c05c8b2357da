import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import yazl from 'yazl';
import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mapPoint, normaliseHomography, quadToQuad } from '../../core/src/geometry/homography';
import { distance } from '../../core/src/geometry/point';
import { perspectiveCentre } from '../../core/src/geometry/quad';
import type { Quad } from '../../core/src/geometry/quad';
import type { Raster } from '../../core/src/image/image';
import type { Track } from '../../core/src/track';
import { decodeRgb } from '../../media/src/decode';
import { Encoder } from '../../media/src/encode';
import { probe } from '../../media/src/probe';
import { openSource } from '../../media/src/source';
import { ffmpeg, makeClip, pitch } from '../../media/test/builders/clips';
import { idsOf } from '@yarlop/contracts/formats';
import type { DataFormat, DataJob } from '../src/deliver-job';
import { deliverData } from '../src/deliver-job';
import { readPackage, writePackage } from '../src/package';
import { IMPORT_FORMATS, importTrack } from '../src/track-file';
import { writeWhole } from '../src/write-whole';

const run = promisify(execFile);
const PIN: Quad = [
  [60.4, 40.2],
  [240.7, 44.9],
  [236.1, 150.3],
  [56.8, 146.6],
];
const WIDTH = 320;
const HEIGHT = 192;
const FRAMES = 5;
const cornersOn = (n: number): Quad => PIN.map(([x, y], i) => [x + 3.3 * n, y + n + 0.2 * i * n]) as unknown as Quad;
const TRACK: Track = {
  plate: { name: 'plate.mkv', width: WIDTH, height: HEIGHT, frameRate: [25, 1], firstFrame: 101, frameCount: FRAMES },
  screens: [
    {
      name: 'quay phone',
      referenceFrame: 0,
      stopped: null,
      frames: Array.from({ length: FRAMES }, (_, frame) => ({
        frame,
        corners: cornersOn(frame),
        homography: normaliseHomography(quadToQuad(PIN, cornersOn(frame)), perspectiveCentre(PIN)),
        sigma: [0.1, 0.1, 0.1, 0.1],
        trust: 0.9,
        evidence: { edges: 1 },
      })),
    },
  ],
};

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-deliver-'));
  await makeClip({
    frames: FRAMES,
    width: WIDTH,
    height: HEIGHT,
    rate: '25',
    args: ['-c:v', 'ffv1', '-pix_fmt', 'gbrp', join(folder, 'plate.mkv')],
  });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function deliver(as: DataFormat, out: string, more: Partial<DataJob> = {}): Promise<number> {
  let n = 0;
  for await (const frame of deliverData({
    track: TRACK,
    as,
    out: join(folder, out),
    text: {},
    maps: {},
    plate: null,
    ...more,
  })) {
    void frame;
    n++;
  }
  return n;
}
async function pictures(path: string, alpha = false): Promise<Raster[]> {
  const source = await openSource(join(folder, path));
  const out: Raster[] = [];
  try {
    for await (const r of decodeRgb(source, await probe(source), { alpha })) out.push({ ...r, data: r.data.slice() });
    return out;
  } finally {
    await source.dispose();
  }
}
const far = (a: Track, b: Track): number =>
  Math.max(
    ...a.screens[0]!.frames.flatMap((f, i) =>
      f.corners.map((c, k) => distance(c, b.screens[0]!.frames[i]!.corners[k]!)),
    ),
  );

describe('track data', () => {
  it('is written in every text format', async () => {
    for (const as of idsOf('text')) {
      await deliver(as, `all/${as}`);
      expect((await readFile(join(folder, 'all', as))).length, as).toBeGreaterThan(100);
    }
  });
  it('comes back from every format that is read', async () => {
    await deliver('stmap', 'maps/m.%04d.exr');
    for (const as of IMPORT_FORMATS) {
      const back = await importTrack(as === 'stmap' ? join(folder, 'maps/m.%04d.exr') : join(folder, 'all', as), as);
      expect(far(TRACK, back), as).toBeLessThan(as === 'stmap' ? 0.02 : 1e-6);
    }
  });
  it('a page and a report hold the plate’s own pictures', async () => {
    const source = await openSource(join(folder, 'plate.mkv'));
    const plate = { source, probe: await probe(source), seekable: false };
    await deliver('html', 'page.html', { plate });
    await deliver('report', 'report.html', { plate });
    await source.dispose();
    expect(await readFile(join(folder, 'page.html'), 'utf8')).toContain('data:video/mp4;base64,');
    expect((await readFile(join(folder, 'report.html'), 'utf8')).match(/data:image\/jpeg/g)!.length).toBeGreaterThan(2);
  });
});

describe('maps', () => {
  it('are numbered by the shot’s labels, as float OpenEXR and as 16-bit PNG', async () => {
    expect(await deliver('stmap', 'png/m.%04d.png')).toBe(FRAMES);
    expect((await readdir(join(folder, 'png'))).sort()[0]).toBe('m.0101.png');
    const [exr] = await pictures('maps/m.0101.exr', true);
    const [png] = await pictures('png/m.0101.png', true);
    const k = (90 * WIDTH + 150) * 4;
    expect(exr!.data).toBeInstanceOf(Float32Array);
    for (const c of [0, 1, 3]) expect(png!.data[k + c]! / 65535).toBeCloseTo(exr!.data[k + c]!, 4);
  });
  it('are cut to the Screen, and go on beyond the picture', async () => {
    await deliver('stmap', 'crop/m.%04d.exr', { maps: { crop: 6 } });
    await deliver('stmap', 'over/m.%04d.exr', { maps: { overscan: 20 } });
    const [crop] = await pictures('crop/m.0101.exr', true);
    const [over] = await pictures('over/m.0101.exr', true);
    expect(crop!.width).toBeLessThan(240);
    expect([over!.width, over!.height]).toEqual([WIDTH + 40, HEIGHT + 40]);
  });
  it('that whole numbers cannot hold are refused with the mend, and leave nothing behind', async () => {
    const out = {
      ...TRACK,
      screens: TRACK.screens.map((s) => ({
        ...s,
        frames: s.frames.map((f) => ({ ...f, corners: f.corners.map(([x, y]) => [x + 200, y]) as unknown as Quad })),
      })),
    };
    await expect(deliver('stmap-inverse', 'bad/m.%04d.png', { track: out })).rejects.toThrow(/outside 0 to 1.*\.exr/);
    expect(await readdir(join(folder, 'bad'))).toEqual([]);
    expect(await deliver('stmap-inverse', 'inverse/m.%04d.exr', { track: out })).toBe(FRAMES);
  });
  it('of a lens are one picture, and are refused where nothing is bowed', async () => {
    await expect(deliver('lens-undistort', 'lens/none.%04d.exr')).rejects.toThrow(/No lens was solved or typed/);
    const bowed = { ...TRACK, screens: TRACK.screens.map((s) => ({ ...s, lens: -0.06 })) };
    for (const as of ['lens-undistort', 'lens-distort'] as const)
      for (const type of ['exr', 'png']) expect(await deliver(as, `${as}/m.%04d.${type}`, { track: bowed })).toBe(1);
    expect((await readdir(join(folder, 'lens-distort'))).sort()).toEqual(['m.0101.exr', 'm.0101.png']);
    const [map] = await pictures('lens-undistort/m.0101.exr', true);
    const middle = ((HEIGHT / 2) * WIDTH + WIDTH / 2) * 4;
    expect(map!.data[middle]).toBeCloseTo((WIDTH / 2 + 0.5) / WIDTH, 3);
  });
  it('need a pattern', async () => {
    await expect(deliver('stmap', 'one.exr')).rejects.toThrow(/NAME\.%04d\.exr/);
  });
  it('in ffmpeg’s own perspective filter the corners put a picture where our map says', async () => {
    // The filter's corners are those of the picture's outermost pixels' centres and come in the order TL, TR, BL, BR.
    const q = cornersOn(0);
    const order = [0, 1, 3, 2]
      .map((i, k) => `x${k}=${(q[i]![0] - 0.5).toFixed(3)}:y${k}=${(q[i]![1] - 0.5).toFixed(3)}`)
      .join(':');
    await ffmpeg([
      '-f',
      'lavfi',
      '-i',
      `nullsrc=size=${WIDTH}x${HEIGHT},geq=r='255*X/${WIDTH - 1}':g='255*Y/${HEIGHT - 1}':b=0`,
      '-frames:v',
      '1',
      '-vf',
      `format=gbrp16le,perspective=${order}:sense=destination:interpolation=linear`,
      '-pix_fmt',
      'rgb48be',
      join(folder, 'bent.png'),
    ]);
    const [bent] = await pictures('bent.png');
    const [map] = await pictures('maps/m.0101.exr', true);
    for (const [x, y] of [
      [100, 70],
      [200, 90],
      [150, 130],
    ] as const) {
      const k = y * WIDTH + x;
      expect(Math.abs(bent!.data[k * 3]! / 65535 - map!.data[k * 4]!)).toBeLessThan(0.012);
      expect(Math.abs(bent!.data[k * 3 + 1]! / 65535 - (1 - map!.data[k * 4 + 1]!))).toBeLessThan(0.012);
    }
  });
});

describe('a matte', () => {
  it('is the pin’s coverage', async () => {
    await deliver('matte', 'matte/m.%04d.png');
    const [matte] = await pictures('matte/m.0101.png');
    expect(matte!.data[(90 * WIDTH + 150) * 3]).toBe(65535);
    expect(matte!.data[(10 * WIDTH + 10) * 3]).toBe(0);
  });
});

describe('the plate by the plane', () => {
  it('is held still, and the Screen laid flat: a mark that rides on the plane stays where it is', async () => {
    // White marks that ride on the plane, on black.
    const mark = (n: number): readonly [number, number] => mapPoint(TRACK.screens[0]!.frames[n]!.homography, [150, 90]);
    const e = await Encoder.open(join(folder, 'marked.mkv'), {
      width: WIDTH,
      height: HEIGHT,
      frameRate: [25, 1],
      firstNumber: 0,
      depth: 8,
      alpha: false,
    });
    for (let n = 0; n < FRAMES; n++) {
      const [x, y] = mark(n);
      const data = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) =>
        Math.round(
          255 *
            Math.exp(-(((Math.floor(i / 3) % WIDTH) + 0.5 - x) ** 2 + (Math.floor(i / 3 / WIDTH) + 0.5 - y) ** 2) / 18),
        ),
      );
      await e.write({ width: WIDTH, height: HEIGHT, channels: 3, data });
    }
    await e.close();
    const middle = (r: Raster): readonly [number, number] => {
      let s = 0;
      let sx = 0;
      let sy = 0;
      for (let i = 0; i < r.width * r.height; i++)
        [s, sx, sy] = [
          s + r.data[i * 3]!,
          sx + r.data[i * 3]! * ((i % r.width) + 0.5),
          sy + r.data[i * 3]! * (Math.floor(i / r.width) + 0.5),
        ];
      return [sx / s, sy / s];
    };
    const source = await openSource(join(folder, 'marked.mkv'));
    const plate = { source, probe: await probe(source), seekable: false };
    await deliver('stabilised', 'still.mkv', { plate });
    await deliver('flat', 'flat.mkv', { plate });
    await source.dispose();
    for (const r of await pictures('still.mkv')) expect(distance(middle(r), [150, 90])).toBeLessThan(0.1);
    const flat = await pictures('flat.mkv');
    const first = middle(flat[0]!);
    for (const r of flat) expect(distance(middle(r), first)).toBeLessThan(0.1);
  });
  it('needs the plate, and says so', async () => {
    await expect(deliver('flat', 'none.mkv')).rejects.toThrow(/--plate/);
  });
});

describe('packages', () => {
  it('hold what was chosen, with checksums, and come back whole', async () => {
    await deliver('package', 'whole.zip', { parts: ['csv', 'json', 'gltf', 'stmap'] });
    const manifest = await readPackage(join(folder, 'whole.zip'), join(folder, 'unpacked'));
    expect(manifest.files.map((f) => f.path)).toEqual(
      expect.arrayContaining([
        'README.txt',
        'csv/track.csv',
        'json/track.json',
        'gltf/track.gltf',
        'stmap/map.0101.exr',
      ]),
    );
    expect(await readFile(join(folder, 'unpacked', 'README.txt'), 'utf8')).toContain('origin top-left');
    expect(far(TRACK, await importTrack(join(folder, 'unpacked/json/track.json'), 'json'))).toBeLessThan(1e-9);
  });
  it('are the same bytes each time', async () => {
    for (const name of ['a.zip', 'b.zip']) await deliver('package', name, { parts: ['csv', 'otio'] });
    expect(Buffer.compare(await readFile(join(folder, 'a.zip')), await readFile(join(folder, 'b.zip')))).toBe(0);
  });
  async function zipOf(name: string, files: readonly (readonly [string, string])[]): Promise<string> {
    const zip = new yazl.ZipFile();
    const path = join(folder, name);
    for (const [n, text] of files) zip.addBuffer(Buffer.from(text), n);
    zip.end();
    await pipeline(zip.outputStream, createWriteStream(path));
    return path;
  }
  it('that were changed, lack a file, or are none are refused, and leave nothing behind', async () => {
    const work = join(folder, 'work');
    await mkdir(work, { recursive: true });
    await writeWhole(join(work, 'one.csv'), 'corners');
    await writePackage(TRACK, work, [{ path: 'one.csv', what: 'corners' }], 'pixels', join(folder, 'one.zip'));
    const manifest = await readFile(join(work, 'manifest.json'), 'utf8');
    const readme = await readFile(join(work, 'README.txt'), 'utf8');
    await expect(
      readPackage(
        await zipOf('changed.zip', [
          ['manifest.json', manifest],
          ['README.txt', readme],
          ['one.csv', 'cornerz'],
        ]),
        join(folder, 'x1'),
      ),
    ).rejects.toThrow(/one\.csv.*checksum/);
    await expect(
      readPackage(
        await zipOf('lacks.zip', [
          ['manifest.json', manifest],
          ['README.txt', readme],
        ]),
        join(folder, 'x2'),
      ),
    ).rejects.toThrow(/lacks "one\.csv"/);
    await expect(readPackage(await zipOf('none.zip', [['hello.txt', 'hello']]), join(folder, 'x3'))).rejects.toThrow(
      /manifest/,
    );
    await writeFile(join(folder, 'no.zip'), 'no zip at all');
    await expect(readPackage(join(folder, 'no.zip'), join(folder, 'x4'))).rejects.toThrow(/cannot be opened/);
    expect((await readdir(folder)).filter((n) => /^x\d/.test(n))).toEqual([]);
  });
  it('with a path that climbs out are refused', async () => {
    const path = await zipOf('climbs.zip', [
      ['aa/evil.txt', 'out'],
      ['manifest.json', '{}'],
    ]);
    const bytes = await readFile(path);
    for (let at = bytes.indexOf('aa/evil.txt'); at >= 0; at = bytes.indexOf('aa/evil.txt'))
      bytes.write('../evil.txt', at);
    await writeFile(path, bytes);
    await expect(readPackage(path, join(folder, 'x5'))).rejects.toThrow(/outside of itself/);
  });
  it('that would burst are refused', async () => {
    const path = await zipOf('bomb.zip', [
      ['zeros.bin', '\0'.repeat(30_000_000)],
      ['manifest.json', '{}'],
    ]);
    const bytes = await readFile(path);
    const central = bytes.lastIndexOf(Buffer.from('504b0102', 'hex'), bytes.lastIndexOf('zeros.bin'));
    // The directory promises two thousand times what is there.
    bytes.writeUInt32LE(3_900_000_000, central + 24);
    await writeFile(path, bytes);
    await expect(readPackage(path, join(folder, 'x6'))).rejects.toThrow(/refused|damaged/);
  });
});

describe('clips', () => {
  const probed = async (
    path: string,
  ): Promise<{
    codec_name: string;
    pix_fmt: string;
    nb_read_frames: string;
    color_transfer?: string;
    color_primaries?: string;
    tags?: { timecode?: string };
  }> =>
    (
      JSON.parse(
        (
          await run('ffprobe', [
            '-loglevel',
            'error',
            '-count_frames',
            '-select_streams',
            'v:0',
            '-show_streams',
            '-of',
            'json',
            join(folder, path),
          ])
        ).stdout,
      ) as { streams: never[] }
    ).streams[0]!;
  const write = async (path: string, alpha = false, more: object = {}): Promise<Raster> => {
    const channels = alpha ? 4 : 3;
    const picture: Raster = {
      width: 64,
      height: 48,
      channels,
      data: Uint8Array.from({ length: 64 * 48 * channels }, (_, i) =>
        i % 4 === 3 && alpha ? (i * 7) & 255 : (i * 5) & 255,
      ),
    };
    const e = await Encoder.open(join(folder, path), {
      width: 64,
      height: 48,
      frameRate: [25, 1],
      firstNumber: 1,
      depth: 8,
      alpha,
      ...more,
    });
    for (let n = 0; n < 3; n++) await e.write(picture);
    await e.close();
    return picture;
  };
  it.each([
    ['h264.mp4', {}, 'h264', 'yuv420p'],
    ['hevc.mp4', { hevc: true }, 'hevc', 'yuv420p'],
    ['prores.mov', {}, 'prores', 'yuv422p10le'],
    ['vp9.webm', {}, 'vp9', 'yuv420p'],
    ['ffv1.mkv', {}, 'ffv1', 'bgr0'],
  ] as const)('%s is what ffprobe says it is', async (path, more, codec, format) => {
    await write(path, false, { ...more, timecode: '10:00:00:05' });
    const p = await probed(path);
    expect([p.codec_name, p.pix_fmt, p.nb_read_frames]).toEqual([codec, format, '3']);
    if (path !== 'ffv1.mkv') expect([p.color_transfer, p.color_primaries]).toEqual(['bt709', 'bt709']);
  });
  it('carry the tags and the timecode of their plate', async () => {
    await write('tagged.mov', false, {
      timecode: '10:00:00:05',
      colour: { transfer: 'smpte2084', primaries: 'bt2020', matrix: 'bt2020nc', range: 'limited' },
    });
    const p = await probed('tagged.mov');
    expect([p.color_transfer, p.color_primaries, p.tags?.timecode]).toEqual(['smpte2084', 'bt2020', '10:00:00:05']);
  });
  it('lossless ones give every bit back, alpha too', async () => {
    const picture = await write('alpha.mkv', true);
    const [back] = await pictures('alpha.mkv', true);
    expect(Buffer.compare(Buffer.from(back!.data), Buffer.from(picture.data))).toBe(0);
  });
  it('take the plate’s sound along from their first frame', async () => {
    await ffmpeg([
      '-f',
      'lavfi',
      '-i',
      // A low tone for the first half second, a high one from then on.
      'aevalsrc=sin(2*PI*t*(1350+1050*sgn(t-0.5))):duration=2:sample_rate=48000',
      '-f',
      'lavfi',
      '-i',
      'color=size=64x48:duration=2',
      '-c:v',
      'ffv1',
      '-c:a',
      'flac',
      join(folder, 'tone.mkv'),
    ]);
    await write('sound.mp4', false, { sound: { input: ['-i', join(folder, 'tone.mkv')], from: 0.5, seconds: 0.12 } });
    const { stdout } = await run('ffprobe', [
      '-loglevel',
      'error',
      '-select_streams',
      'a',
      '-show_entries',
      'stream=codec_name,duration',
      '-of',
      'csv=p=0',
      join(folder, 'sound.mp4'),
    ]);
    expect(stdout).toMatch(/^aac,0\.1/);
    expect(await pitch(join(folder, 'sound.mp4'))).toBeGreaterThan(2200);
    await write('early.mp4', false, { sound: { input: ['-i', join(folder, 'tone.mkv')], from: 0.3, seconds: 0.12 } });
    expect(await pitch(join(folder, 'early.mp4'))).toBeLessThan(400);
  });
});
