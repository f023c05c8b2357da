import { describe, expect, it } from 'vitest';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import type { FrameResult } from '../src/solve/frame-result';
import { Follower } from '../src/follow/follower';
import { refineJointly } from '../src/solve/joint-refinement';
import { extend, restrict, warpMatrix } from '../src/geometry/motion';
import { trustOf } from '../src/follow/evidence/trust';
import { inverse, multiply } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { openCv } from './builders/opencv';
import type { SceneOptions } from './builders/scene';
import { moved, random, renderScene, waves } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [320, 90],
  [320, 220],
  [120, 220],
];
type Move = Parameters<typeof moved>[1];

function scene(move: (n: number) => Move, more: Partial<SceneOptions> = {}): SceneOptions {
  return {
    width: 480,
    height: 320,
    pin: PIN,
    homography: (n) => moved(PIN, move(n)),
    texture: waves(5),
    background: waves(9),
    noise: 2,
    ...more,
  };
}
const setup = (more: Partial<FollowSetup> = {}): FollowSetup => ({
  pin: PIN,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
  ...more,
});

function meanError(r: FrameResult, o: SceneOptions): number {
  const truth = mapQuad(o.homography(r.frame), o.pin);
  const got = mapQuad(r.homography!, o.pin);
  return got.reduce((s, p, i) => s + Math.hypot(p[0] - truth[i]![0], p[1] - truth[i]![1]) / 4, 0);
}
function run(
  o: SceneOptions,
  frames: number,
  s = setup(),
): { results: FrameResult[]; errors: number[]; follower: Follower } {
  const follower = new Follower(s, 0, renderScene(o, 0));
  const results: FrameResult[] = [];
  for (let n = 1; n < frames; n++) results.push(follower.step(n, renderScene(o, n)));
  const errors = results
    .filter((r) => r.homography)
    .map((r) => meanError(r, o))
    .sort((a, b) => a - b);
  return { results, errors, follower };
}
const at = (sorted: number[], q: number): number => sorted[Math.floor(q * (sorted.length - 1))]!;

