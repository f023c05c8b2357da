/** `yarlop camera` on a clip whose camera is known, and what `yarlop follow` makes of it. */
import { readFile, writeFile } from 'node:fs/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CameraFile } from '../../core/src/camera/camera-file';
import { placeOf } from '../../core/src/camera/view-model';
import type { TrackFile } from '../../core/src/formats/track-json';
import { ffmpeg } from '../../media/test/builders/clips';
import type { Said } from './builders/quay';
import { Quay } from './builders/quay';
import { ROOM, glassOn, glassRecipe, roomClip, viewOn } from '../../media/test/builders/room';
import { allowedMs } from '../../core/test/builders/on-time';

let quay: Quay;
let first: Said;
beforeAll(async () => {
  quay = await Quay.open();
  await roomClip(quay.at('room.mp4'), (n) => n >= 14 && n < 19);
  await writeFile(quay.at('glass.json'), JSON.stringify(glassRecipe()));
  first = await quay.yarlop(['camera', quay.at('room.mp4'), '--out', quay.at('camera.json'), '--progress']);
});
afterAll(() => quay.close());

const camera = async (name: string): Promise<CameraFile> =>
  JSON.parse(await readFile(quay.at(name), 'utf8')) as CameraFile;

/** Mean corner error on each frame, px at 1920 wide. */
async function errors(name: string): Promise<number[]> {
  const file = JSON.parse(await readFile(quay.at(name), 'utf8')) as TrackFile;
  return file.screens[0]!.frames.map((f) => {
    const truth = glassOn(f.frame);
    const off = f.corners.reduce((s, p, k) => s + Math.hypot(p[0] - truth[k]![0], p[1] - truth[k]![1]), 0) / 4;
    return (off * 1920) / ROOM.width;
  });
}

