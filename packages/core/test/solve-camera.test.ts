/** The camera of a shot from points that were followed through it, on invented rooms whose camera is known exactly. */
import { describe, expect, it } from 'vitest';
import type { CameraFrame } from '../src/camera/camera-report';
import { cameraReport } from '../src/camera/camera-report';
import { disagreement, gapsOf, heldFrames, whyNot } from '../src/camera/held';
import { keyFrames } from '../src/camera/key-frames';
import { withoutOutlined } from '../src/camera/left-out';
import { Sightings } from '../src/camera/sightings';
import type { Known, SolvedCamera } from '../src/camera/solve-camera';
import { solveCamera } from '../src/camera/solve-camera';
import { halfDiagonal } from '../src/camera/view-model';
import type { SeenRoom } from './builders/seen-room';
import { SIZE, seenRoom } from './builders/seen-room';

const solve = (room: SeenRoom, known?: Known): SolvedCamera => solveCamera(room.tracks, room.size, room.frames, known)!;

/** Focal length found by true one, less 1, at its worst. */
function focalError(solved: SolvedCamera, room: SeenRoom): number {
  const hd = halfDiagonal(SIZE);
  return Math.max(...[...solved.scene.views].map(([f, v]) => Math.abs((v.focal * hd) / room.focals[f]! - 1)));
}

/** Sideways past the room, looking about a little. */
const dolly = (f: number): number[] => [
  0.01 * Math.sin(f / 5),
  -0.004 * f,
  0.008 * Math.cos(f / 7),
  -0.03 * f,
  0.1 * Math.sin(f / 9),
  0.01 * f,
];

describe('a camera that moves', () => {
  const room = seenRoom({ way: dolly, k1: -0.06 });
  const solved = solve(room);

  it('is told, with its focal length within 1 % and its lens', () => {
    expect(solved).toMatchObject({ kind: 'moving', isZoom: false, isRolling: false });
    expect(solved.scene.views.size).toBe(room.frames);
    expect(focalError(solved, room)).toBeLessThan(0.01);
    expect(Math.abs(solved.scene.optics.k1 + 0.06)).toBeLessThan(0.005);
  });

  it('keeps a lens that is known, and finds the focal length with it', () => {
    const small = seenRoom({ way: dolly, k1: -0.06, frames: 24, count: 80 });
    const told = solve(small, { lens: { k1: -0.06, k2: 0 } });
    expect(told.scene.optics.k1).toBe(-0.06);
    expect(focalError(told, small)).toBeLessThan(0.015);
    // A wrong one is kept just the same, and shows in what is left.
    const wrong = solve(small, { lens: { k1: 0.1, k2: 0 } });
    expect(wrong.scene.optics.k1).toBe(0.1);
    expect(wrong.scene.noise).toBeGreaterThan(2 * told.scene.noise);
  });

  it('stands at the origin on its first frame, and its error is the noise of the places', () => {
    const { frames, points } = cameraReport(solved);
    expect(frames[0]!.position.every((v) => Math.abs(v) < 1e-9)).toBe(true);
    expect(frames[0]!.rotation[3]).toBeCloseTo(1, 9);
    for (const f of frames) {
      expect(Math.hypot(...f.rotation)).toBeCloseTo(1, 9);
      // Noise of 0.05 px on either axis.
      expect(f.error).toBeGreaterThan(0.04);
      expect(f.error).toBeLessThan(0.11);
      expect(f.points).toBeGreaterThan(40);
    }
    expect(points.every((p) => p.position[2] < 0)).toBe(true);
  });

  it('moves as the true one moves: the same shape of path, to a thousandth of its length', () => {
    const { frames } = cameraReport(solved);
    const last = frames.at(-1)!.position;
    const middle = frames[20]!.position;
    const truth = room.views.map((v) =>
      [0, 1, 2].map((i) => -(v[i]! * v[9]! + v[3 + i]! * v[10]! + v[6 + i]! * v[11]!)),
    );
    const from = (f: number): number[] => truth[f]!.map((v, i) => v - truth[0]![i]!);
    const share = Math.hypot(...middle) / Math.hypot(...last);
    expect(share).toBeCloseTo(Math.hypot(...from(20)) / Math.hypot(...from(39)), 3);
  });

  it('knows how well it knows: errors of the focal length lie within three of its sigmas', () => {
    expect(solved.uncertainty!.focal).toBeGreaterThan(1e-5);
    expect(focalError(solved, room)).toBeLessThan(3 * solved.uncertainty!.focal);
  });

  it('is the same though a quarter of the points walk by themselves', () => {
    const busy = seenRoom({ way: dolly, k1: -0.06, walkers: 0.25 });
    expect(focalError(solve(busy), busy)).toBeLessThan(0.015);
  });

  it('keeps a focal length that is given', () => {
    const given = solve(room, { focal: 1100 });
    expect(focalError(given, room)).toBeLessThan(1e-9);
    expect(given.uncertainty!.focal).toBe(0);
  });
});

