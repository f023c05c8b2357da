/** What is laid over a path that was followed, and what is kept of a Screen's views: claims about the maths alone. */
import { describe, expect, it } from 'vitest';
import { everywhere } from '../src/geometry/corner-information';
import { normaliseHomography, quadToQuad } from '../src/geometry/homography';
import { triangle } from '../src/geometry/linear-algebra';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad, perspectiveCentre } from '../src/geometry/quad';
import { behindLens } from '../src/solve/behind-lens';
import type { FrameResult } from '../src/solve/frame-result';
import { ABSENT, HAND_SIGMA, notFound, shares } from '../src/solve/frame-result';
import { isCorrection, withHandKeys } from '../src/solve/hand-bend';
import { Stiffness } from '../src/solve/stiffness';
import type { TouchUp } from '../src/solve/touch-up';
import { NO_OFFSETS, corrected, correctedPin, correctionAt, offsetsFor, shareAt, spanTo } from '../src/solve/touch-up';

const PIN: Quad = [
  [100, 80],
  [300, 80],
  [300, 200],
  [100, 200],
];
const shifted = (x: number, y = 0, from: Quad = PIN): Quad => from.map(([u, v]): Point => [u + x, v + y]) as never;

function at(frame: number, corners: Quad, own?: Quad): FrameResult {
  const map = (q: Quad): readonly number[] => normaliseHomography(quadToQuad(PIN, q), perspectiveCentre(PIN));
  return {
    frame,
    homography: map(corners),
    sigma: [0.2, 0.2, 0.2, 0.2],
    information: triangle(everywhere(0.2)),
    blur: frame,
    trust: 1,
    evidence: { edges: 1 },
    reason: null,
    ...(own ? { own: map(own) } : {}),
  };
}
const placed = (r: FrameResult | undefined): Quad => mapQuad(r!.homography!, PIN);

describe('a pin placed by hand', () => {
  /** Followed where it stood, from frame 0 to 12; the reference is 4. */
  const still = Array.from({ length: 13 }, (_, n) => at(n, PIN));

  it('leaves a path without keys as it is', () => {
    expect(withHandKeys(still, PIN, [], 4)).toEqual(still);
  });
  it('bends what lies before it, more the nearer, and carries on beyond it', () => {
    const out = withHandKeys(still, PIN, [{ frame: 8, corners: shifted(4, 2) }], 4);
    const off = out.map((r) => placed(r)[0][0] - PIN[0][0]);
    expect(off.slice(0, 5).every((x) => Math.abs(x) < 1e-6)).toBe(true);
    for (const [n, x] of [
      [5, 1],
      [6, 2],
      [7, 3],
      [8, 4],
      [9, 4],
      [12, 4],
    ] as const)
      expect(off[n]).toBeCloseTo(x, 5);
    expect(placed(out[6])[2][1] - PIN[2][1]).toBeCloseTo(1, 5);
  });
  it('bends the other side of the reference by itself', () => {
    const out = withHandKeys(still, PIN, [{ frame: 2, corners: shifted(-3) }], 4);
    const off = out.map((r) => placed(r)[0][0] - PIN[0][0]);
    expect(off[0]).toBeCloseTo(-3, 5);
    expect(off[3]).toBeCloseTo(-1.5, 5);
    expect(off.slice(4).every((x) => Math.abs(x) < 1e-6)).toBe(true);
  });
  it('is told as it is: exact by hand, with the blur of its frame', () => {
    const key = withHandKeys(still, PIN, [{ frame: 8, corners: shifted(4) }], 4)[8]!;
    expect(key).toMatchObject({ trust: 1, evidence: { hand: 1 }, blur: 8, reason: null });
    expect(key.sigma).toEqual([HAND_SIGMA, HAND_SIGMA, HAND_SIGMA, HAND_SIGMA]);
  });
  it('far from what was followed begins anew: what lies beyond it stays as it was followed from there', () => {
    const there = shifted(60);
    const beyond = still.map((r) => (r.frame > 8 ? at(r.frame, there) : r));
    const followed = beyond.map((r) => (r.frame === 8 ? at(8, there, PIN) : r));
    const out = withHandKeys(followed, PIN, [{ frame: 8, corners: there }], 4);
    expect(farthest(placed(out[10]), there)).toBeLessThan(1e-6);
  });
  it('makes a path of its own where nothing was followed, with what lies between left open', () => {
    const out = withHandKeys([], PIN, [{ frame: 7, corners: shifted(9) }], 4);
    expect(out.map((r) => r.frame)).toEqual([4, 5, 6, 7]);
    expect(farthest(placed(out[0]), PIN)).toBeLessThan(1e-6);
    expect(out[5 - 4]).toMatchObject({ homography: null, trust: 0, evidence: {}, blur: 0 });
    expect(farthest(placed(out[3]), shifted(9))).toBeLessThan(1e-6);
  });
  it('counts as a correction up to a share of the diagonal', () => {
    const diagonal = Math.hypot(200, 120);
    expect(isCorrection(PIN, shifted(0.039 * diagonal))).toBe(true);
    expect(isCorrection(PIN, shifted(0.041 * diagonal))).toBe(false);
    const oneOff = PIN.map((p, i): Point => (i === 2 ? [p[0] + 30, p[1]] : p)) as never;
    expect(isCorrection(PIN, oneOff)).toBe(false);
  });
});

