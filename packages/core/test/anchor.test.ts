/** Following from another frame than the reference: claims about the maths on tiny built tracks. */
import { describe, expect, it } from 'vitest';
import type { Followed } from '../src/follow/anchor/anchor';
import { anchorFor, anchoredSetup, mayBeAnchored } from '../src/follow/anchor/anchor';
import { betterOf, isKnownBetter } from '../src/follow/anchor/better-of';
import { byReference, corrected } from '../src/follow/anchor/from-reference';
import type { FollowSetup } from '../src/follow/memory/follower-state';
import { everywhere } from '../src/geometry/corner-information';
import { quadToQuad } from '../src/geometry/homography';
import { distort, undistort } from '../src/geometry/lens';
import { triangle } from '../src/geometry/linear-algebra';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import type { FrameResult } from '../src/solve/frame-result';
import { moved } from './builders/scene';

const WIDTH = 1920;
const HEIGHT = 1080;
const PIN: Quad = [
  [700, 300],
  [1200, 330],
  [1180, 700],
  [690, 660],
];
const each = (q: Quad, map: (p: Point) => Point): Quad => q.map(map) as unknown as Quad;

function result(frame: number, homography: readonly number[], o: Partial<FrameResult> & { known?: number } = {}) {
  const { known = 0.2, ...rest } = o;
  return {
    ...{ frame, homography, sigma: [known, known, known, known], information: triangle(everywhere(known)) },
    ...{ blur: 0, trust: 0.9, evidence: { edges: 1 }, reason: null, lens: 0 },
    ...rest,
  } satisfies FrameResult;
}

describe('the frame to follow from', () => {
  const still = (frame: number, o: Parameters<typeof result>[2] = {}) => result(frame, moved(PIN, {}), o);
  const shot = (frames: readonly FrameResult[]): Followed => ({
    ...{ results: new Map(frames.map((f) => [f.frame, f])), pin: PIN, referenceFrame: 5 },
    ...{ width: WIDTH, height: HEIGHT },
  });
  const smeared = [still(4, { blur: 9 }), still(5), still(6, { blur: 8 })];
  it('is the reference where that is not smeared', () => {
    expect(anchorFor(shot([still(4, { blur: 1 }), still(5), still(6, { blur: 1.5 }), still(9)]))).toBeNull();
    expect(anchorFor(shot([still(5), still(9)]))).toBeNull();
  });
  it('is a sharp one else, the nearer of two that are as sharp, with the pin as it lies there', () => {
    const away = result(12, moved(PIN, { x: 40 }), { blur: 0.5 });
    const found = anchorFor(shot([...smeared, away, still(40, { blur: 0.5 })]));
    expect(found?.frame).toBe(12);
    expect(
      farthest(
        found!.pin,
        each(PIN, ([x, y]) => [x + 40, y]),
      ),
    ).toBeLessThan(1e-9);
  });
  it('is none that was lost, is smeared, known badly, seen small or half outside the picture', () => {
    const unfit = [
      result(10, moved(PIN, {}), { reason: 'Covered.' }),
      still(11, { blur: 4 }),
      still(12, { known: 2 }),
      result(13, moved(PIN, { scale: 0.5 })),
      result(14, moved(PIN, { x: 900 })),
      { ...still(15), homography: null },
      still(16, { information: [] }),
    ];
    for (const one of unfit) expect(anchorFor(shot([...smeared, one]))).toBeNull();
    expect(anchorFor(shot([...smeared, still(17)]))?.frame).toBe(17);
  });
  it('counts px of a picture 1920 wide', () => {
    const small = { ...shot([still(4, { blur: 4 }), still(5), still(9)]), width: WIDTH / 2, height: HEIGHT / 2 };
    expect(anchorFor({ ...small, pin: each(PIN, ([x, y]) => [x / 2, y / 2]) })?.frame).toBe(9);
    expect(anchorFor({ ...small, width: WIDTH, height: HEIGHT })).toBeNull();
    // Of a tiny picture a px is no smear.
    const tiny = { ...shot([still(4, { blur: 2 }), still(5), still(9)]), width: WIDTH / 6, height: HEIGHT / 6 };
    expect(anchorFor({ ...tiny, pin: each(PIN, ([x, y]) => [x / 6, y / 6]) })).toBeNull();
  });
  it('takes outlines along, and is not asked for where something is bound to the reference', () => {
    const patch = { kind: 'ignore' as const, points: PIN };
    const setup: FollowSetup = {
      ...{ pin: PIN, patches: [patch], motion: 'perspective', density: 'usual', evidence: ['edges'] },
    };
    const h = moved(PIN, { x: 30, y: 4 });
    const own = anchoredSetup(setup, { frame: 9, pin: mapQuad(h, PIN) }, h, [result(7, h)]);
    expect(farthest(own.patches[0]!.points as unknown as Quad, own.pin)).toBeLessThan(1e-9);
    expect(own.way).toEqual([{ frame: 7, corners: mapQuad(h, PIN), trust: 0.9 }]);
    expect(mayBeAnchored(setup)).toBe(true);
    expect(mayBeAnchored({ ...setup, motion: 'affine' })).toBe(false);
    expect(mayBeAnchored({ ...setup, hand: [{ frame: 2, corners: PIN }] })).toBe(false);
    expect(mayBeAnchored({ ...setup, keyFrames: [4] })).toBe(false);
    expect(mayBeAnchored({ ...setup, patches: [{ ...patch, keys: [{ frame: 3, points: PIN }] }] })).toBe(false);
  });
});