describe('kinds of camera', () => {
  it('one that only turns is told from one that moves', () => {
    const room = seenRoom({ way: (f) => [0.002 * f, 0.008 * f, 0.01 * Math.sin(f / 6), 0, 0, 0] });
    const solved = solve(room);
    expect(solved.kind).toBe('tripod');
    expect(focalError(solved, room)).toBeLessThan(0.01);
    const { frames } = cameraReport(solved);
    expect(frames.every((f) => f.position.every((v) => Math.abs(v) < 1e-9))).toBe(true);
    expect(frames[20]!.sigma.position).toBe(0);
  });

  it('a zoom is told from a camera that goes nearer', () => {
    const room = seenRoom({
      way: (f) => [0.01 * Math.sin(f / 5), -0.003 * f, 0, -0.03 * f, 0.05 * Math.sin(f / 9), -0.02 * f],
      focal: (f) => 1000 * 1.01 ** f,
    });
    const solved = solve(room);
    expect(solved).toMatchObject({ kind: 'moving', isZoom: true });
    // What is little known is told to be little known.
    expect(focalError(solved, room)).toBeLessThan(2 * solved.uncertainty!.focal);
    expect(solved.uncertainty!.focal).toBeLessThan(0.06);
  });

  it('a rolling shutter is told where the camera shakes', () => {
    const shake = (f: number): number => Math.sin(1.8 * f);
    const room = seenRoom({
      way: (f) => [0.008 * shake(f), 0.006 * shake(f + 0.7), 0, -0.03 * f, 0, 0],
      rowTurn: (f) => [0.008 * Math.cos(1.8 * f), 0.006 * Math.cos(1.8 * f + 0.7), 0],
    });
    const solved = solve(room);
    expect(solved).toMatchObject({ kind: 'moving', isRolling: true });
    expect(focalError(solved, room)).toBeLessThan(0.02);
    expect(solved.scene.noise).toBeLessThan(0.09);
  });
});

describe('what cannot be solved', () => {
  const poor = seenRoom({ way: dolly, count: 6 });

  it('has too few points, and says so with the frames and what is needed', () => {
    const solved = solveCamera(poor.tracks, poor.size, poor.frames);
    const s = new Sightings(poor.tracks, poor.size, poor.frames);
    expect(solved).toBeNull();
    expect(whyNot(s, 100)).toMatchObject({
      direction: 'forwards',
      reason: expect.stringMatching(/^frames? 1\d\d.*and 8 well spread ones are needed throughout/) as string,
    });
  });

  it('points that agree only roughly are no camera: the bound goes with the size of the picture', () => {
    const frames = [0, 1, 2].map((frame): CameraFrame => ({
      frame,
      position: [0, 0, 0],
      rotation: [0, 0, 0, 1],
      focal: 1100,
      sigma: { position: 0, rotation: 0 },
      error: 0.1,
      points: 40,
    }));
    expect(disagreement(frames, SIZE.width)).toBeNull();
    const rough = frames.map((f) => ({ ...f, error: 1.2 }));
    expect(disagreement(rough, 960)).toMatch(/^the points agree with one camera only to 1\.2 px/);
    expect(disagreement(rough, 1920)).toBeNull();
  });

  it('a stretch without points is named, and what lies about it stands', () => {
    const room = seenRoom({ way: dolly });
    const hidden = room.tracks.map((t) => ({
      ...t,
      places: t.places.map((v, i) => (t.first + (i >> 1) >= 18 && t.first + (i >> 1) <= 21 ? NaN : v)),
    }));
    const solved = solveCamera(hidden, room.size, room.frames)!;
    const held = heldFrames(solved, cameraReport(solved).frames);
    expect(held.map((f) => f.frame)).not.toContain(19);
    expect(held).toHaveLength(room.frames - 4);
    expect(gapsOf(solved, held, 0)).toEqual([
      { frame: 18, direction: 'forwards', reason: expect.stringContaining('frames 18 to 21: 0 points') as string },
    ]);
  });
});

describe('outlines and key frames', () => {
  it('an outline is carried by its points, and takes away whatever it holds on any frame', () => {
    const inside = { id: 0, first: 0, places: [100, 100, 130, 100, 160, 100] };
    const more = [
      [104, 96],
      [96, 104],
      [98, 97],
    ].map(([x, y], i) => ({
      id: 1 + i,
      first: 0,
      places: [x!, y!, x! + 30, y!, x! + 60, y!],
    }));
    const met = { id: 8, first: 2, places: [162, 104] };
    const outside = { id: 9, first: 0, places: [300, 100, 300, 100, 300, 100] };
    const outline = {
      frame: 0,
      points: [
        [90, 90],
        [110, 90],
        [110, 110],
        [90, 110],
      ] as [number, number][],
    };
    const left = withoutOutlined([inside, ...more, met, outside], [outline], 3);
    expect(left).toEqual([outside]);
  });

  it('key frames reach from the first to the last, nearer to each other where more moves', () => {
    const quick = seenRoom({ way: (f) => [0, f < 20 ? 0 : -0.012 * (f - 20), 0, -0.01 * f, 0, 0] });
    const keys = keyFrames(new Sightings(quick.tracks, quick.size, quick.frames));
    expect(keys[0]).toBe(0);
    expect(keys.at(-1)).toBe(quick.frames - 1);
    const early = keys.filter((k) => k < 20).length;
    const late = keys.filter((k) => k >= 20).length;
    expect(late).toBeGreaterThan(early);
  });
});