describe('a touch-up', () => {
  const touch: TouchUp = {
    frame: 10,
    offsets: [
      [2, 0],
      [0, 0],
      [0, -3],
      [0, 0],
    ],
    before: { frames: 4, shape: 'linear' },
    after: { frames: 4, shape: 'eased' },
  };
  it('fades evenly, eased, or holds and ends at once', () => {
    expect([6, 7, 8, 10].map((n) => shareAt(touch, n))).toEqual([0, 0.25, 0.5, 1]);
    expect([11, 12, 13, 14].map((n) => shareAt(touch, n))).toEqual([0.84375, 0.5, 0.15625, 0]);
    const held: TouchUp = { ...touch, after: { frames: 3, shape: 'hold' } };
    expect([13, 14].map((n) => shareAt(held, n))).toEqual([1, 0]);
  });
  it('adds up with others and with a settle, muted ones aside; nothing is null', () => {
    expect(correctionAt({ touchUps: [touch] }, 20)).toBeNull();
    expect(correctionAt({ touchUps: [{ ...touch, muted: true }] }, 10)).toBeNull();
    const settle = { from: 9, offsets: [[], [1, 1, 0, 0, 0, 0, 0, 0.5]] };
    expect(correctionAt({ touchUps: [touch, touch], settles: [settle] }, 10)).toEqual([
      [5, 1],
      [0, 0],
      [0, -6],
      [0, 0.5],
    ]);
    expect(correctionAt({ settles: [{ ...settle, muted: true }] }, 10)).toBeNull();
    expect(correctionAt({ settles: [settle] }, 11)).toBeNull();
  });
  it('moves the pin in its plane, and never folds it', () => {
    expect(correctedPin(PIN, { touchUps: [touch] }, 10)[0]).toEqual([102, 80]);
    const folding: TouchUp = { ...touch, offsets: [[400, 0], ...NO_OFFSETS.slice(1)] as never };
    expect(correctedPin(PIN, { touchUps: [folding] }, 10)).toBe(PIN);
  });
  it('carries the pin onto its corrected corners; a frame without one is the same object', () => {
    const f = { frame: 10, homography: quadToQuad(PIN, shifted(20)), corners: shifted(20) };
    expect(corrected({ ...f, frame: 30 }, PIN, { touchUps: [touch] }).corners).toBe(f.corners);
    const own = corrected(f, PIN, { touchUps: [touch] });
    expect(own.corners[0][0]).toBeCloseTo(122, 9);
    expect(own.corners[2][1]).toBeCloseTo(197, 9);
    expect(farthest(mapQuad(own.homography, PIN), own.corners)).toBeLessThan(1e-9);
  });
  it('is found from where corners are wanted, beyond what is there already', () => {
    const h = quadToQuad(PIN, shifted(20));
    const wanted = [[125, 80], null, null, null] as const;
    const by = offsetsFor(h, PIN, { touchUps: [touch] }, 10, wanted);
    expect(by[0][0]).toBeCloseTo(3, 9);
    expect(by[0][1]).toBeCloseTo(0, 9);
    expect(by.slice(1)).toEqual([
      [0, 0],
      [0, 0],
      [0, 0],
    ]);
  });
  it('reaches to the nearest anchor on its side', () => {
    expect(spanTo([2, 6, 15, 30], 10, -1, 99)).toBe(4);
    expect(spanTo([2, 6, 15, 30], 10, 1, 99)).toBe(5);
    expect(spanTo([10], 10, 1, 99)).toBe(99);
  });
});

