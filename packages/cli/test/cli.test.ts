import { mkdir, readFile, readdir, writeFile } from 'node:fs/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mapQuad } from '../../core/src/geometry/quad';
import type { Quad } from '../../core/src/geometry/quad';
import { mapPoint, quadToQuad } from '../../core/src/geometry/homography';
import { grownPin } from '../../core/src/pin/inset';
import type { TrackFile } from '../../core/src/formats/track-json';
import type { Said } from './builders/quay';
import { FRAMES, PIN, Quay, move, recipe } from './builders/quay';
import { ffmpeg } from '../../media/test/builders/clips';
import { allowedMs } from '../../core/test/builders/on-time';

let quay: Quay;
const at = (name: string): string => quay.at(name);
const yarlop = (...args: Parameters<Quay['yarlop']>): Promise<Said> => quay.yarlop(...args);
beforeAll(async () => {
  quay = await Quay.open();
  await mkdir(at('plate'));
});
afterAll(() => quay.close());

const follow = (out: string, more: string[] = []) =>
  yarlop(['follow', at('plate.mp4'), '--screen', at('screen.json'), '--out', at(out), ...more]);
const track = async (name: string): Promise<TrackFile> => JSON.parse(await readFile(at(name), 'utf8')) as TrackFile;

describe('yarlop follow', () => {
  it('writes every frame of the range, near the truth, with the reference pin exact', async () => {
    expect((await follow('track.json')).code).toBe(0);
    const t = await track('track.json');
    const s = t.screens[0]!;
    expect(t.plate).toEqual({
      name: 'plate.mp4',
      width: 384,
      height: 256,
      frameRate: [24, 1],
      firstFrame: 0,
      frameCount: FRAMES,
    });
    expect(s.stopped).toBeNull();
    expect(s.frames.map((f) => f.frame)).toEqual([...Array(FRAMES).keys()]);
    for (const f of s.frames) {
      const truth = mapQuad(move(f.frame), PIN);
      f.corners.forEach((p, i) => {
        expect(Math.hypot(p[0] - truth[i]![0], p[1] - truth[i]![1])).toBeLessThan(0.15);
        const q = mapPoint(f.homography, PIN[i]!);
        expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-9);
      });
      expect(f.homography.reduce((a, v) => a + v * v, 0)).toBeCloseTo(1, 9);
      expect(Object.values(f.evidence).reduce((a, v) => a + v, 0)).toBeCloseTo(1, 9);
    }
    s.frames[10]!.corners.forEach((p, i) =>
      expect(Math.hypot(p[0] - PIN[i]![0], p[1] - PIN[i]![1])).toBeLessThan(1e-9),
    );
  });
  it('is proved: the truth does not slip, and a pop put into it is found on its frame and corner', async () => {
    // A device whose surface goes on beyond the pin, as a bezel does.
    await quay.clip('wide.mp4', grownPin(PIN, 10));
    const t = await track('track.json');
    const s = t.screens[0]!;
    const write = (name: string, by: number): Promise<void> =>
      writeFile(
        at(name),
        JSON.stringify({
          ...t,
          screens: [
            {
              ...s,
              frames: s.frames.map((f) => {
                const corners = mapQuad(move(f.frame), PIN).map((p, i) => [
                  p[0] + (f.frame === 15 && i === 1 ? by : 0),
                  p[1],
                ]) as unknown as typeof f.corners;
                return { ...f, corners, homography: quadToQuad(PIN, corners) };
              }),
            },
          ],
        }),
      );
    await Promise.all([write('true.json', 0), write('spoilt.json', 1.2)]);
    interface Told {
      screens: {
        told: number;
        jitter: number;
        troubles: { frame: number; kind: string; corner: string; size: number }[];
      }[];
    }
    const good = await yarlop(['prove', at('wide.mp4'), '--track', at('true.json'), '--json']);
    const [fine] = (JSON.parse(good.out) as Told).screens;
    expect(good.code).toBe(0);
    expect(fine!.told).toBeGreaterThan(0.6);
    // Figures are at 1920 wide: five times this plate's px.
    expect(fine!.troubles[0]!.size).toBeLessThan(2);
    const bad = await yarlop(['prove', at('wide.mp4'), '--track', at('spoilt.json'), '--json']);
    const pop = (JSON.parse(bad.out) as Told).screens[0]!.troubles[0]!;
    expect(pop).toMatchObject({ kind: 'pop', frame: 15, corner: 'TR' });
    expect(pop.size).toBeGreaterThan(4);
    expect(pop.size).toBeLessThan(8);
    expect((await yarlop(['prove', at('wide.mp4'), '--track', at('spoilt.json')])).out).toContain('frame 15  TR  pop');
    expect(await yarlop(['prove', at('fill.png'), '--track', at('track.json')])).toMatchObject({
      code: 2,
      err: expect.stringContaining('use the same plate'),
    });
  });
  it('follows an area and delivers the pin that rides on it, with what is known of it there', async () => {
    const pin: Quad = [
      [150, 60],
      [290, 100],
      [280, 220],
      [140, 200],
    ];
    await writeFile(at('apart.json'), JSON.stringify({ ...recipe, pin, area: PIN }));
    const made = await yarlop([
      ...['follow', at('plate.mp4'), '--screen', at('apart.json'), '--out', at('apart-track.json')],
      ...['--from', '6', '--to', '14'],
    ]);
    expect(made.code).toBe(0);
    const [s] = (await track('apart-track.json')).screens;
    const [own] = (await track('track.json')).screens;
    expect(s!.frames.map((f) => f.frame)).toEqual([6, 7, 8, 9, 10, 11, 12, 13, 14]);
    for (const f of s!.frames) {
      const truth = mapQuad(move(f.frame), pin);
      f.corners.forEach((p, i) => {
        expect(Math.hypot(p[0] - truth[i]![0], p[1] - truth[i]![1])).toBeLessThan(0.4);
        const q = mapPoint(f.homography, pin[i]!);
        expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-9);
      });
      // The BR corner lies 50 px beyond what is followed.
      if (f.frame !== 10) expect(f.sigma[2]).toBeGreaterThan(own!.frames[f.frame]!.sigma[2]!);
    }
  });
  it('gives equal bytes for equal inputs', async () => {
    await follow('again.json');
    expect(await readFile(at('again.json'), 'utf8')).toBe(await readFile(at('track.json'), 'utf8'));
  });
  it('keeps to an inclusive range that holds the reference frame', async () => {
    expect((await follow('part.json', ['--from', '8', '--to', '12'])).code).toBe(0);
    expect((await track('part.json')).screens[0]!.frames.map((f) => f.frame)).toEqual([8, 9, 10, 11, 12]);
    const bad = await follow('no.json', ['--from', '11']);
    expect(bad).toMatchObject({ code: 2 });
    expect(bad.err).toMatch(/contain the reference frame 10/);
  });
  it('loses a screen for good with exit 3, and says where and why', async () => {
    await ffmpeg([
      '-i',
      at('plate.mp4'),
      '-vf',
      "drawbox=0:0:iw:ih:color=gray:t=fill:enable='gte(n,16)'",
      '-c:v',
      'ffv1',
      at('covered.mkv'),
    ]);
    const r = await yarlop(['follow', at('covered.mkv'), '--screen', at('screen.json'), '--out', at('lost.json')]);
    expect(r.code).toBe(3);
    const s = (await track('lost.json')).screens[0]!;
    expect(s.stopped).toMatchObject([{ frame: 16, direction: 'forwards' }]);
    expect(s.frames.at(-1)!.frame).toBe(15);
    expect(r.err).toMatch(/lost at frame 16: /);
  });
  it('interrupted, writes the track so far with exit 130 within a second', async () => {
    await ffmpeg(['-stream_loop', '20', '-i', at('plate.mp4'), '-c', 'copy', at('loop.mp4')]);
    let sent = 0;
    const r = await yarlop(
      ['follow', at('loop.mp4'), '--screen', at('screen.json'), '--out', at('cut.json'), '--progress'],
      (child, text) => {
        if (!sent && text.includes('frame')) {
          sent = Date.now();
          child.kill('SIGINT');
        }
      },
    );
    expect(r.code).toBe(130);
    expect(Date.now() - sent).toBeLessThan(allowedMs(1500));
    const s = (await track('cut.json')).screens[0]!;
    expect(s.stopped!.some((x) => x.reason === 'interrupted')).toBe(true);
    expect(s.frames.length).toBeGreaterThan(0);
  });
});

