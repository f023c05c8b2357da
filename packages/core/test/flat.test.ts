import { beforeAll, describe, expect, it } from 'vitest';
import { quadToQuad } from '../src/geometry/homography';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { distance } from '../src/geometry/point';
import { mapQuad } from '../src/geometry/quad';
import { squareUp } from '../src/pin/square-up';
import type { FlatStack } from '../src/proof/flat-view';
import { flatAreaFor, flatCorners, flatten, flattenColour, fromFlat, slitView } from '../src/proof/flat-view';
import { moved, random, renderScene, waves } from './builders/scene';
import type { OpenCv } from './builders/opencv';
import { flat, openCv } from './builders/opencv';
import { allowedMs } from './builders/on-time';

const PIN: Quad = [
  [150, 100],
  [430, 110],
  [420, 300],
  [140, 290],
];
const scene = {
  width: 640,
  height: 420,
  pin: [
    [100, 60],
    [480, 70],
    [470, 340],
    [90, 330],
  ] as unknown as Quad,
  homography: (n: number) => moved(PIN, { x: 3 * n, y: -n, turn: 0.02 * n, tilt: 0.02 * n }),
  texture: waves(7, 10, 60),
  noise: 0,
};

describe('the flat view', () => {
  let cv: OpenCv;
  beforeAll(async () => void (cv = await openCv()), 60_000);
  it('puts the corners of the pin where it says', () => {
    const area = flatAreaFor(PIN, 1e6);
    const h = fromFlat(area, PIN);
    const back = mapQuad(h, flatCorners(area));
    for (const i of [0, 1, 2, 3]) expect(distance(back[i]!, PIN[i]!)).toBeLessThan(1e-6);
    expect(flatAreaFor(PIN, 5000).width * flatAreaFor(PIN, 5000).height).toBeLessThan(5300);
  });
  // OpenCV's warpPerspective (INTER_LINEAR, whose weights are rounded to 1/32 px), which counts from pixel centres.
  it('is what the reference library unwarps, to within its interpolation', () => {
    const frame = renderScene(scene, 4);
    const corners = mapQuad(scene.homography(4), PIN);
    const area = flatAreaFor(PIN, 1e6);
    const out = new Uint8ClampedArray(area.width * area.height);
    flatten(frame, area, corners, out);
    const half = (q: Quad): number[] => flat(q.map((p): Point => [p[0] - 0.5, p[1] - 0.5]));
    const src = cv.matFromArray(4, 1, cv.CV_32FC2, half(corners));
    const dst = cv.matFromArray(4, 1, cv.CV_32FC2, half(flatCorners(area)));
    const m = cv.getPerspectiveTransform(src, dst);
    const picture = cv.matFromArray(frame.height, frame.width, cv.CV_8UC1, frame.data);
    const theirs = new cv.Mat();
    cv.warpPerspective(picture, theirs, m, new cv.Size(area.width, area.height), cv.INTER_LINEAR, cv.BORDER_REPLICATE);
    let worst = 0;
    let sum = 0;
    for (let i = 0; i < out.length; i++) {
      const d = Math.abs(out[i]! - theirs.data[i]!);
      worst = Math.max(worst, d);
      sum += d;
    }
    expect(worst).toBeLessThanOrEqual(4);
    expect(sum / out.length).toBeLessThan(0.5);
    for (const x of [src, dst, m, picture, theirs]) x.delete();
  });
  it('stands still where the track is right, reads 16 bit alike, and is black outside the frame', () => {
    const area = flatAreaFor(PIN, 60_000);
    const at = (n: number, deep = false): Uint8ClampedArray => {
      const frame = renderScene(scene, n);
      const out = new Uint8ClampedArray(area.width * area.height);
      flatten(
        deep ? { ...frame, data: Uint16Array.from(frame.data, (v) => v * 257) } : frame,
        area,
        mapQuad(scene.homography(n), PIN),
        out,
      );
      return out;
    };
    const a = at(0);
    const b = at(6);
    expect(a.reduce((s, v, i) => s + Math.abs(v - b[i]!), 0) / a.length).toBeLessThan(3);
    expect(at(6, true)).toEqual(b);
    const away = new Uint8ClampedArray(area.width * area.height).fill(9);
    flatten(renderScene(scene, 0), area, PIN.map(([x, y]): Point => [x + 2000, y]) as unknown as Quad, away);
    expect(away.every((v) => v === 0)).toBe(true);
  });
  it('has in colour, channel by channel, what it has in grey, and is opaque', () => {
    const area = flatAreaFor(PIN, 60_000);
    const channels = [0, 3, 6].map((n) => renderScene(scene, n));
    const { width, height } = scene;
    const data = new Uint8ClampedArray(width * height * 4);
    channels.forEach((own, c) => own.data.forEach((v, i) => (data[4 * i + c] = v)));
    const out = new Uint8ClampedArray(area.width * area.height * 4);
    flattenColour({ width, height, data }, area, PIN, out);
    channels.forEach((own, c) => {
      const grey = new Uint8ClampedArray(area.width * area.height);
      flatten(own, area, PIN, grey);
      expect(grey.every((v, i) => out[4 * i + c] === v)).toBe(true);
    });
    expect(out.filter((_, i) => i % 4 === 3).every((v) => v === 255)).toBe(true);
  });
});

