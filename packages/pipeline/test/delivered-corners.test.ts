/** Corners as somebody else needs them: of the dressed fill, and as the shutter opens and closes. */
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { idsOf } from '@yarlop/contracts/formats';
import type { ScreenFile } from '@yarlop/contracts/validate';
import { writeTransformCsv } from '../../core/src/formats/transforms';
import { ownConventions } from '../../core/src/formats/conventions';
import { normaliseHomography, quadToQuad } from '../../core/src/geometry/homography';
import type { Quad } from '../../core/src/geometry/quad';
import { farthest, mapQuad, perspectiveCentre } from '../../core/src/geometry/quad';
import type { ScreenTrack, Track } from '../../core/src/track';
import { probe } from '../../media/src/probe';
import { openSource } from '../../media/src/source';
import { makeClip } from '../../media/test/builders/clips';
import { asDelivered, saying } from '../src/delivered-corners';
import { whiteFill } from '../src/deliver-maps';
import { dress } from '../src/dress';
import { writeText } from '../src/text-writers';
import { parseTrack } from '../src/track-file';

const PIN: Quad = [
  [80, 50],
  [240, 58],
  [232, 150],
  [72, 142],
];
const [WIDTH, HEIGHT, FRAMES] = [320, 200, 5];
/** Corners at any time, in frames: a parabola, and no two corners alike. */
const at = (t: number): Quad =>
  PIN.map(([x, y], i) => [x + 3 * (t - 2) + 0.2 * (t - 2) ** 2, y + (1 + i / 4) * (t - 2)]) as unknown as Quad;
const screen: ScreenTrack = {
  name: 'quay phone',
  referenceFrame: 2,
  stopped: null,
  frames: Array.from({ length: FRAMES }, (_, frame) => ({
    frame,
    corners: at(frame),
    homography: normaliseHomography(quadToQuad(PIN, at(frame)), perspectiveCentre(PIN)),
    sigma: [0.1, 0.1, 0.1, 0.1],
    trust: 0.9,
    evidence: { edges: 1 },
  })),
};
const track: Track = {
  plate: { name: 'plate.mkv', width: WIDTH, height: HEIGHT, frameRate: [25, 1], firstFrame: 0, frameCount: FRAMES },
  screens: [screen],
};
const recipe = (own: object): ScreenFile =>
  ({
    format: 'yarlop-screen',
    version: 1,
    name: 'quay phone',
    referenceFrame: 2,
    pin: PIN.map(([x, y]) => [x, y]),
    ...own,
  }) as unknown as ScreenFile;
const recipes = (own: object = {}): ReadonlyMap<string, ScreenFile> => new Map([['quay phone', recipe(own)]]);
const cornersOf = (t: Track, frame: number): Quad => t.screens[0]!.frames[frame]!.corners;

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-corners-'));
  await makeClip({
    frames: FRAMES,
    width: WIDTH,
    height: HEIGHT,
    rate: '25',
    args: ['-c:v', 'ffv1', '-pix_fmt', 'gbrp', join(folder, 'plate.mkv')],
  });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('corners as the shutter opens and closes', () => {
  it.each([
    ['open', -0.2],
    ['close', 0.2],
  ] as const)('lie on the path at that time (%s)', (moment, off) => {
    const order = { at: moment, recipes: recipes(), shutters: new Map([['quay phone', 0.4]]) };
    const t = asDelivered(track, order);
    for (const n of [1, 2, 3]) expect(farthest(cornersOf(t, n), at(n + off))).toBeLessThan(1e-9);
    // Where nothing follows, the movement goes on evenly.
    expect(farthest(cornersOf(t, 0), at(off))).toBeLessThan(0.3);
  });
  it('go by the dress’s own shutter first, in degrees', () => {
    const t = asDelivered(track, { at: 'close', recipes: recipes({ dress: { motionBlur: { shutter: 90 } } }) });
    expect(farthest(cornersOf(t, 3), at(3.125))).toBeLessThan(1e-9);
  });
  it('have homographies that take the reference’s to them', () => {
    const t = asDelivered(track, { at: 'open', recipes: recipes() });
    const pin = cornersOf(t, 2);
    for (const f of t.screens[0]!.frames) expect(farthest(mapQuad(f.homography, pin), f.corners)).toBeLessThan(1e-6);
  });
});

/** Area and middle of what is opaque, px. */
async function covered(path: string): Promise<{ area: number; x: number; y: number }> {
  const { data, info } = await sharp(await readFile(path))
    .extractChannel('alpha')
    .raw()
    .toBuffer({ resolveWithObject: true });
  let [area, x, y] = [0, 0, 0];
  for (let i = 0; i < info.width * info.height; i++) {
    const v = data[i]! / 255;
    area += v;
    x += v * ((i % info.width) + 0.5);
    y += v * (Math.floor(i / info.width) + 0.5);
  }
  return { area, x: x / area, y: y / area };
}

