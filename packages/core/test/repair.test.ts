import { describe, expect, it } from 'vitest';
import { mapPoint, quadToQuad } from '../src/geometry/homography';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { believedSlip } from '../src/proof/believed-slip';
import { FRAMES_A_REPAIR, planRepairs } from '../src/proof/repair-plan';
import type { MeasuredFrame } from '../src/proof/residual-slip';
import { residualSlip } from '../src/proof/residual-slip';
import { settle } from '../src/proof/settle';
import { judge } from '../src/proof/verdict';
import { rankSlips } from '../src/proof/ranking';
import type { Corrections, TouchUp } from '../src/solve/touch-up';
import { corrected, correctionAt, offsetsFor, shareAt } from '../src/solve/touch-up';
import { moved, random } from './builders/scene';

const PIN: Quad = [
  [400, 300],
  [1000, 310],
  [990, 720],
  [390, 700],
];
const FRAMES = 120;
const ALL = Array.from({ length: FRAMES }, (_, n) => n);
const plane = (n: number): number[] =>
  moved(PIN, { x: 4 * n, y: 30 * Math.sin(n / 15), turn: 0.004 * n, tilt: 0.004 * n, scale: 1 + 0.003 * n });
const moveBy = (q: Quad, by: readonly Point[]): Quad =>
  q.map((p, i): Point => [p[0] + by[i]![0], p[1] + by[i]![1]]) as unknown as Quad;
/** A path that lies off by so much, px of the frame, and slips that say so. */
const spoilt = (by: (n: number) => Quad, told: (n: number, c: number) => boolean = () => true): MeasuredFrame[] =>
  ALL.map((frame) => {
    const off = by(frame);
    const homography = quadToQuad(PIN, moveBy(mapQuad(plane(frame), PIN), off));
    return { frame, homography, by: off.map((d, c): Point | null => (told(frame, c) ? [-d[0], -d[1]] : null)) };
  });
const still: Quad = [
  [0, 0],
  [0, 0],
  [0, 0],
  [0, 0],
];
const all = (d: Point): Quad => [d, d, d, d];
const errors = (frames: readonly MeasuredFrame[], c: Corrections): number[] =>
  frames.map((f) => {
    const corners = corrected({ ...f, corners: mapQuad(f.homography, PIN) }, PIN, c).corners;
    const truth = mapQuad(plane(f.frame), PIN);
    return Math.max(...corners.map((p, i) => Math.hypot(p[0] - truth[i]![0], p[1] - truth[i]![1])));
  });
const touch = (more: Partial<TouchUp> = {}): TouchUp => ({
  frame: 40,
  offsets: all([2, -1]),
  before: { frames: 10, shape: 'linear' },
  after: { frames: 20, shape: 'eased' },
  ...more,
});