describe('a frame behind another lens', () => {
  const h = quadToQuad(PIN, shifted(10));
  const bow = [10, 0, 0, 20, -10, 0, 0, -20];
  it('moves by what it told, in proportion to the change', () => {
    const moved = mapQuad(behindLens(h, { lens: 0, bow }, PIN, 0.1)!, PIN);
    expect(moved[0][0]).toBeCloseTo(111, 9);
    expect(moved[1][1]).toBeCloseTo(82, 9);
    const back = mapQuad(behindLens(h, { lens: 0.1, bow }, PIN, 0)!, PIN);
    expect(back[0][0]).toBeCloseTo(109, 9);
  });
  it('stays where the lens is the same, and tells nothing that was not kept', () => {
    expect(behindLens(h, { lens: 0.1, bow: null }, PIN, 0.1)).toBe(h);
    expect(behindLens(h, { lens: 0.1, bow: null }, PIN, 0.2)).toBeNull();
    expect(behindLens(h, { lens: 0.1, bow: [1, 2] }, PIN, 0.2)).toBeNull();
    expect(behindLens(h, { lens: null, bow }, PIN, 0.2)).toBeNull();
    expect(behindLens(h, { bow }, PIN, 0.2)).toBeNull();
  });
});

describe('the views of a Screen that are kept', () => {
  const sharp = everywhere(0.2);
  it('are those that are known well and lie apart', () => {
    const s = new Stiffness(960, 540);
    s.add(PIN, sharp);
    s.add(shifted(5), sharp);
    s.add(shifted(40), everywhere(5));
    expect(s.views).toHaveLength(1);
    s.add(shifted(20), sharp);
    expect(s.views.map((v) => v.corners)).toEqual([PIN, shifted(20)]);
    expect(s.views[0]!.information).toEqual(triangle(sharp));
  });
  it('are at most 48', () => {
    const s = new Stiffness(960, 540);
    for (let i = 0; i < 60; i++) s.add(shifted(14 * i), sharp);
    expect(s.views).toHaveLength(48);
  });
  it('tell of the lens once they are asked, and anew after a change', () => {
    const s = new Stiffness(960, 540);
    expect(s.rigid).toBeNull();
    s.add(PIN, sharp);
    const { rigid } = s;
    expect(rigid).not.toBeNull();
    expect(s.rigid).toBe(rigid);
    s.views = [];
    expect(s.rigid).toBeNull();
  });
});

describe('what is told of a frame', () => {
  it('rests on kinds of evidence whose shares add up to the whole', () => {
    expect(shares({ texture: 3, edges: 1, spots: 0 })).toEqual({ texture: 0.75, edges: 0.25 });
    expect(shares({})).toEqual({});
  });
  it('is nothing but the reason where the Screen was not found', () => {
    expect(notFound(7, 0.1, 12, ABSENT, 3)).toEqual({
      frame: 7,
      homography: null,
      lens: 0.1,
      sigma: [12, 12, 12, 12],
      information: [],
      blur: 3,
      trust: 0,
      evidence: {},
      reason: ABSENT,
    });
    expect(notFound(7, 0, 1, 'Lost.').blur).toBe(0);
  });
});