describe('following a textured screen', () => {
  it('holds a handheld move to a few hundredths of a pixel', () => {
    const { errors, results } = run(
      scene((n) => ({ x: 3 * n, y: 4 * Math.sin(n), scale: 1 + 0.004 * n, turn: 0.01 * n, tilt: 0.02 * n })),
      24,
    );
    expect(results.every((r) => r.homography)).toBe(true);
    expect(at(errors, 0.95)).toBeLessThan(0.05);
  });
  it('does not drift: the last frames are as good as the first', () => {
    const { results } = run(
      scene((n) => ({ x: 12 * Math.sin(n / 7), y: 8 * Math.cos(n / 5) - 8, turn: 0.05 * Math.sin(n / 9) })),
      90,
    );
    const o = scene((n) => ({ x: 12 * Math.sin(n / 7), y: 8 * Math.cos(n / 5) - 8, turn: 0.05 * Math.sin(n / 9) }));
    const mean = (list: FrameResult[]): number => list.reduce((s, r) => s + meanError(r, o), 0) / list.length;
    expect(mean(results.slice(-15))).toBeLessThan(mean(results.slice(0, 15)) + 0.02);
  });
  it('keeps to it through a turn of the picture by a full circle', () => {
    const { errors } = run(
      scene((n) => ({ turn: (2 * Math.PI * n) / 40 })),
      41,
    );
    expect(errors).toHaveLength(40);
    expect(at(errors, 0.95)).toBeLessThan(0.05);
  });
  it('remembers key pictures on the way through a zoom, and says less trust than at the reference', () => {
    const { errors, follower } = run(
      scene((n) => ({ scale: 1.05 ** n }), {
        width: 900,
        height: 700,
        pin: [
          [380, 300],
          [520, 300],
          [520, 400],
          [380, 400],
        ],
        homography: (n) =>
          moved(
            [
              [380, 300],
              [520, 300],
              [520, 400],
              [380, 400],
            ],
            { scale: 1.05 ** n },
          ),
      }),
      26,
      setup({
        pin: [
          [380, 300],
          [520, 300],
          [520, 400],
          [380, 400],
        ],
      }),
    );
    expect(follower.state.keys.length).toBeGreaterThan(0);
    expect(errors).toHaveLength(25);
    expect(at(errors, 0.95)).toBeLessThan(0.25);
  });
  it('does not mind an exposure ramp of a stop with flicker', () => {
    const { errors } = run(
      scene((n) => ({ x: 2 * n, turn: 0.01 * n }), { gain: (n) => 0.9 * 2 ** (-n / 20) * (1 + 0.2 * Math.sin(n)) }),
      20,
    );
    expect(errors).toHaveLength(19);
    expect(at(errors, 0.95)).toBeLessThan(0.08);
  });
  it('carries a pin that cannot be followed by itself on a patch elsewhere in its plane', () => {
    // The table lies in the plane of the dark screen, which shows nothing; the patch is on the table alone.
    const table: Quad = [
      [60, 60],
      [420, 60],
      [420, 260],
      [60, 260],
    ];
    const screen: Quad = [
      [80, 100],
      [200, 100],
      [200, 220],
      [80, 220],
    ];
    const patch: Point[] = [
      [220, 70],
      [410, 70],
      [410, 250],
      [220, 250],
    ];
    const o = scene((n) => ({ x: 2 * n, y: n, turn: 0.015 * n, tilt: 0.015 * n }), {
      pin: table,
      homography: (n) => moved(table, { x: 2 * n, y: n, turn: 0.015 * n, tilt: 0.015 * n }),
      covers: (n) => [mapQuad(moved(table, { x: 2 * n, y: n, turn: 0.015 * n, tilt: 0.015 * n }), screen)],
      background: () => 60,
    });
    const { results } = run(
      o,
      16,
      setup({ pin: screen, patches: [{ kind: 'follow', points: patch }], evidence: ['texture'] }),
    );
    const errors = results.map((r) => meanError(r, { ...o, pin: screen })).sort((x, y) => x - y);
    expect(results.every((r) => r.homography)).toBe(true);
    expect(at(errors, 0.95)).toBeLessThan(0.2);
  });
  it('is invariant to gain and offset of the whole picture', () => {
    const o = scene((n) => ({ x: 3.3 * n, y: 1.7 * n }));
    const plain = renderScene({ ...o, noise: 0 }, 3);
    const dim: RawLuma = { ...plain, data: Float32Array.from(plain.data, (v) => 0.6 * v + 20) };
    const follow = (l: RawLuma): FrameResult => new Follower(setup(), 0, renderScene({ ...o, noise: 0 }, 0)).step(3, l);
    const a = mapQuad(follow(plain).homography!, PIN);
    const b = mapQuad(follow(dim).homography!, PIN);
    a.forEach((p, i) => expect(Math.hypot(p[0] - b[i]![0], p[1] - b[i]![1])).toBeLessThan(0.02));
  });
  it('closes: forwards to a frame and backwards from it ends where it began', () => {
    const o = scene((n) => ({ x: 4 * n, y: -2 * n, tilt: 0.03 * n }));
    const there = new Follower(setup(), 0, renderScene(o, 0)).step(6, renderScene(o, 6));
    const pin = mapQuad(there.homography!, PIN);
    const back = new Follower(setup({ pin }), 6, renderScene(o, 6)).step(0, renderScene(o, 0));
    mapQuad(back.homography!, pin).forEach((p, i) =>
      expect(Math.hypot(p[0] - PIN[i]![0], p[1] - PIN[i]![1])).toBeLessThan(0.08),
    );
  });
});

describe('what passes in front', () => {
  const bar = (x: number, w: number): Point[][] => [
    [
      [x, 60],
      [x + w, 60],
      [x + w, 260],
      [x, 260],
    ],
  ];
  it('does not drag the corners along while it covers half of the screen', () => {
    const { errors, results } = run(
      scene((n) => ({ x: 2 * n }), { covers: (n) => bar(40 + 12 * n, 100) }),
      26,
    );
    expect(results.filter((r) => !r.homography).length).toBeLessThan(5);
    expect(at(errors, 0.95)).toBeLessThan(0.4);
  });
  it('covering all of it for ten frames loses the screen with a reason, and it is found again', () => {
    const o = scene((n) => ({ x: 2 * n }), { covers: (n) => (n >= 6 && n < 16 ? bar(20, 440) : []) });
    const { results } = run(o, 24);
    expect(results.slice(5, 15).every((r) => r.homography === null && r.reason && r.trust === 0)).toBe(true);
    const found = results.slice(16);
    expect(found.every((r) => r.homography && meanError(r, o) < 0.05)).toBe(true);
    const reference: FrameResult = {
      frame: 0,
      homography: moved(PIN, {}),
      sigma: [0.03, 0.03, 0.03, 0.03],
      information: [],
      blur: 0,
      trust: 1,
      evidence: { texture: 1 },
      reason: null,
    };
    const bridged = refineJointly([reference, ...results], PIN, new Set([0])).slice(6, 16);
    expect(bridged.every((r) => r.trust === 0 && Object.keys(r.evidence).length === 0 && meanError(r, o) < 0.5)).toBe(
      true,
    );
  });
  it('raises sigma and lowers trust', () => {
    const { results } = run(
      scene((n) => ({ x: 2 * n }), { covers: (n) => (n >= 8 ? bar(40, 200) : []) }),
      11,
    );
    expect(results[8]!.trust).toBeLessThan(results[3]!.trust);
    expect(Math.max(...results[8]!.sigma)).toBeGreaterThan(Math.max(...results[3]!.sigma));
  });
});