describe('yarlop deliver and import', () => {
  it.each(['csv', 'json'])('%s goes out and comes back with the same corners, in a foreign convention', async (as) => {
    const out = at(`corners.${as}`);
    expect(
      (
        await yarlop([
          'deliver',
          '--track',
          at('track.json'),
          '--as',
          as,
          '--out',
          out,
          '--origin',
          'bottom-left',
          '--pixel-origin',
          'centre',
          '--size',
          '1920x1280',
          '--first-frame',
          '1001',
        ])
      ).code,
    ).toBe(0);
    expect((await yarlop(['import', out, '--as', as, '--out', at('back.json')])).code).toBe(0);
    const a = await track('track.json');
    const b = await track('back.json');
    expect(b.plate.firstFrame).toBe(1001);
    b.screens[0]!.frames.forEach((f, i) =>
      f.corners.forEach((p, k) => {
        const q = a.screens[0]!.frames[i]!.corners[k]!;
        expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-6);
      }),
    );
  });
  it('writes what 3D scenes, the web and OpenCV take, and reads matrices and maps back', async () => {
    for (const as of ['gltf', 'usda', 'css', 'otio', 'report', 'shapes-svg', 'opencv-yaml'])
      expect(
        await yarlop([
          'deliver',
          '--track',
          at('track.json'),
          '--screen',
          at('screen.json'),
          '--as',
          as,
          '--out',
          at(`out/${as}`),
        ]),
      ).toEqual({ code: 0, out: '', err: '' });
    expect(
      (await yarlop(['deliver', '--track', at('track.json'), '--as', 'stmap', '--out', at('out/map.%04d.exr')])).code,
    ).toBe(0);
    for (const [file, as] of [
      ['out/opencv-yaml', 'opencv-yaml'],
      ['out/map.%04d.exr', 'stmap'],
    ] as const) {
      expect((await yarlop(['import', at(file), '--as', as, '--out', at('back.json')])).code).toBe(0);
      const [a, b] = [(await track('track.json')).screens[0]!.frames, (await track('back.json')).screens[0]!.frames];
      for (const [i, f] of b.entries())
        f.corners.forEach((c, k) =>
          expect(Math.hypot(c[0] - a[i]!.corners[k]![0], c[1] - a[i]!.corners[k]![1])).toBeLessThan(0.02),
        );
    }
  });
  it('holds the plate still, and packs everything that is chosen', async () => {
    expect(
      (
        await yarlop([
          'deliver',
          '--track',
          at('track.json'),
          '--plate',
          at('plate.mp4'),
          '--as',
          'stabilised',
          '--out',
          at('out/still.mkv'),
        ])
      ).code,
    ).toBe(0);
    expect(
      (
        await yarlop([
          'deliver',
          '--track',
          at('track.json'),
          '--as',
          'package',
          '--parts',
          'csv,gltf',
          '--out',
          at('out/all.zip'),
        ])
      ).code,
    ).toBe(0);
  });
  it.each([
    [['--as', 'tarot', '--out', 'x'], /"tarot" is not known; use one of csv/],
    [['--as', 'stmap', '--out', 'x.exr'], /NAME\.%04d\.exr/],
    [['--as', 'flat', '--out', 'x.mkv'], /--plate/],
    [['--as', 'package', '--parts', 'csv,tarot', '--out', 'x.zip'], /"tarot" is not known/],
    [['--as', 'gltf', '--focal', '90', '--out', 'x'], /--focal is 90/],
  ] as const)('refuses %j with exit 2 and the mend', async (args, message) => {
    const r = await yarlop(['deliver', '--track', at('track.json'), ...args]);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(message);
  });
});