describe('what is found from another frame, told by the reference', () => {
  /** Reference to frame, in the ideal picture. */
  const truth = (n: number) => moved(PIN, { x: 14 * n, y: 5 * n, turn: 0.03 * n, tilt: 0.08 * n, scale: 1 + 0.04 * n });
  const lens = { radial: -0.12, width: WIDTH, height: HEIGHT };
  const straight = (q: Quad): Quad => each(q, (p) => undistort(lens, p));
  const cornersOn = (n: number): Quad => each(mapQuad(truth(n), straight(PIN)), (p) => distort(lens, p));
  /** The anchor is frame 4; its pin was set 6 px beside the true one. */
  const from = each(cornersOn(4), ([x, y]) => [x + 6, y - 3]);
  const seenFrom = (n: number, o: Parameters<typeof result>[2] = {}): FrameResult => {
    const ideal = quadToQuad(straight(cornersOn(4)), straight(cornersOn(n)));
    const corners = each(mapQuad(ideal, straight(from)), (p) => distort(lens, p));
    return result(n, quadToQuad(from, corners), { lens: lens.radial, ...o });
  };
  const ends = { from, pin: PIN, reference: seenFrom(0), width: WIDTH, height: HEIGHT };
  it('lies where it is, however the other frame was set, behind a lens as well', () => {
    for (const n of [1, 4, 7]) {
      const told = byReference(seenFrom(n), ends);
      expect(farthest(mapQuad(told.homography!, PIN), cornersOn(n))).toBeLessThan(1e-6);
    }
  });
  it('tells by how much the other frame was set wrong', () => {
    const { pin, off } = corrected(ends);
    expect(farthest(pin, cornersOn(4))).toBeLessThan(1e-6);
    expect(off).toBeGreaterThan(4);
    expect(off).toBeLessThan(9);
  });
  it('is known as badly as both together: an error of the reference moves it as its covariance says', () => {
    const known = 0.3;
    const told = byReference(seenFrom(7), { ...ends, reference: seenFrom(0, { known }) });
    const at = mapQuad(told.homography!, PIN);
    const variance = [0, 1, 2, 3].map((corner) => {
      const off = (
        [
          [known, 0],
          [0, known],
        ] as const
      ).map(([dx, dy]) => {
        const wrong = mapQuad(ends.reference.homography!, from).map((p, i): Point =>
          i === corner ? [p[0] - dx, p[1] - dy] : p,
        );
        const reference = { ...ends.reference, homography: quadToQuad(from, wrong) };
        const q = mapQuad(byReference(seenFrom(7), { ...ends, reference }).homography!, PIN)[corner]!;
        return (q[0] - at[corner]![0]) ** 2 + (q[1] - at[corner]![1]) ** 2;
      });
      return (off[0]! + off[1]!) / 2;
    });
    for (const [i, v] of variance.entries()) {
      const both = Math.hypot(Math.sqrt(v), 0.2);
      expect(Math.abs(told.sigma[i]! / both - 1)).toBeLessThan(0.05);
    }
    expect(told.trust).toBeLessThan(0.9);
  });
  it('keeps the reference in its place behind any lens, and brings the trust map there', () => {
    const bow = [3, 1, 4, 1, 5, 9, 2, 6];
    const reference = seenFrom(0, { bow });
    const there = byReference({ ...reference, cells: [...undistort(lens, from[0]), 20, 80] }, { ...ends, reference });
    expect(Math.max(...there.bow!.map(Math.abs))).toBeLessThan(1e-6);
    const [x, y] = undistort(lens, mapQuad(reference.homography!, from)[0]);
    expect(there.cells![0]).toBeCloseTo(x, 0);
    expect(there.cells![1]).toBeCloseTo(y, 0);
    expect(there.cells![3]).toBe(80);
    expect(byReference(seenFrom(3), { ...ends, reference }).bow).toBeNull();
  });
});

describe('the better of two runs', () => {
  const at = (frame: number, x: number): FrameResult => result(frame, moved(PIN, { x }));
  const run = (second: (n: number) => number, trust: number, first: (n: number) => number = (n) => 5 * n) =>
    Array.from({ length: 12 }, (_, n) => ({ first: at(n, first(n)), second: at(n, second(n)), trust }));
  const chosen = (both: ReturnType<typeof run>): string =>
    betterOf(both, PIN, WIDTH)
      .map((r, i) => (r === both[i]!.second ? '2' : '1'))
      .join('');
  it('is the second where they are near each other, however rough', () => {
    expect(chosen(run((n) => 5 * n + (n % 2), 0))).toBe('222222222222');
  });
  it('is the smoother one where they are apart and the second has nothing to trust', () => {
    const leaps = (n: number): number => 5 * n + (n > 3 && n < 8 ? 60 * (n - 3) : 0);
    expect(chosen(run(leaps, 0.1))).toBe('222211112222');
    expect(chosen(run((n) => 5 * n, 0.1, leaps))).toBe('222222222222');
    expect(chosen(run(leaps, 0.8))).toBe('222222222222');
  });
  it('is the first altogether where the second knows most frames no better', () => {
    const known = (a: number, b: number) =>
      [0, 1, 2].map((n) => ({
        first: result(n, moved(PIN, {}), { known: a }),
        second: result(n, moved(PIN, {}), { known: n === 1 ? 9 : b }),
      }));
    expect(isKnownBetter(known(0.5, 0.3))).toBe(true);
    expect(isKnownBetter(known(0.3, 0.5))).toBe(false);
    expect(isKnownBetter([])).toBe(false);
  });
  it('is the one that found the Screen', () => {
    const both = run((n) => 5 * n, 0.9).map((b) =>
      b.first.frame === 3 ? { ...b, second: { ...b.second, homography: null } } : b,
    );
    expect(chosen(both)).toBe('222122222222');
  });
});