describe('a touch-up', () => {
  it('is whole on its frame and gone where its fades end, evenly, eased, or all at once', () => {
    expect([29, 30, 35, 40, 50, 60].map((n) => shareAt(touch(), n))).toEqual([0, 0, 0.5, 1, 0.5, 0]);
    const held = touch({ after: { frames: 3, shape: 'hold' } });
    expect([43, 44].map((n) => shareAt(held, n))).toEqual([1, 0]);
    expect(shareAt(touch({ before: { frames: 0, shape: 'linear' } }), 39)).toBe(0);
  });
  it('joins its neighbour into one path through both, in any shape of fade', () => {
    for (const shape of ['linear', 'eased'] as const) {
      const fade = { frames: 20, shape };
      const pair: Corrections = { touchUps: [touch({ after: fade }), touch({ frame: 60, before: fade })] };
      for (let n = 40; n <= 60; n++) expect(correctionAt(pair, n)![0]![0]).toBeCloseTo(2, 9);
    }
  });
  it('keeps perspective: what is corrected is a place of the plane, wherever it is seen', () => {
    const c: Corrections = {
      touchUps: [touch({ before: { frames: 90, shape: 'hold' }, after: { frames: 90, shape: 'hold' } })],
    };
    for (const n of [0, 40, 100]) {
      const homography = plane(n);
      const f = corrected({ frame: n, homography, corners: mapQuad(homography, PIN) }, PIN, c);
      expect(f.corners[1]![0]).toBeCloseTo(mapPoint(homography, [PIN[1][0] + 2, PIN[1][1] - 1])[0], 6);
      const again = mapQuad(f.homography, PIN);
      for (const i of [0, 1, 2, 3])
        expect(Math.hypot(again[i]![0] - f.corners[i]![0], again[i]![1] - f.corners[i]![1])).toBeLessThan(1e-6);
    }
  });
  it('that is muted, or would fold the pin, changes nothing', () => {
    const frame = { frame: 40, homography: plane(40), corners: mapQuad(plane(40), PIN) };
    expect(corrected(frame, PIN, { touchUps: [touch({ muted: true })] })).toBe(frame);
    expect(
      corrected(frame, PIN, {
        touchUps: [
          touch({
            offsets: [
              [900, 900],
              [0, 0],
              [0, 0],
              [0, 0],
            ],
          }),
        ],
      }),
    ).toBe(frame);
  });
  it('is what it takes to bring a corner to a place, on top of what is there', () => {
    const now: Corrections = { touchUps: [touch()] };
    const h = plane(40);
    const to: Point = [700, 350];
    const offsets = offsetsFor(h, PIN, now, 40, [null, to, null, null]);
    const f = corrected({ frame: 40, homography: h, corners: mapQuad(h, PIN) }, PIN, {
      touchUps: [touch(), touch({ offsets })],
    });
    expect(f.corners[1]![0]).toBeCloseTo(700, 6);
    expect(offsets[0]).toEqual([0, 0]);
  });
});

describe('a plan of repairs', () => {
  const options = { limit: 0.8, width: 1920, right: [60] };
  it('mends a smooth drift of 6 px by a few touch-ups, and shows before anything is changed what is left', () => {
    const frames = spoilt((n) => all([(6 * (n - 60)) / 60, 1.5 * Math.sin((n - 60) / 20)]));
    const plan = planRepairs(frames, PIN, {}, options);
    expect(Math.max(...plan.before.map((v) => v ?? 0))).toBeGreaterThan(5.5);
    expect(Math.max(...plan.after.map((v) => v ?? 0))).toBeLessThanOrEqual(0.8);
    expect(plan.touchUps.length).toBeLessThanOrEqual(FRAMES / FRAMES_A_REPAIR);
    expect(plan.tooMany).toBe(false);
    expect(Math.max(...errors(frames, { touchUps: plan.touchUps }))).toBeLessThan(0.9);
  });
  it('mends a pop on its own frame and leaves its neighbours alone', () => {
    const frames = spoilt((n) =>
      n === 33
        ? [
            [4, 0],
            [0, 0],
            [0, 0],
            [0, 0],
          ]
        : still,
    );
    const { touchUps } = planRepairs(frames, PIN, {}, options);
    const after = errors(frames, { touchUps });
    expect(touchUps.map((t) => t.frame)).toEqual([33]);
    expect(after[33]).toBeLessThan(0.05);
    expect(Math.max(after[32]!, after[34]!)).toBeLessThan(0.01);
  });
  it('touches nothing that is under the limit already; corners that were not told go with those that were', () => {
    expect(
      planRepairs(
        spoilt(() => all([0.5, 0])),
        PIN,
        {},
        options,
      ).touchUps,
    ).toEqual([]);
    const { touchUps } = planRepairs(
      spoilt(
        (n) => (n > 90 ? all([3, 0]) : still),
        (_, c) => c === 2,
      ),
      PIN,
      {},
      options,
    );
    expect(touchUps.length).toBeGreaterThan(0);
    for (const t of touchUps) expect(t.frame).toBeGreaterThan(80);
  });
  it('goes on from the touch-ups that are there', () => {
    const frames = spoilt((n) => all([(6 * (n - 60)) / 60, 0]));
    const first = planRepairs(frames, PIN, {}, options);
    expect(planRepairs(frames, PIN, { touchUps: first.touchUps }, options).touchUps).toEqual([]);
  });
  it('that wants too many says which stretch is bad', () => {
    const plan = planRepairs(
      spoilt((n) => (n > 70 ? all([5 * Math.sin(n / 2.5), 0]) : still)),
      PIN,
      {},
      options,
    );
    expect(plan.tooMany).toBe(true);
    expect(plan.worstRange![0]).toBeGreaterThan(70);
  });
});

