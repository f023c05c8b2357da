/** Points that are followed from picture to picture, against pictures whose movement is known and a reference library. */
import { describe, expect, it } from 'vitest';
import { cornerStrength, cornersOf } from '../src/camera/corners';
import { PatchFitter } from '../src/camera/patch';
import { PointTracker } from '../src/camera/point-tracks';
import { wholeShift } from '../src/camera/whole-shift';
import type { RawLuma } from '../src/image/image';
import { buildPyramid } from '../src/image/pyramid';
import { openCv } from './builders/opencv';
import { photograph } from './builders/photograph';

const [WIDTH, HEIGHT] = [320, 200];

/** Blobs and bars at random, smooth: what is seen at a place of the scene. */
function scene(x: number, y: number): number {
  let v = 110;
  for (let i = 0; i < 24; i++) {
    const cx = ((i * 137) % 400) - 20;
    const cy = ((i * 89) % 260) - 20;
    const d2 = (x - cx) ** 2 + ((y - cy) * (1 + (i % 3) * 0.4)) ** 2;
    v += (i % 2 === 0 ? 70 : -60) * Math.exp(-d2 / (30 + 14 * (i % 5)));
  }
  return Math.min(250, Math.max(5, v));
}

/** The scene seen through a map from picture to scene. */
function seen(map: (x: number, y: number) => [number, number]): RawLuma {
  const data = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) data[y * WIDTH + x] = Math.round(scene(...map(x + 0.5, y + 0.5)));
  return { width: WIDTH, height: HEIGHT, data };
}

const still = seen((x, y) => [x, y]);

describe('corners', () => {
  it('are as strong as the OpenCV build says, on a published photograph', async () => {
    const cv = (await openCv()) as unknown as {
      Mat: new () => { data32F: Float32Array; delete(): void };
      matFromArray(r: number, c: number, t: number, d: ArrayLike<number>): { delete(): void };
      CV_32FC1: number;
      cornerMinEigenVal(s: object, d: object, block: number, k: number): void;
    };
    const photo = await photograph('graf1.png');
    const luma = { width: photo.width, height: photo.height, data: Float32Array.from(photo.data) };
    const own = cornerStrength(luma);
    const src = cv.matFromArray(luma.height, luma.width, cv.CV_32FC1, luma.data);
    const out = new cv.Mat();
    cv.cornerMinEigenVal(src, out, 7, 3);
    // Its gradients are Sobel's, smoothed across, so the two agree in order and not in size: rank correlation.
    const at = Array.from(
      { length: 2000 },
      (_, i) => (20 + ((i * 7919) % (luma.height - 40))) * luma.width + 20 + ((i * 104729) % (luma.width - 40)),
    );
    const rank = (values: number[]): number[] => {
      const order = values.map((v, i) => [v, i] as const).sort((p, q) => p[0] - q[0]);
      const ranks = new Array<number>(values.length);
      order.forEach(([, i], r) => (ranks[i] = r));
      return ranks;
    };
    const [a, b] = [rank(at.map((i) => own[i]!)), rank(at.map((i) => out.data32F[i]!))];
    const d2 = a.reduce((s, v, i) => s + (v - b[i]!) ** 2, 0);
    expect(1 - (6 * d2) / (a.length * (a.length ** 2 - 1))).toBeGreaterThan(0.95);
    src.delete();
    out.delete();
  });

  it('stand on corners, not along an edge or on a flat', () => {
    const data = new Float32Array(80 * 60).fill(50);
    for (let y = 20; y < 60; y++) for (let x = 30; x < 80; x++) data[y * 80 + x] = 200;
    const [first, ...others] = cornersOf({ width: 80, height: 60, data }, 1);
    expect(Math.hypot(first!.x - 30, first!.y - 20)).toBeLessThan(4);
    expect(others.filter((c) => Math.hypot(c.x - 30, c.y - 20) > 6)).toEqual([]);
  });
});

