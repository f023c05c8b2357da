/** The camera of a shot's whole scene, solved by the server, and a Screen that rests on it. */
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { GLASS_REFERENCE, ROOM, glassOn, glassRecipe, roomClip } from '../../media/test/builders/room';
import type { CameraFile } from '../../core/src/camera/camera-file';
import { seenAt, viewsOfFile } from '../../core/src/camera/file-views';
import { flipped } from '../../core/src/camera/view-model';
import { distance } from '../../core/src/geometry/point';
import type { Quad } from '../../core/src/geometry/quad';
import type { TrackFrame } from '../../core/src/track';
import { TestServer } from './builders/server';

interface View {
  readonly settings: object | null;
  readonly solved: { readonly file: CameraFile; readonly told: string; readonly isOfOtherPlate: boolean } | null;
}
interface TrackView {
  readonly frames: readonly TrackFrame[];
  readonly halted: readonly object[];
  readonly scene: { readonly note: string | null; readonly corners: readonly unknown[] | null } | null;
}

const COVERED = [14, 15, 16, 17, 18];
const SETTINGS = { kind: 'find', known: { as: 'nothing' }, leftOut: [] as number[], dropped: [] as number[] };
const RECIPE = glassRecipe();

let server: TestServer;
let shot: number;
let folder: string;
beforeAll(async () => {
  [server, folder] = [await TestServer.create(), await mkdtemp(join(tmpdir(), 'yarlop-room-'))];
  await roomClip(join(folder, 'room.mp4'), (n) => COVERED.includes(n));
  shot = (await server.shot(await readFile(join(folder, 'room.mp4')), 'room.mp4')).shot;
});
afterAll(async () => {
  await server.dispose();
  await rm(folder, { recursive: true, force: true });
});

const view = async (): Promise<View> => (await server.request<View>('GET', `/shots/${shot}/camera`)).body;
const start = (settings: object = SETTINGS) =>
  server.request<{ id: number; message: string }>('POST', `/shots/${shot}/camera`, settings);
async function ended(id: number): Promise<{ state: string; message: string | null }> {
  return server.until(async () => {
    const { body } = await server.request<{ id: number; state: string; message: string | null }[]>('GET', '/jobs');
    return body.find((j) => j.id === id && !['waiting', 'running'].includes(j.state));
  });
}
async function screen(own: object): Promise<number> {
  return (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, { ...RECIPE, ...own })).body.id;
}
const track = async (id: number): Promise<TrackView> =>
  (await server.request<TrackView>('GET', `/screens/${id}/track`)).body;

/** Px at 1920 wide, of the worst corner. */
function miss(f: Pick<TrackFrame, 'frame' | 'corners'>, truth: Quad = glassOn(f.frame)): number {
  return Math.max(...f.corners.map((p, k) => distance(p, truth[k]!))) * (1920 / ROOM.width);
}

const TRUE_FOCAL = { as: 'mm', focal: (ROOM.focal / ROOM.width) * 32, sensor: 32 };