describe('yarlop dress', () => {
  it('renders the finished picture as a sequence, whole, and as MP4', async () => {
    expect(
      (
        await yarlop([
          'dress',
          at('plate.mp4'),
          '--track',
          at('track.json'),
          '--screen',
          at('screen.json'),
          '--fill',
          at('fill.png'),
          '--out',
          at('shots/f.%04d.png'),
        ])
      ).code,
    ).toBe(0);
    expect((await readdir(at('shots'))).length).toBe(FRAMES);
    const mp4 = await yarlop([
      'dress',
      at('plate.mp4'),
      '--track',
      at('track.json'),
      '--screen',
      at('screen.json'),
      '--fill',
      `quay phone=${at('fill.png')}`,
      '--out',
      at('f.mp4'),
    ]);
    expect(mp4.code).toBe(0);
    const p = JSON.parse((await yarlop(['probe', at('f.mp4')])).out) as {
      frameCount: number;
      colour: { transfer: string };
    };
    expect(p).toMatchObject({ frameCount: FRAMES, colour: { transfer: 'bt709' } });
  });
  it('writes the element with straight alpha, empty outside the pin', async () => {
    expect(
      (
        await yarlop([
          'dress',
          at('plate.mp4'),
          '--track',
          at('track.json'),
          '--screen',
          at('screen.json'),
          '--fill',
          at('fill.png'),
          '--out',
          at('element/e.%04d.png'),
          '--element',
        ])
      ).code,
    ).toBe(0);
    const { default: sharp } = await import('sharp');
    const { data, info } = await sharp(at('element/e.0010.png')).raw().toBuffer({ resolveWithObject: true });
    expect(info.channels).toBe(4);
    expect(data[3]).toBe(0);
    expect(data[(130 * 384 + 180) * 4 + 3]).toBe(255);
  });
  it.each<[string, string[], RegExp]>([
    ['an output that is no picture', ['--fill', 'fill.png', '--out', 'f.txt'], /does not end in a type/],
    ['a fill that is not there', ['--fill', 'nothing.png', '--out', 'g.mp4'], /nothing\.png does not exist/],
    ['MP4 with alpha', ['--fill', 'fill.png', '--out', 'g.mp4', '--element'], /MP4 carries no alpha/],
  ])('refuses %s with exit 2 and leaves nothing', async (_, args, message) => {
    const full = args.map((a) => (a.includes('.') ? at(a) : a));
    const r = await yarlop([
      'dress',
      at('plate.mp4'),
      '--track',
      at('track.json'),
      '--screen',
      at('screen.json'),
      ...full,
    ]);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(message);
    expect(r.err.trim().split('\n')).toHaveLength(1);
    expect((await readdir(quay.folder)).filter((f) => f.startsWith('g.') || f.startsWith('.yarlop'))).toEqual([]);
  });
});

