/** What the person can do to a run: outlines over time, spots, pins by hand, presence, a run from the middle. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import type { Patch } from '../src/follow/outline/outlines';
import { followedOn, polygonOf, shapeAt } from '../src/follow/outline/outlines';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import { Sight } from '../src/follow/memory/sight';
import type { FrameResult } from '../src/solve/frame-result';
import { ABSENT } from '../src/solve/frame-result';
import type { Spot } from '../src/follow/spots/spots';
import { SpotFollower } from '../src/follow/spots/spots';
import { smoothOutline } from '../src/geometry/curve';
import { mapPoint } from '../src/geometry/homography';
import type { Point } from '../src/geometry/point';
import { distance } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { withHandKeys } from '../src/solve/hand-bend';
import { refineJointly } from '../src/solve/joint-refinement';
import { openCv } from './builders/opencv';
import type { SceneOptions } from './builders/scene';
import { moved, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [320, 90],
  [320, 220],
  [120, 220],
];
const scene = (more: Partial<SceneOptions> = {}): SceneOptions => ({
  width: 480,
  height: 320,
  pin: PIN,
  homography: (n) => moved(PIN, { x: 3 * n, y: 2 * Math.sin(n), turn: 0.012 * n, scale: 1 + 0.003 * n }),
  texture: waves(5),
  background: waves(9),
  noise: 2,
  ...more,
});
const setup = (more: Partial<FollowSetup> = {}): FollowSetup => ({
  pin: PIN,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges', 'spots', 'hand'],
  ...more,
});
const worst = (r: FrameResult, o: SceneOptions): number =>
  Math.max(...mapQuad(r.homography!, PIN).map((p, i) => distance(p, mapQuad(o.homography(r.frame), PIN)[i]!)));

describe('an outline', () => {
  const patch: Patch = {
    kind: 'follow',
    points: [
      [0, 0],
      [100, 0],
      [100, 100],
      [0, 100],
    ],
    keys: [
      {
        frame: 20,
        points: [
          [50, 0],
          [150, 0],
          [150, 100],
          [50, 100],
        ],
      },
    ],
  };
  it('goes from shape to shape evenly, softly or at once, and holds beyond its keys', () => {
    expect(shapeAt(patch, 15, 10)[0]).toEqual([25, 0]);
    expect(shapeAt({ ...patch, change: 'eased' }, 12, 10)[0]![0]).toBeCloseTo(50 * (0.04 * 2.6), 9);
    expect(shapeAt({ ...patch, change: 'hold' }, 19, 10)[0]).toEqual([0, 0]);
    expect(shapeAt(patch, 3, 10)[0]).toEqual([0, 0]);
    expect(shapeAt(patch, 99, 10)[0]).toEqual([50, 0]);
  });
  it('that is curved passes through its points and, with its points on a circle, stays within a twentieth of it', () => {
    const circle = Array.from({ length: 9 }, (_, i): Point => [
      100 * Math.cos((2 * Math.PI * i) / 9),
      100 * Math.sin((2 * Math.PI * i) / 9),
    ]);
    const curve = smoothOutline(circle);
    for (const p of circle) expect(Math.min(...curve.map((q) => distance(p, q)))).toBeLessThan(1e-9);
    for (const q of curve) expect(Math.abs(Math.hypot(...q) - 100)).toBeLessThan(5);
    expect(polygonOf({ points: circle, smooth: true }, { points: circle })).toHaveLength(90);
  });
  it('says what is followed on a frame, and nothing while no shape ever changes', () => {
    const same = (p: Point): Point => p;
    expect(followedOn({ patches: [{ ...patch, keys: [] }] }, [12, 10], same)).toBeNull();
    const patches: readonly Patch[] = [
      patch,
      {
        kind: 'ignore',
        points: [
          [60, 40],
          [80, 40],
          [80, 60],
          [60, 60],
        ],
      },
    ];
    const at = followedOn({ patches }, [20, 10], same)!;
    expect([at.picture([25, 50]), at.picture([120, 50]), at.picture([70, 50]), at.edges([25, 50])]).toEqual([
      false,
      true,
      false,
      true,
    ]);
  });
  it('that is reshaped as something passes keeps the passer out', () => {
    const bar = (n: number): Point[] => [
      [130 + 14 * n, 60],
      [200 + 14 * n, 60],
      [200 + 14 * n, 260],
      [130 + 14 * n, 260],
    ];
    const o = scene({ homography: () => moved(PIN, {}), covers: (n) => (n === 0 ? [] : [bar(n)]) });
    const ignore: Patch = { kind: 'ignore', points: bar(0) as Patch['points'], keys: [{ frame: 10, points: bar(10) }] };
    const follower = new Follower(setup({ patches: [ignore], evidence: ['texture'] }), 0, renderScene(o, 0));
    const seen: number[] = [];
    for (let n = 1; n <= 8; n++) {
      const r = follower.step(n, renderScene(o, n));
      expect(worst(r, o)).toBeLessThan(0.15);
      for (let i = 0; i + 3 < r.cells!.length; i += 4)
        if (r.cells![i]! > bar(n)[0]![0] + 8 && r.cells![i]! < bar(n)[1]![0] - 8) seen.push(r.cells![i + 3]!);
    }
    expect(seen.every((trust) => trust < 30)).toBe(true);
  });
});

describe('a spot', () => {
  const spot = (more: Partial<Spot> = {}): Spot => ({
    name: 'cross',
    at: [200, 150],
    box: [31, 31],
    search: [91, 91],
    match: 'reference',
    keys: [],
    ...more,
  });
  const follow = (
    s: Spot,
    o: SceneOptions,
    frames: number,
  ): { results: ReturnType<SpotFollower['step']>[]; errors: number[] } => {
    const f = new SpotFollower(
      s,
      0,
      renderScene(o, 0),
      s.keys.map((k) => ({ frame: k.frame, luma: renderScene(o, k.frame) })),
    );
    const results = Array.from({ length: frames }, (_, i) => f.step(i + 1, renderScene(o, i + 1)));
    return {
      results,
      errors: results.flatMap((r) => (r.at ? [distance(r.at, mapPoint(o.homography(r.frame), s.at))] : [])),
    };
  };
  it('keeps to its place to a tenth of a pixel through a turn and a zoom, against the reference and the frame before', () => {
    expect(Math.max(...follow(spot(), scene(), 20).errors)).toBeLessThan(0.12);
    expect(follow(spot({ match: 'previous' }), scene(), 20).errors).toHaveLength(20);
  });
  it('begins where normalised correlation of the OpenCV build finds its box', async () => {
    const cv = (await openCv()) as unknown as {
      matFromArray(r: number, c: number, t: number, d: ArrayLike<number>): never;
      Mat: new () => { data32F: Float32Array; cols: number };
      CV_8UC1: number;
      TM_CCOEFF_NORMED: number;
      matchTemplate(i: never, t: never, o: object, m: number): void;
    };
    const o = scene({ homography: (n) => moved(PIN, { x: 7 * n, y: 5 * n }) });
    const a = renderScene(o, 0);
    const b = renderScene(o, 2);
    const cut = new Uint8Array(31 * 31);
    for (let y = 0; y < 31; y++) for (let x = 0; x < 31; x++) cut[y * 31 + x] = a.data[(135 + y) * a.width + 185 + x]!;
    const out = new cv.Mat();
    cv.matchTemplate(
      cv.matFromArray(b.height, b.width, cv.CV_8UC1, b.data),
      cv.matFromArray(31, 31, cv.CV_8UC1, cut),
      out,
      cv.TM_CCOEFF_NORMED,
    );
    let best = 0;
    out.data32F.forEach((v, i) => v > out.data32F[best]! && (best = i));
    const at = new SpotFollower(spot({ at: [200.5, 150.5] }), 0, a).step(2, b).at!;
    expect(distance(at, [(best % out.cols) + 15.5, Math.floor(best / out.cols) + 15.5])).toBeLessThan(0.75);
  });
  it('that is covered stops with its name, frame and mend; a place by hand takes it up again', () => {
    const o = scene({
      covers: (n) =>
        n >= 6 && n < 9
          ? [
              [
                [100, 60],
                [420, 60],
                [420, 260],
                [100, 260],
              ],
            ]
          : [],
    });
    const lost = follow(spot(), o, 12).results;
    expect(lost[6]!.reason).toContain('"cross" no longer looks like what it was; place it by hand on frame 6');
    expect(lost[11]!.at).toBeNull();
    const key = { frame: 9, at: mapPoint(o.homography(9), [200, 150]) };
    const again = follow(spot({ keys: [key] }), o, 12);
    expect(again.results[8]).toMatchObject({ byHand: true, at: key.at });
    expect(distance(again.results[11]!.at!, mapPoint(o.homography(12), [200, 150]))).toBeLessThan(0.2);
  });
  it('matched against hand keys blends from one to the next, and one that is cut back is not used beyond', () => {
    const o = scene();
    const keys = [{ frame: 12, at: mapPoint(o.homography(12), [200, 150]) }];
    const r = follow(spot({ match: 'hand', keys, to: 14 }), o, 16);
    expect(Math.max(...r.errors)).toBeLessThan(0.25);
    expect(r.results.slice(14).every((q) => q.at === null && q.reason === 'Cut back by hand.')).toBe(true);
  });
  it('is taken where its own run found it, and looked for again beyond', () => {
    const o = scene();
    const path = [1, 2, 3].map((n): [number, number, number, number] => [n, 500 + n, 400, 0.2]);
    const f = new SpotFollower(spot({ path, search: [41, 41] }), 0, renderScene(o, 0));
    expect([1, 2, 3].map((n) => f.step(n, renderScene(o, n))).map((r) => [r.at, r.sigma])).toEqual(
      path.map(([, x, y, s]) => [[x, y], s]),
    );
    // Nothing like it lies around where the path leads.
    expect(f.step(4, renderScene(o, 4))).toMatchObject({ at: null, reason: expect.stringContaining('"cross"') });
    const true4 = mapPoint(o.homography(4), [200, 150]);
    const back = new SpotFollower(spot({ path: [[4, true4[0], true4[1], 0.1]] }), 0, renderScene(o, 0));
    back.step(4, renderScene(o, 4));
    expect(distance(back.step(5, renderScene(o, 5)).at!, mapPoint(o.homography(5), [200, 150]))).toBeLessThan(0.12);
  });
  it('on flat glass says what it needs', () => {
    const o = scene({ texture: () => 60, noise: 0 });
    expect(follow(spot(), o, 1).results[0]!.reason).toContain('put it on something with contrast');
  });
  it('four of them make a whole pin, three an affine one, and their share is told', () => {
    const o = scene();
    const places: Point[] = [
      [140, 105],
      [300, 108],
      [305, 205],
      [138, 200],
    ];
    const four = places.map((at, i) => spot({ at, name: `s${i}` }));
    for (const [spots, limit] of [
      [four, 0.35],
      [four.slice(0, 3), 0.8],
    ] as const) {
      const f = new Follower(setup({ evidence: ['spots'], spots }), 0, renderScene(o, 0));
      for (let n = 1; n < 12; n++) {
        const r = f.step(n, renderScene(o, n));
        expect(r.evidence).toEqual({ spots: 1 });
        expect(worst(r, o)).toBeLessThan(limit);
        expect(r.spots).toHaveLength(spots.length);
      }
    }
    const beside = new Follower(setup({ spots: four }), 0, renderScene(o, 0)).step(1, renderScene(o, 1));
    expect(beside.evidence['spots']).toBeGreaterThan(0.01);
    expect(Object.values(beside.evidence).reduce((s, v) => s + v, 0)).toBeCloseTo(1, 9);
  });
});

describe('a pin placed by hand', () => {
  it('alone, or with spots, needs nothing of the picture to be remembered; edges want it, which it judges', () => {
    const levelsWith = (evidence: FollowSetup['evidence']): number =>
      new Sight(setup({ evidence }), 0, renderScene(scene(), 0)).keys[0]!.template.levels.length;
    expect(levelsWith(['hand'])).toBe(0);
    expect(levelsWith(['spots', 'hand'])).toBe(0);
    expect(levelsWith(['edges'])).toBeGreaterThan(0);
    expect(levelsWith(['texture'])).toBeGreaterThan(0);
  });
  const cover = (n: number): Point[][] =>
    n >= 6 && n < 20
      ? [
          [
            [60, 40],
            [460, 40],
            [460, 300],
            [60, 300],
          ],
        ]
      : [];
  it('is taken as it is, and the frames after it are followed from it', () => {
    const jump = (n: number): number[] => moved(PIN, n < 10 ? { x: n } : { x: 90 + n, y: 60 });
    const o = scene({ homography: jump });
    const hand = [{ frame: 10, corners: mapQuad(jump(10), PIN) }];
    const f = new Follower(setup({ hand }), 0, renderScene(o, 0));
    const results = Array.from({ length: 14 }, (_, i) => f.step(i + 1, renderScene(o, i + 1)));
    expect(results[9]!.evidence).toEqual({ hand: 1 });
    mapQuad(results[9]!.homography!, PIN).forEach((p, i) =>
      expect(distance(p, hand[0]!.corners[i]!)).toBeLessThan(1e-6),
    );
    for (const r of results.slice(10)) expect(worst(r, o)).toBeLessThan(0.2);
  });
  it('fills its place in results that never saw it, with the frames between left open', () => {
    const o = scene({ covers: cover });
    const f = new Follower(setup(), 0, renderScene(o, 0));
    const results = Array.from({ length: 5 }, (_, i) => f.step(i + 1, renderScene(o, i + 1)));
    const all = withHandKeys(results, PIN, [{ frame: 12, corners: mapQuad(o.homography(12), PIN) }], 0);
    expect(all.map((r) => r.frame)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
    expect(all[11]!.evidence).toEqual({ hand: 1 });
    expect(all.slice(5, 11).every((r) => r.homography === null)).toBe(true);
  });
});

describe('a pin placed by hand that differs from what was followed', () => {
  const o = scene();
  const off = (n: number, by: number): Quad =>
    mapQuad(o.homography(n), PIN.map(([x, y]): Point => [x + by, y]) as unknown as Quad);
  const offsets = (frames: readonly FrameResult[]): number[] =>
    frames.map((r) => mapPoint(r.homography!, PIN[0])[0] - mapPoint(o.homography(r.frame), PIN[0])[0]);
  const steps = (v: readonly number[]): number => Math.max(...v.slice(1).map((x, i) => Math.abs(x - v[i]!)));
  it('bends the frames up to it and is followed on from: no step is left, and the first frames keep their place', () => {
    const f = new Follower(setup({ hand: [{ frame: 8, corners: off(8, 4) }] }), 0, renderScene(o, 0));
    const results = [f.referenceResult(480)];
    for (let n = 1; n <= 14; n++) results.push(f.step(n, renderScene(o, n)));
    expect(results[8]!.own).toHaveLength(9);
    const all = refineJointly(withHandKeys(results, PIN, [{ frame: 8, corners: off(8, 4) }], 0), PIN, new Set([0, 8]));
    const by = offsets(all);
    expect(Math.abs(by[0]!)).toBeLessThan(1e-6);
    expect(by[8]).toBeGreaterThan(3.5);
    expect(Math.abs(by[4]! - by[8]! / 2)).toBeLessThan(0.3);
    expect(by[14]).toBeGreaterThan(3.2);
    expect(steps(by)).toBeLessThan(0.9);
  });
  it('carries what was followed beyond it before it was placed along with it, up to the next one', () => {
    const f = new Follower(setup(), 0, renderScene(o, 0));
    const results = [f.referenceResult(480)];
    for (let n = 1; n <= 14; n++) results.push(f.step(n, renderScene(o, n)));
    const one = offsets(withHandKeys(results, PIN, [{ frame: 6, corners: off(6, 3) }], 0));
    const two = offsets(
      withHandKeys(
        results,
        PIN,
        [
          { frame: 6, corners: off(6, 3) },
          { frame: 12, corners: off(12, 0) },
        ],
        0,
      ),
    );
    expect(one.slice(7).every((v) => Math.abs(v - one[6]!) < 0.25)).toBe(true);
    expect(two[9]).toBeCloseTo(one[6]! / 2, 0);
    expect(Math.abs(two[12]!)).toBeLessThan(0.1);
    expect(Math.abs(two[13]!)).toBeLessThan(0.2);
  });
});

describe('a run', () => {
  it('through frames without the screen tells no failure, and finds it after them', () => {
    const o = scene({
      covers: (n) =>
        n >= 5 && n < 9
          ? [
              [
                [0, 0],
                [480, 0],
                [480, 320],
                [0, 320],
              ],
            ]
          : [],
    });
    const f = new Follower(
      setup({
        presence: [
          { from: 0, to: 4 },
          { from: 9, to: 20 },
        ],
      }),
      0,
      renderScene(o, 0),
    );
    for (let n = 1; n < 14; n++) {
      const r = n >= 5 && n < 9 ? f.absent(n) : f.step(n, renderScene(o, n));
      if (n >= 5 && n < 9) expect(r).toMatchObject({ homography: null, reason: ABSENT });
      else expect(worst(r, o)).toBeLessThan(0.15);
    }
  });
  it('that begins in the middle, at solved frames, goes on as well as one from the reference', () => {
    const o = scene();
    const f = new Follower(setup(), 0, renderScene(o, 0));
    f.startFrom([8, 7, 6].map((frame) => ({ frame, corners: mapQuad(o.homography(frame), PIN) })));
    for (let n = 9; n < 14; n++) expect(worst(f.step(n, renderScene(o, n)), o)).toBeLessThan(0.12);
  });
  it('remembers the pictures that it was told to', () => {
    const o = scene();
    const f = new Follower(setup({ keyFrames: [3] }), 0, renderScene(o, 0));
    for (let n = 1; n < 6; n++) f.step(n, renderScene(o, n));
    expect(f.state.keys.map((k) => k.frame)).toEqual([0, 3]);
  });
  it('does not care which corner is called the first', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 3 }), (turn) => {
        const o = scene();
        const pin = [0, 1, 2, 3].map((i) => PIN[(i + turn) % 4]!) as unknown as Quad;
        const f = new Follower(setup({ pin, evidence: ['texture'] }), 0, renderScene(o, 0));
        const r = f.step(1, renderScene(o, 1));
        mapQuad(r.homography!, PIN).forEach((p, i) =>
          expect(distance(p, mapQuad(o.homography(1), PIN)[i]!)).toBeLessThan(0.1),
        );
      }),
      { numRuns: 4 },
    );
  });
});