describe('sigma', () => {
  it('is honest: most errors lie within two of it, on noisy frames', () => {
    const o = scene((n) => ({ x: 2 * n, turn: 0.02 * n }), {
      noise: 14,
      covers: (n) =>
        [
          [
            [120 + 2 * n, 60],
            [230 + 2 * n, 60],
            [230 + 2 * n, 260],
            [120 + 2 * n, 260],
          ],
        ] as Point[][],
    });
    const { results } = run({ ...o, covers: (n) => (n === 0 ? [] : o.covers!(n)) }, 20);
    const ratio = results
      .filter((r) => r.homography)
      .flatMap((r) => {
        const truth = mapQuad(o.homography(r.frame), PIN);
        const got = mapQuad(r.homography!, PIN);
        return got.flatMap((p, i) => [0, 1].map((k) => Math.abs(p[k]! - truth[i]![k]!) / r.sigma[i]!));
      });
    expect(ratio.filter((v) => v < 2).length / ratio.length).toBeGreaterThan(0.7);
  });
  it('turns into trust as the probability of a pixel at 1920 wide', () => {
    expect(trustOf([0.05, 0.05, 0.05, 0.05], 1, 1920)).toBeGreaterThan(0.999);
    expect(trustOf([3, 3, 3, 3], 1, 1920)).toBeLessThan(0.1);
    expect(trustOf([0.3, 0.3, 0.3, 0.3], 1, 640)).toBeLessThan(trustOf([0.3, 0.3, 0.3, 0.3], 1, 1920));
  });
});

describe('motion models', () => {
  it.each(['translation', 'similarity', 'affine'] as const)(
    '%s keeps to its own freedoms over many frames',
    (motion) => {
      const { results } = run(
        scene((n) => ({ x: 2 * n, turn: motion === 'translation' ? 0 : 0.01 * n })),
        10,
        setup({ motion }),
      );
      const h = results.at(-1)!.homography!.map((v) => v / results.at(-1)!.homography![8]!);
      expect(Math.abs(h[6]!) + Math.abs(h[7]!)).toBeLessThan(1e-9);
      if (motion === 'similarity')
        expect([h[0]! - h[4]!, h[1]! + h[3]!].map(Math.abs).every((v) => v < 1e-9)).toBe(true);
      if (motion === 'translation')
        expect([h[0]! - 1, h[4]! - 1, h[1]!, h[3]!].map(Math.abs).every((v) => v < 1e-9)).toBe(true);
    },
  );
  it('still does not move at all', () => {
    const { results } = run(
      scene(() => ({})),
      6,
      setup({ motion: 'still' }),
    );
    for (const r of results)
      mapQuad(r.homography!, PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - PIN[i]![0], p[1] - PIN[i]![1])).toBeLessThan(1e-9),
      );
  });
  it('are groups: composing two updates of a model stays inside it', () => {
    const r = random(3);
    const p = (): Float64Array =>
      extend(
        'similarity',
        Float64Array.from({ length: 4 }, () => 0.2 * (r() - 0.5)),
      );
    const m = multiply(warpMatrix(p()), inverse(warpMatrix(p())));
    expect(m[0]! / m[8]!).toBeCloseTo(m[4]! / m[8]!, 12);
    expect(restrict('affine', new Float64Array(64), new Float64Array(8)).b).toHaveLength(6);
  });
});

describe('a run taken up again', () => {
  it('from its stored state gives exactly what an uninterrupted one gives', async () => {
    const o = scene((n) => ({ x: 3 * n, scale: 1.045 ** n }), { width: 640, height: 400 });
    const frame = (n: number): RawLuma => renderScene(o, n);
    const whole = new Follower(setup(), 0, frame(0));
    const first = new Follower(setup(), 0, frame(0));
    for (let n = 1; n <= 14; n++) {
      whole.step(n, frame(n));
      first.step(n, frame(n));
    }
    const stored = JSON.parse(JSON.stringify(first.state)) as typeof first.state;
    const second = new Follower(setup(), 0, frame(0));
    expect(stored.keys.length).toBeGreaterThan(0);
    await second.resume(stored, async (n) => frame(n));
    for (let n = 15; n < 20; n++) expect(second.step(n, frame(n))).toEqual(whole.step(n, frame(n)));
  });
});