describe('what is believed of slips', () => {
  const corners = mapQuad(plane(40), PIN);
  it('is nothing where nothing was told', () => {
    expect(believedSlip([null, null, null, null], corners, 1920)).toEqual({
      told: [null, null, null, null],
      all: null,
    });
  });
  it('is the movement that all corners share, carried to one that was not told', () => {
    const b = believedSlip([[2, 1], [2.2, 0.8], null, [1.9, 1.1]], corners, 1920);
    expect(b.told[2]).toBeNull();
    for (const p of b.all!) expect(Math.hypot(p[0] - 2, p[1] - 1)).toBeLessThan(0.5);
  });
  it('is little of what one corner says alone while it may be a mistake, and nearly all of it beyond', () => {
    const at = (d: number): number =>
      believedSlip(
        [
          [d, 0],
          [0, 0],
          [0, 0],
          [0, 0],
        ],
        corners,
        1920,
      ).all![0][0];
    expect(at(0.6)).toBeLessThan(0.35);
    expect(at(4)).toBeGreaterThan(3.2);
    expect(
      Math.abs(
        believedSlip(
          [
            [4, 0],
            [0, 0],
            [0, 0],
            [0, 0],
          ],
          corners,
          1920,
        ).all![2][0],
      ),
    ).toBeLessThan(0.5);
  });
});

describe('settling', () => {
  const r = random(3);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r());
  it('takes most of a jitter of half a pixel out, keeps a drift, and tells both curves', () => {
    const frames = spoilt(
      (n) => [0, 1, 2, 3].map((): Point => [0.5 * normal() + n / 30, 0.5 * normal()]) as unknown as Quad,
    ).map((f) => ({ ...f, sigma: [0.1, 0.1, 0.1, 0.1] }));
    const s = settle(frames, PIN, {}, [0, FRAMES - 1], 1920);
    const left = frames.map((f) => residualSlip(f, PIN, { settles: [s.settle] }));
    const drift = rankSlips(left, 1920).drift;
    expect(s.before).toBeGreaterThan(0.42);
    expect(s.after).toBeLessThan(0.4 * s.before);
    expect(drift[100]! - drift[10]!).toBeGreaterThan(2.5);
  });
  it('leaves alone what is no more than the noise of measuring', () => {
    const frames = spoilt(() => [0, 1, 2, 3].map((): Point => [0.1 * normal(), 0.1 * normal()]) as unknown as Quad).map(
      (f) => ({ ...f, sigma: [0.2, 0.2, 0.2, 0.2] }),
    );
    const s = settle(frames, PIN, {}, [0, FRAMES - 1], 1920);
    expect(Math.max(...s.settle.offsets.flat().map(Math.abs))).toBeLessThan(0.02);
  });
});

describe('a verdict', () => {
  const base = { frames: 100, bridged: 0, weak: 0, halted: [], missing: 0, ranking: null };
  it('holds when nothing speaks against it, and gives its reasons otherwise', () => {
    expect(judge(base)).toEqual({ word: 'holds', reasons: [] });
    expect(
      judge({
        ...base,
        ranking: rankSlips(
          spoilt((n) => all([n / 50, 0])),
          1920,
        ),
      }),
    ).toMatchObject({ word: 'look again', reasons: [expect.stringContaining('slips by up to 2.')] });
    expect(
      judge({
        ...base,
        ranking: rankSlips(
          spoilt((n) => all([n / 15, 0])),
          1920,
        ),
      }).word,
    ).toBe('not usable');
    expect(
      judge({
        ...base,
        ranking: rankSlips(
          spoilt((n) => (n === 50 ? all([3, 0]) : still)),
          1920,
        ),
      }),
    ).toMatchObject({
      word: 'look again',
      reasons: [expect.stringContaining('pops on 1 frame, by 3.0 px on frame 50')],
    });
    expect(judge({ ...base, halted: [{ frame: 41, reason: 'Edges lost.' }] })).toMatchObject({
      word: 'not usable',
      reasons: ['Following halted at frame 41: Edges lost.'],
    });
    expect(judge({ ...base, frames: 1 }).word).toBe('not usable');
  });
});