describe("a shot's camera", () => {
  it('is nothing before anything was said, and what is said stays', async () => {
    expect(await view()).toEqual({ settings: null, solved: null });
    const said = { ...SETTINGS, known: { as: 'mm', focal: 35, sensor: 32 } };
    expect((await server.request('PUT', `/shots/${shot}/camera`, said)).status).toBe(200);
    expect(await view()).toEqual({ settings: said, solved: null });
    const wrong = await server.request('PUT', `/shots/${shot}/camera`, { ...said, known: { as: 'mm', focal: -1 } });
    expect(wrong.status).toBe(422);
  });

  it('is solved again by the next server when the first is killed, and says how good it is', async () => {
    const { status, body } = await start();
    expect(status).toBe(202);
    expect((await start()).body.message).toContain('being solved already');
    await server.kill();
    await server.start();
    expect(await ended(body.id)).toMatchObject({ state: 'done' });
    const { solved } = await view();
    expect(solved).toMatchObject({ isOfOtherPlate: false });
    expect(solved!.told).toMatch(/^a camera that moves: 24 frames by \d+ points, 0\.\d\d px rms/);
    for (const f of solved!.file.frames) expect(Math.abs(f.focal / ROOM.focal - 1)).toBeLessThan(0.03);
  });

  it('takes a focal length as lens and sensor, and leaves out points that are dropped', async () => {
    const before = (await view()).solved!.file;
    const dropped = before.points.slice(0, 5).map((p) => p.id);
    expect(await ended((await start({ ...SETTINGS, known: TRUE_FOCAL, dropped })).body.id)).toMatchObject({
      state: 'done',
    });
    const { file } = (await view()).solved!;
    expect(file.frames.every((f) => Math.abs(f.focal - ROOM.focal) < 1e-6)).toBe(true);
    expect(file.points.filter((p) => dropped.includes(p.id))).toEqual([]);
    // The others keep their numbers: a point is the same one as before.
    const same = file.points.filter((p) => before.points.some((q) => q.id === p.id));
    expect(same.length).toBeGreaterThan(0.8 * before.points.length);
  });

  it('takes a lens that is known, and hands over maps of it, one that does not bow aside', async () => {
    const bowed = { ...SETTINGS, known: TRUE_FOCAL, lens: { k1: -0.01, k2: 0 } };
    expect(await ended((await start(bowed)).body.id)).toMatchObject({ state: 'done' });
    expect((await view()).solved!.file.lens.radial).toEqual([-0.01, 0]);
    for (const id of ['lens-undistort', 'lens-distort']) {
      const answer = await fetch(`${server.url}/api/shots/${shot}/camera/${id}`);
      expect([answer.status, answer.headers.get('content-disposition')]).toEqual([
        200,
        expect.stringContaining(`Quay-${id}.exr`),
      ]);
      // The four bytes that an OpenEXR file begins with (OpenEXR file layout).
      const bytes = new Uint8Array(await answer.arrayBuffer());
      expect([...bytes.subarray(0, 4)]).toEqual([0x76, 0x2f, 0x31, 0x01]);
      expect(bytes.length).toBeGreaterThan(ROOM.width * ROOM.height);
    }
    const wrong = await start({ ...SETTINGS, lens: { k1: 2, k2: 0 } });
    expect(wrong.status).toBe(422);
    // The rest goes by the room's own lens.
    const straight = { ...SETTINGS, known: TRUE_FOCAL, lens: { k1: 0, k2: 0 } };
    expect(await ended((await start(straight)).body.id)).toMatchObject({ state: 'done' });
    expect((await view()).solved!.file.lens.radial).toEqual([0, 0]);
    const none = await server.request<{ message: string }>('GET', `/shots/${shot}/camera/lens-undistort`);
    expect(none).toMatchObject({ status: 422, body: { message: expect.stringContaining('does not bow') as string } });
  });

  it('is stopped, and what was solved before stays', async () => {
    const before = await view();
    const { body } = await start({ ...SETTINGS, kind: 'moving' });
    await server.request('POST', `/jobs/${body.id}/cancel`);
    expect(await ended(body.id)).toMatchObject({ state: 'cancelled' });
    expect((await view()).solved).toEqual(before.solved);
  });

  it('refuses an outline that is drawn outside the working range, with the mend', async () => {
    const id = await screen({ name: 'hand' });
    const { revision } = (await server.request<{ revision: number }>('GET', `/shots/${shot}`)).body;
    await server.request('PUT', `/shots/${shot}`, { revision, workingRange: [8, 23] });
    const refused = await start({ ...SETTINGS, leftOut: [id] });
    expect(refused).toMatchObject({
      status: 422,
      body: { message: expect.stringContaining('widen the working range') },
    });
    await server.request('PUT', `/shots/${shot}`, { revision: revision + 1, workingRange: [0, 23] });
    await server.request('DELETE', `/screens/${id}`);
  });
});