/** The same of a quad. Source: the shoelace formula of a polygon's area and centroid (textbook). */
function ofQuad(q: Quad): { area: number; x: number; y: number } {
  let [area, x, y] = [0, 0, 0];
  for (const [i, [ax, ay]] of q.entries()) {
    const [bx, by] = q[(i + 1) % 4]!;
    const c = ax * by - bx * ay;
    area += c / 2;
    x += ((ax + bx) * c) / 6;
    y += ((ay + by) * c) / 6;
  }
  return { area: Math.abs(area), x: x / area, y: y / area };
}

describe('corners of the dressed fill', () => {
  it.each<[string, object]>([
    ['offset and scaled', { x: 0.05, y: -0.1, scale: 0.6 }],
    ['turned', { turn: 12, scale: 0.5 }],
    ['lifted', { lift: 0.2, scale: 0.7 }],
    ['on a side that is farther away', { keystoneX: 0.2, scale: 0.7 }],
  ])('lie where the renderer puts it: %s', async (name, placement) => {
    const own = recipe({ dress: { placement } });
    const out = join(folder, `${name.replaceAll(' ', '-')}.%04d.png`);
    const plate = await openSource(join(folder, 'plate.mkv'));
    try {
      const layer = {
        screen: whiteFill(own),
        places: new Map(screen.frames.map((f) => [f.frame, f])),
        fill: { media: null, foreground: null, table: null },
        shutter: null,
        lens: 0,
      };
      const job = { plate, probe: await probe(plate), seekable: false, layers: [layer], out, show: 'element' as const };
      for await (const _ of dress({ ...job, from: 1, count: 1 })) void _;
    } finally {
      await plate.dispose();
    }
    const seen = await covered(out.replace('%04d', '0001'));
    const told = ofQuad(cornersOf(asDelivered(track, { isDressed: true, recipes: new Map([['quay phone', own]]) }), 1));
    expect(Math.hypot(seen.x - told.x, seen.y - told.y)).toBeLessThan(0.1);
    expect(seen.area / told.area).toBeGreaterThan(0.985);
    expect(seen.area / told.area).toBeLessThan(1.015);
  });
  it('take in the fill’s own shape where it is shown whole', () => {
    const content = new Map([['quay phone', { width: 100, height: 100 }]]);
    const order = { isDressed: true, recipes: recipes({ dress: { placement: { fit: 'contain' } } }), content };
    const [tl, tr] = cornersOf(asDelivered(track, order), 2);
    expect(tr[0] - tl[0]).toBeLessThan(100);
    expect(tr[0] - tl[0]).toBeGreaterThan(85);
  });
  it('that would cross are refused with the frame', () => {
    const far = recipes({ dress: { placement: { keystoneX: 8, scale: 6, x: 3 } } });
    expect(() => asDelivered(track, { isDressed: true, recipes: far })).toThrow(/would cross on frame 0/);
  });
});

describe('a delivery of them', () => {
  const order = { at: 'open' as const, isDressed: true, recipes: recipes() };
  const conventions = saying(ownConventions(WIDTH, HEIGHT), track, order);
  // An edit holds no corners.
  it.each(idsOf('text').filter((id) => id !== 'otio'))('says which they are, as %s', (id) => {
    const text = writeText(asDelivered(track, order), id, { conventions, screens: recipes() });
    expect(text).toContain('as the shutter opens, 0.25 of a frame before its middle');
    expect(text).toContain('of the dressed fill');
  });
  it('comes back as it was written', () => {
    const written = asDelivered(track, order);
    const back = parseTrack(JSON.parse(writeText(written, 'json', { conventions })), 'track');
    expect(farthest(cornersOf(back, 3), cornersOf(written, 3))).toBeLessThan(1e-9);
  });
  it('of the pin’s own corners at the middle is what it was', () => {
    expect(asDelivered(track, { recipes: recipes() })).toBe(track);
    expect(saying(ownConventions(WIDTH, HEIGHT), track, { recipes: recipes() })).toEqual(ownConventions(WIDTH, HEIGHT));
  });
});

describe('moves', () => {
  it('tell what perspective is left after them: with it every corner is exact', () => {
    const lines = writeTransformCsv(track)
      .split(/\r?\n/)
      .filter((l) => l !== '' && !l.startsWith('#'));
    const names = lines[0]!.split(',');
    const row = Object.fromEntries(lines[5]!.split(',').map((v, i) => [names[i]!, v]));
    const n = (name: string): number => Number(row[name]);
    for (const [i, corner] of ['tl', 'tr', 'br', 'bl'].entries()) {
      const [x, y] = PIN[i]!;
      const [ex, ey] = at(n('frame'))[i]!;
      expect(n('a') * x + n('b') * y + n('tx') + n(`left_affine_${corner}_x`)).toBeCloseTo(ex, 6);
      expect(n('c') * x + n('d') * y + n('ty') + n(`left_affine_${corner}_y`)).toBeCloseTo(ey, 6);
    }
    const farthestLeft = Math.max(
      ...['tl', 'tr', 'br', 'bl'].map((c) => Math.hypot(n(`left_similarity_${c}_x`), n(`left_similarity_${c}_y`))),
    );
    expect(farthestLeft).toBeCloseTo(n('misfit_similarity'), 6);
  });
});