describe('yarlop camera', () => {
  it('finds the camera of the scene, tells how good it is, and writes a file that is valid', async () => {
    const r = first;
    expect(r.err).toMatch(/^camera: frame \d+, \d+ of 24$/m);
    expect(r.code).toBe(0);
    expect(r.out).toMatch(
      /^a camera that moves: 24 frames by \d+ points, 0\.\d\d px rms; focal length 4\d\d\.\d px within/,
    );
    const file = await camera('camera.json');
    expect(file).toMatchObject({
      kind: 'moving',
      stopped: null,
      plate: { width: ROOM.width, frameCount: ROOM.frames },
    });
    for (const f of file.frames) expect(Math.abs(f.focal / ROOM.focal - 1)).toBeLessThan(0.03);
    // The path is the true one but for its scale: straight lines between frames in the same proportions.
    const length = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, i) => v - b[i]!));
    const [p, q, s] = [0, 11, 23].map((n) => file.frames[n]!.position) as unknown as [number[], number[], number[]];
    const [t, u, v] = [0, 11, 23].map((n) => placeOf(viewOn(n)));
    expect(length(p, q) / length(p, s)).toBeCloseTo(length(t!, u!) / length(t!, v!), 2);
    expect((await quay.yarlop(['check', quay.at('camera.json')])).out).toContain('is a valid camera file');
  });

  it('gives equal bytes again, and keeps what is told to it', async () => {
    const more = [
      '--focal',
      '420',
      '--lens=-0.02,0.001',
      '--from',
      '2',
      '--to',
      '13',
      '--ignore',
      quay.at('glass.json'),
    ];
    for (const name of ['a.json', 'b.json'])
      expect((await quay.yarlop(['camera', quay.at('room.mp4'), '--out', quay.at(name), ...more])).code).toBe(0);
    expect(await readFile(quay.at('a.json'))).toEqual(await readFile(quay.at('b.json')));
    const file = await camera('a.json');
    expect(file.frames.map((f) => f.frame)).toEqual(Array.from({ length: 12 }, (_, i) => i + 2));
    expect(file.frames.every((f) => f.focal === 420)).toBe(true);
    expect(file.lens.radial).toEqual([-0.02, 0.001]);
    const wild = await quay.yarlop(['camera', quay.at('room.mp4'), '--out', quay.at('w.json'), '--lens', '3,0']);
    expect(wild).toMatchObject({ code: 2, err: expect.stringContaining('from -1 to 1') as string });
  });

  it('is exported in open formats, set into a world, with the plate behind', async () => {
    const { points } = await camera('camera.json');
    const [a, b, c] = points as unknown as [{ id: number }, { id: number }, { id: number }];
    const world = ['--ground', `${a.id},${b.id},${c.id}`, '--length', `${a.id},${b.id},3`];
    const args = ['export-camera', quay.at('camera.json'), '--as', 'gltf', '--plate', quay.at('room.mp4')];
    const r = await quay.yarlop([...args, ...world, '--out', quay.at('room.gltf')]);
    expect(r).toMatchObject({ code: 0, err: '' });
    const scene = JSON.parse(await readFile(quay.at('room.gltf'), 'utf8')) as {
      images: object[];
      accessors: { type: string; count: number; min?: number[] }[];
    };
    expect(scene.images).toHaveLength(ROOM.frames);
    expect(scene.accessors.some((x) => x.type === 'VEC3' && x.count === points.length && x.min !== undefined)).toBe(
      true,
    );
    const wrong = ['export-camera', quay.at('camera.json'), '--out', quay.at('none.txt'), '--as'];
    expect((await quay.yarlop([...wrong, 'csv', '--plate', quay.at('room.mp4')])).err).toContain('holds no pictures');
    expect((await quay.yarlop([...wrong, 'fbx'])).err).toContain('use one of gltf, usda, csv, json, lens-');
    expect((await quay.yarlop([...wrong, 'csv', '--origin', '987654'])).err).toContain('no point 987654');
  });

  it('carries a dark glass over frames on which it is covered', async () => {
    const plate = quay.at('room.mp4');
    const args = ['follow', plate, '--screen', quay.at('glass.json'), '--camera', quay.at('camera.json')];
    expect((await quay.yarlop([...args, '--out', quay.at('with.json')])).code).toBe(0);
    const joined = await errors('with.json');
    expect(joined).toHaveLength(ROOM.frames);
    expect(Math.max(...joined)).toBeLessThan(1.5);
    const file = JSON.parse(await readFile(quay.at('with.json'), 'utf8')) as TrackFile;
    expect(file.screens[0]!.frames[16]!.evidence['scene']).toBeGreaterThan(0.8);
  });

  it.each([
    ['while points are followed', 0],
    ['while it is solved', 2500],
  ])('stops within a second on Ctrl-C %s, and writes nothing', async (_, wait) => {
    let sent = 0;
    const args = ['camera', quay.at('room.mp4'), '--out', quay.at('cut.json'), '--progress'];
    const r = await quay.yarlop(args, (child) => {
      if (sent > 0) return;
      sent = Date.now() + wait;
      setTimeout(() => child.kill('SIGINT'), wait);
    });
    expect(r.code).toBe(130);
    expect(Date.now() - sent).toBeLessThan(allowedMs(1500));
    await expect(readFile(quay.at('cut.json'))).rejects.toThrow('ENOENT');
  });

  it('refuses what it cannot do: a picture without points, a range that is none, a camera of another plate', async () => {
    await ffmpeg([
      ...['-f', 'lavfi', '-i', 'color=0x404040:320x180:rate=24', '-frames:v', '6'],
      ...['-c:v', 'libx264', quay.at('blank.mp4')],
    ]);
    const blank = await quay.yarlop(['camera', quay.at('blank.mp4'), '--out', quay.at('none.json')]);
    expect(blank).toMatchObject({ code: 3, out: 'no camera was found\n' });
    expect(blank.err).toContain('frames 0 to 5: 0 points can be followed at the least');
    expect(await camera('none.json')).toMatchObject({ frames: [], stopped: [{ frame: 0, direction: 'forwards' }] });
    const beyond = await quay.yarlop(['camera', quay.at('room.mp4'), '--out', quay.at('x.json'), '--to', '24']);
    expect(beyond).toMatchObject({ code: 2, err: expect.stringContaining('frames 0 to 23') as string });
    const screen = ['--screen', quay.at('screen.json'), '--out', quay.at('t.json')];
    const other = await quay.yarlop(['follow', quay.at('plate.mp4'), ...screen, '--camera', quay.at('none.json')]);
    expect(other).toMatchObject({ code: 2, err: expect.stringContaining('holds no frames') as string });
    const wrong = await quay.yarlop(['follow', quay.at('blank.mp4'), ...screen, '--camera', quay.at('camera.json')]);
    expect(wrong).toMatchObject({
      code: 2,
      err: expect.stringContaining('384x256, and the plate is 320x180') as string,
    });
  });
});