describe('a Screen that rests on it', () => {
  it('is carried behind what covers it, and is what it was without it', async () => {
    const id = await screen({});
    const order = { from: 0, to: 23, keepLooking: true };
    await ended((await server.request<{ id: number }>('POST', `/screens/${id}/follow`, order)).body.id);
    const own = await track(id);
    expect(own.scene).toBeNull();
    const saved = { revision: 1, recipe: { ...RECIPE, scene: true } };
    expect((await server.request('PUT', `/screens/${id}`, saved)).status).toBe(200);
    const joined = await track(id);
    expect(joined).toMatchObject({ halted: [], scene: { note: null } });
    expect(joined.frames.map((f) => f.frame)).toEqual(Array.from({ length: ROOM.frames }, (_, i) => i));
    for (const f of joined.frames) expect(miss(f)).toBeLessThan(2);
    for (const n of COVERED) expect(joined.frames[n]!.evidence['scene']).toBeGreaterThan(0.5);
    await server.request('PUT', `/screens/${id}`, { revision: 2, recipe: RECIPE });
    expect(await track(id)).toEqual(own);
  });

  it('goes by sections: frames that do not rest on it stay as they were followed', async () => {
    const id = await screen({ name: 'in parts' });
    await ended((await server.request<{ id: number }>('POST', `/screens/${id}/follow`, { from: 0, to: 13 })).body.id);
    const own = await track(id);
    const recipe = { ...RECIPE, name: 'in parts', scene: true, sections: [{ from: 6, to: 9, scene: false }] };
    await server.request('PUT', `/screens/${id}`, { revision: 1, recipe });
    const { frames } = await track(id);
    const rests = frames.filter((f) => f.evidence['scene']).map((f) => f.frame);
    expect(rests).toEqual([0, 1, 2, 3, 5, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23]);
    for (const n of [6, 7, 8, 9]) expect(frames[n]).toEqual(own.frames[n]);
  });

  it('needs nothing to be followed where its plane is told by points that lie in it', async () => {
    const { file } = (await view()).solved!;
    const on = viewsOfFile(file).get(GLASS_REFERENCE)!;
    // The box's front, about the glass: nearer than the wall behind it.
    const [x0, y0] = glassOn(GLASS_REFERENCE)[0];
    const [x1, y1] = glassOn(GLASS_REFERENCE)[2];
    const [mx, my] = [(x0 + x1) / 2, (y0 + y1) / 2];
    const points = file.points
      .filter((p) => {
        const at = seenAt(file, on, flipped(p.position));
        return at && Math.abs(at[0] - mx) < 0.9 * (x1 - x0) && Math.abs(at[1] - my) < 0.7 * (y1 - y0);
      })
      .map((p) => p.id);
    expect(points.length).toBeGreaterThan(8);
    const id = await screen({ name: 'by points', scene: true, scenePlane: { points } });
    const { frames, scene } = await track(id);
    expect(scene).toMatchObject({ note: null });
    expect(scene!.corners).toHaveLength(4);
    expect(frames).toHaveLength(ROOM.frames);
    for (const f of frames) expect(miss(f)).toBeLessThan(6);
    const none = await screen({ name: 'too few', scene: true, scenePlane: { points: [900_000, 900_001, 900_002] } });
    expect((await track(none)).scene).toMatchObject({ corners: null, note: expect.stringContaining('no plane') });
  });
});

describe('a camera that is handed over', () => {
  it('is a file in each format, set into the world that was told, with the planes of Screens', async () => {
    const { file } = (await view()).solved!;
    const ground = file.points.slice(0, 6).map((p) => p.id);
    const [from, to] = [file.points[0]!, file.points[9]!];
    const world = { ground, origin: from.id, length: { from: from.id, to: to.id, metres: 2 } };
    await server.request('PUT', `/shots/${shot}/camera`, { ...SETTINGS, world });
    const { body } = await server.request<CameraFile>('GET', `/shots/${shot}/camera/json`);
    const at = (id: number): readonly number[] => body.points.find((p) => p.id === id)!.position;
    expect(Math.hypot(...at(from.id).map((v, k) => v - at(to.id)[k]!))).toBeCloseTo(2, 6);
    expect([at(from.id)[0], at(from.id)[2]].map((v) => Math.abs(v!))).toEqual([
      expect.closeTo(0, 9) as number,
      expect.closeTo(0, 9) as number,
    ]);
    expect(ground.reduce((s, id) => s + at(id)[1]!, 0) / ground.length).toBeCloseTo(0, 6);
    expect(body.planes.map((p) => p.screen)).toEqual(['in parts', 'by points']);
    for (const [id, begin] of [
      ['gltf', '{'],
      ['usda', '#usda 1.0'],
      ['csv', '# Yarlop camera'],
      ['json', '{"format":"yarlop-camera"'],
    ] as const) {
      const answer = await fetch(`${server.url}/api/shots/${shot}/camera/${id}?plate=1`);
      expect(answer.headers.get('content-disposition')).toContain(`Quay-camera.${id}`);
      expect((await answer.text()).startsWith(begin)).toBe(true);
    }
    const scene = (await (await fetch(`${server.url}/api/shots/${shot}/camera/gltf?plate=1`)).json()) as {
      images: { uri: string }[];
    };
    expect(scene.images).toHaveLength(ROOM.frames);
    expect(scene.images[0]!.uri.startsWith('data:image/jpeg;base64,/9j/')).toBe(true);
  });

  it('says what is missing: no camera, another format, a point that is gone', async () => {
    expect((await server.request('GET', `/shots/${shot}/camera/fbx`)).status).toBe(404);
    await server.request('PUT', `/shots/${shot}/camera`, { ...SETTINGS, world: { origin: 999_999 } });
    const gone = await server.request<{ message: string }>('GET', `/shots/${shot}/camera/csv`);
    expect(gone).toMatchObject({ status: 422, body: { message: expect.stringContaining('point 999999 any more') } });
    const other = (await server.shot(await readFile(join(folder, 'room.mp4')), 'again.mp4')).shot;
    const none = await server.request<{ message: string }>('GET', `/shots/${other}/camera/csv`);
    expect(none.body.message).toContain('not solved yet');
  });
});