describe('the slit view', () => {
  /** Bars that stand, but for the frames on which the track slips by so much. */
  const stack = (slip: (n: number) => number, frames = 40): FlatStack => {
    const area = { width: 120, height: 60, marginX: 10, marginY: 10 };
    const data = new Uint8ClampedArray(area.width * area.height * frames);
    for (let n = 0; n < frames; n++)
      for (let y = 0; y < 60; y++)
        for (let x = 0; x < 120; x++) data[(n * 60 + y) * 120 + x] = 128 + 100 * Math.sin((x + 0.5 - slip(n)) / 4);
    return { area, from: 0, frames, data };
  };
  const spread = (s: FlatStack): number => {
    const out = new Uint8ClampedArray(100 * s.frames);
    slitView(
      s,
      [
        [10, 30],
        [110, 30],
      ],
      100,
      out,
    );
    let most = 0;
    for (let r = 0; r < 100; r++) {
      const row = out.subarray(r * s.frames, (r + 1) * s.frames);
      most = Math.max(most, Math.max(...row) - Math.min(...row));
    }
    return most;
  };
  it('draws straight streaks of what is locked, and bends them where it slips', () => {
    expect(spread(stack(() => 0))).toBeLessThanOrEqual(1);
    expect(spread(stack((n) => (n > 20 ? 1 : 0)))).toBeGreaterThan(15);
  });
  it('can be drawn ten times a second for 240 frames', () => {
    const s = stack(() => 0, 240);
    const out = new Uint8ClampedArray(300 * 240);
    const begin = performance.now();
    for (let i = 0; i < 10; i++)
      slitView(
        s,
        [
          [10, 5 + i],
          [110, 50 - i],
        ],
        300,
        out,
      );
    expect(performance.now() - begin).toBeLessThan(allowedMs(1000));
  });
});

describe('squaring up', () => {
  const size = { width: 1920, height: 1080 };
  const r = random(12);
  /** A rectangle in front of a lens, worked out here by its own plain projection. */
  const seen = (ratio: number, focal: number, turn: number, tilt: number, far: number): Quad =>
    (
      [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const
    ).map(([sx, sy]): Point => {
      const x = (sx * ratio) / 2;
      const y = sy / 2;
      const x1 = x * Math.cos(turn);
      const z1 = -x * Math.sin(turn);
      const y2 = y * Math.cos(tilt) - z1 * Math.sin(tilt);
      const z2 = y * Math.sin(tilt) + z1 * Math.cos(tilt);
      const k = (focal * size.width) / (z2 + far);
      return [960 + k * (x1 + 0.2), 540 + k * (y2 - 0.1)];
    }) as unknown as Quad;
  it('leaves a pin that agrees as it is, and tells the focal length', () => {
    const pin = seen(16 / 9, 1.1, 0.6, 0.35, 4);
    const s = squareUp(pin, 16 / 9, size);
    expect(s.moved).toBeLessThan(0.01);
    expect(s.focal).toBeCloseTo(1.1, 2);
    expect(s.warning).toBeNull();
  });
  it('brings corners that lie a pixel or two off nearer to where they belong', () => {
    let before = 0;
    let after = 0;
    for (let k = 0; k < 40; k++) {
      const truth = seen(1.5, 1.2, 0.3 + 0.5 * r(), 0.2 + 0.4 * r(), 3.5);
      const off = truth.map((p): Point => [p[0] + 3 * (r() - 0.5), p[1] + 3 * (r() - 0.5)]) as unknown as Quad;
      const s = squareUp(off, 1.5, size, 1.2);
      before += truth.reduce((t, p, i) => t + distance(p, off[i]!) ** 2, 0);
      after += truth.reduce((t, p, i) => t + distance(p, s.corners[i]!) ** 2, 0);
    }
    // Six of eight freedoms are left: noise keeps six eighths of its power.
    expect(after / before).toBeLessThan(0.85);
    expect(after / before).toBeGreaterThan(0.6);
  });
  it('warns when no lens shows such a screen so, and takes a usual lens where the view is flat-on', () => {
    expect(squareUp(seen(16 / 9, 1.1, 0.6, 0.35, 4), 4 / 3, size).warning).toContain('ratio');
    const flatOn = squareUp(
      [
        [400, 300],
        [1040, 300],
        [1040, 660],
        [400, 660],
      ],
      16 / 9,
      size,
    );
    expect(flatOn.focal).toBeNull();
    expect(flatOn.moved).toBeLessThan(0.01);
    expect(
      squareUp(
        [
          [400, 300],
          [1040, 300],
          [1040, 800],
          [400, 800],
        ],
        16 / 9,
        size,
      ).warning,
    ).toContain('had to move');
    expect(() => squareUp(seen(1, 1, 0, 0, 4), 0, size)).toThrow('ratio must lie');
  });
  it('agrees with the map of a turned phone', () => {
    const pin = seen(0.46, 0.9, -0.5, 0.6, 3);
    const s = squareUp(pin, 0.46, size);
    const h = quadToQuad(pin, s.corners);
    expect(s.focal).toBeCloseTo(0.9, 2);
    expect(h.every(Number.isFinite)).toBe(true);
  });
});