describe('against a general-purpose reference', () => {
  it('stays below sparse flow of the OpenCV build on the same frame', async () => {
    const cv = await openCv();
    const o = scene((n) => ({ x: 3 * n, y: 2 * n, turn: 0.01 * n, tilt: 0.03 * n }), { noise: 4 });
    const a = renderScene(o, 0);
    const b = renderScene(o, 3);
    const from: number[] = [];
    for (let y = 100; y < 215; y += 8) for (let x = 130; x < 315; x += 8) from.push(x, y);
    const mat = (l: RawLuma) => cv.matFromArray(l.height, l.width, cv.CV_8UC1, l.data as Uint8Array);
    const p = cv.matFromArray(from.length / 2, 1, cv.CV_32FC2, from);
    const q = new cv.Mat();
    const status = new cv.Mat();
    const err = new cv.Mat();
    cv.calcOpticalFlowPyrLK(mat(a), mat(b), p, q, status, err);
    const kept = [...Array(from.length / 2).keys()].filter((i) => status.data[i] === 1).flatMap((i) => [i]);
    const h = cv.findHomography(
      cv.matFromArray(
        kept.length,
        1,
        cv.CV_32FC2,
        kept.flatMap((i) => [from[2 * i]!, from[2 * i + 1]!]),
      ),
      cv.matFromArray(
        kept.length,
        1,
        cv.CV_32FC2,
        kept.flatMap((i) => [q.data32F[2 * i]!, q.data32F[2 * i + 1]!]),
      ),
    );
    // OpenCV counts from pixel centres: half a pixel less on both sides.
    const half = [1, 0, -0.5, 0, 1, -0.5, 0, 0, 1];
    const theirs: FrameResult = {
      frame: 3,
      homography: multiply(inverse(half), multiply([...h.data64F], half)),
      sigma: [],
      information: [],
      blur: 0,
      trust: 1,
      evidence: {},
      reason: null,
    };
    const ours = new Follower(setup(), 0, a).step(3, b);
    expect(meanError(ours, o)).toBeLessThan(0.05);
    expect(meanError(ours, o)).toBeLessThan(meanError(theirs, o));
  });
  it('using all cells is hardly better than using the usual number (common practice, no source)', () => {
    const o = scene((n) => ({ x: 3 * n, tilt: 0.02 * n }), { noise: 3 });
    expect(at(run(o, 12).errors, 0.5)).toBeLessThan(at(run(o, 12, setup({ density: 'many' })).errors, 0.5) + 0.02);
  });
});

describe('what cannot be followed', () => {
  const flat = (v: number): RawLuma => ({ width: 480, height: 320, data: new Uint8Array(480 * 320).fill(v) });
  it.each([
    ['black', 0],
    ['white', 255],
    ['grey', 128],
  ])('an all-%s picture is refused with the mend', (_, v) => {
    expect(() => new Follower(setup(), 0, flat(v))).toThrow(/draw a follow patch/);
  });
  it('all-noise frames are lost, never NaN', () => {
    const r = random(5);
    const noise = (): RawLuma => ({
      width: 480,
      height: 320,
      data: Uint8Array.from({ length: 480 * 320 }, () => 255 * r()),
    });
    const f = new Follower(setup(), 0, noise());
    for (let n = 1; n < 4; n++) {
      const result = f.step(n, noise());
      expect(result.homography).toBeNull();
      expect(result.sigma.every(Number.isFinite)).toBe(true);
    }
  });
  it.each([
    [
      'two points',
      [
        {
          kind: 'follow',
          points: [
            [1, 1],
            [50, 50],
          ],
        },
      ],
      /at least three/,
    ],
    [
      '4x4 px',
      [
        {
          kind: 'follow',
          points: [
            [10, 10],
            [14, 10],
            [14, 14],
            [10, 14],
          ],
        },
      ],
      /smaller than 8x8/,
    ],
    [
      'a place outside the picture',
      [
        {
          kind: 'follow',
          points: [
            [900, 900],
            [990, 900],
            [990, 990],
          ],
        },
      ],
      /outside the picture/,
    ],
  ] as const)('a patch of %s is refused', (_, patches, message) => {
    expect(
      () =>
        new Follower(
          setup({ patches: patches as never }),
          0,
          renderScene(
            scene(() => ({})),
            0,
          ),
        ),
    ).toThrow(message);
  });
  it('a cut to another picture is lost, not followed', () => {
    const o = scene(() => ({}));
    const f = new Follower(setup(), 0, renderScene(o, 0));
    expect(f.step(1, renderScene({ ...o, texture: waves(77), background: waves(78) }, 1)).reason).toMatch(
      /covered or changed|matches|known only/,
    );
  });
});