describe('yarlop check', () => {
  it.each<[string, unknown, RegExp]>([
    ['three corners', { ...recipe, pin: PIN.slice(0, 3) }, /pin must have at least 4 entries/],
    ['a number that is none', JSON.stringify(recipe).replace('110', 'NaN'), /not valid JSON/],
    ['a bow-tie pin', { ...recipe, pin: [PIN[0], PIN[2], PIN[1], PIN[3]] }, /cross each other/],
    ['coordinates of 1e12', { ...recipe, pin: [[1e12, 0], ...PIN.slice(1)] }, /pin\[0\]\[0\] must be at most 1000000/],
    [
      'a patch of two points',
      {
        ...recipe,
        patches: [
          {
            kind: 'follow',
            points: [
              [0, 0],
              [9, 9],
            ],
          },
        ],
      },
      /patches\[0\]\.points must have at least 3/,
    ],
    ['an unknown member', { ...recipe, colour: 'green' }, /unknown member "colour"/],
    ['an unknown motion', { ...recipe, motion: 'wobbly' }, /motion must be one of still, translation/],
    ['another format', { format: 'something' }, /must be one of "yarlop-screen", "yarlop-track"/],
  ])('names the place and the reason of %s, exit 2', async (_, value, message) => {
    await writeFile(at('bad.json'), typeof value === 'string' ? value : JSON.stringify(value));
    const r = await yarlop(['check', at('bad.json')]);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(message);
  });
  it('passes good files, and help covers every command', async () => {
    expect((await yarlop(['check', at('screen.json')])).code).toBe(0);
    expect((await yarlop(['check', at('track.json')])).code).toBe(0);
    const help = await yarlop(['--help']);
    expect(help.code).toBe(0);
    for (const c of ['follow', 'dress', 'deliver', 'import', 'check', 'probe', 'propose'])
      expect(help.out).toContain(c);
    expect((await yarlop(['follow', '--help'])).out).toContain('--progress');
    expect((await yarlop(['fly'])).code).toBe(2);
  });
});