describe('a patch', () => {
  const fitter = new PatchFitter();
  const from = buildPyramid(still, 3);
  const corner = cornersOf({ ...from[0]! }, 4)[0]!;

  it.each([
    ['shifted', (x: number, y: number): [number, number] => [x - 6.37, y + 3.21], 6.37, -3.21],
    [
      'turned and larger',
      (x: number, y: number): [number, number] => [0.93 * x - 0.05 * y - 4, 0.05 * x + 0.93 * y + 2],
      null,
      null,
    ],
    ['brighter and flatter', (x: number, y: number): [number, number] => [x - 2.5, y - 1.25], 2.5, 1.25],
  ])('%s is found within a few hundredths of a px', (name, map, dx, dy) => {
    const picture = seen(map);
    if (name.startsWith('brighter')) picture.data.forEach((v, i) => (picture.data[i] = 60 + 0.6 * v));
    const to = buildPyramid(picture, 3);
    const patch = fitter.patchAt(from[0]!, corner.x, corner.y)!;
    const at = fitter.shiftOf(from, to, corner, corner);
    const place = { ...at, a: 1, b: 0, c: 0, d: 1 };
    expect(fitter.fit(to[0]!, patch, place)).toBeGreaterThan(0.98);
    const [sx, sy] = map(place.x, place.y);
    expect(Math.hypot(sx - corner.x, sy - corner.y)).toBeLessThan(0.06);
    if (dx !== null) expect(Math.abs(place.x - corner.x - dx)).toBeLessThan(0.06);
    if (dy !== null) expect(Math.abs(place.y - corner.y - dy)).toBeLessThan(0.06);
  });

  it('is told from another one, and has no place beyond the border', () => {
    const patch = fitter.patchAt(from[0]!, corner.x, corner.y)!;
    const far = { x: WIDTH - corner.x, y: HEIGHT - corner.y, a: 1, b: 0, c: 0, d: 1 };
    expect(fitter.fit(from[0]!, patch, far) ?? 0).toBeLessThan(0.8);
    expect(fitter.fit(from[0]!, patch, { ...far, x: 3 })).toBeNull();
    expect(fitter.patchAt(from[0]!, 4, 100)).toBeNull();
  });
});

describe('a tracker of points', () => {
  const pan = (f: number) => seen((x, y) => [x - 2.3 * f, y + 0.7 * f]);

  it('follows them to hundredths of a px, with nothing that adds up', () => {
    const tracker = new PointTracker();
    for (let f = 0; f < 12; f++) tracker.add(pan(f));
    const long = tracker.tracks.filter((t) => t.first === 0 && t.places.length === 24);
    expect(long.length).toBeGreaterThan(7);
    for (const { places } of long) {
      expect(Math.abs(places[22]! - places[0]! - 2.3 * 11)).toBeLessThan(0.15);
      expect(Math.abs(places[23]! - places[1]! + 0.7 * 11)).toBeLessThan(0.15);
    }
  });

  it('finds them again after frames on which nothing is to be seen', () => {
    const tracker = new PointTracker();
    const blank: RawLuma = { width: WIDTH, height: HEIGHT, data: new Uint8Array(WIDTH * HEIGHT).fill(90) };
    tracker.add(pan(0));
    tracker.add(pan(1));
    tracker.add(blank);
    tracker.add(pan(3));
    const again = tracker.tracks.filter((t) => t.first === 0 && t.places.length === 8);
    expect(again.length).toBeGreaterThan(8);
    for (const { places } of again) {
      expect(places.slice(4, 6)).toEqual([NaN, NaN]);
      expect(Math.abs(places[6]! - places[0]! - 6.9)).toBeLessThan(0.2);
    }
  });

  it('begins none where it is told to leave out, and none on a blank picture', () => {
    const tracker = new PointTracker((_, x) => x < WIDTH / 2);
    tracker.add(still);
    expect(tracker.tracks.length).toBeGreaterThan(3);
    expect(tracker.tracks.every((t) => t.places[0]! >= WIDTH / 2)).toBe(true);
    const nothing = new PointTracker();
    nothing.add({ width: WIDTH, height: HEIGHT, data: new Uint8Array(WIDTH * HEIGHT).fill(90) });
    expect(nothing.seen).toBe(0);
  });

  it('has a rough idea of where the whole picture has gone, however far', () => {
    const shift = wholeShift(buildPyramid(pan(0), 3), buildPyramid(pan(14), 3));
    expect(Math.abs(shift.x - 32.2)).toBeLessThan(6);
    expect(Math.abs(shift.y + 9.8)).toBeLessThan(6);
  });
});
