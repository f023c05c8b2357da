/** The pass over all frames fills what was not seen, and leaves what was measured where it is, however it moved. */
import { describe, expect, it } from 'vitest';
import { everywhere } from '../src/geometry/corner-information';
import { quadToQuad } from '../src/geometry/homography';
import { triangle } from '../src/geometry/linear-algebra';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import type { FrameResult } from '../src/solve/frame-result';
import { notFound } from '../src/solve/frame-result';
import { refineJointly } from '../src/solve/joint-refinement';

const PIN: Quad = [
  [100, 80],
  [300, 80],
  [300, 200],
  [100, 200],
];
const SIGMA = 0.2;
const shifted = (x: number, y = 0): Quad => PIN.map(([u, v]): Point => [u + x, v + y]) as unknown as Quad;

function measured(frame: number, corners: Quad, sigma = SIGMA): FrameResult {
  return {
    frame,
    homography: quadToQuad(PIN, corners),
    lens: 0,
    sigma: [sigma, sigma, sigma, sigma],
    information: triangle(everywhere(sigma)),
    blur: 0,
    trust: 1,
    evidence: { edges: 1 },
    reason: null,
  };
}
const lost = (frame: number): FrameResult => notFound(frame, 0, 10, 'Lost.');
const refined = (frames: readonly FrameResult[]): Quad[] =>
  refineJointly(frames, PIN, new Set([0])).map((r) => mapQuad(r.homography!, PIN));
/** px by which the farthest corner of any measured frame was moved. */
function most(frames: readonly FrameResult[]): number {
  const after = refined(frames);
  return Math.max(...frames.flatMap((r, i) => (r.homography ? farthest(mapQuad(r.homography, PIN), after[i]!) : [])));
}

describe('frames that were measured', () => {
  it('stay where they are through a jump', () => {
    expect(most(Array.from({ length: 24 }, (_, n) => measured(n, shifted(n < 12 ? 0 : 190))))).toBeLessThan(0.02);
  });
  it('stay through a shake that turns round on every frame', () => {
    expect(most(Array.from({ length: 24 }, (_, n) => measured(n, shifted(n % 2 === 0 ? 0 : 12))))).toBeLessThan(0.05);
  });
  it('stay through a whip that starts and ends at once', () => {
    const at = (n: number): number => 40 * Math.min(8, Math.max(0, n - 8));
    expect(most(Array.from({ length: 24 }, (_, n) => measured(n, shifted(at(n)))))).toBeLessThan(0.02);
  });
  it('stay beside frames that were lost, whatever happened there', () => {
    const frames = Array.from({ length: 24 }, (_, n) => {
      if (n >= 10 && n <= 13) return lost(n);
      return measured(n, shifted(n < 12 ? 2 * n : 300 - 3 * n, n < 12 ? 0 : 80));
    });
    expect(most(frames)).toBeLessThan(0.05);
  });
  it('whose corners are known badly are steadied by those that are known well', () => {
    const isBad = (n: number): boolean => n % 6 === 3;
    const frames = Array.from({ length: 40 }, (_, n) =>
      isBad(n) ? measured(n, shifted(2 * n + 3, -2), 5) : measured(n, shifted(2 * n)),
    );
    const after = refined(frames);
    for (let n = 0; n < 40; n++) expect(farthest(after[n]!, shifted(2 * n))).toBeLessThan(isBad(n) ? 1 : 0.05);
  });
});

describe('how well frames are known', () => {
  it('is what the expectation makes of weak information, but what was doubted beside that stays doubted', () => {
    const frames = Array.from({ length: 20 }, (_, n) => {
      if (n === 8) return measured(n, shifted(2 * n), 5);
      return n === 12 ? { ...measured(n, shifted(2 * n)), sigma: [4, 4, 4, 4] } : measured(n, shifted(2 * n));
    });
    const all = refineJointly(frames, PIN, new Set([0])).map((r) => Math.max(...r.sigma));
    expect(all[8]).toBeLessThan(3);
    expect(all[12]).toBeGreaterThan(3.9);
    expect(all[13]).toBeLessThan(0.25);
  });
});

describe('corners that are doubted beside the others', () => {
  it('stay doubted, though the others are not', () => {
    const told = [SIGMA, 3, 3, SIGMA];
    const frames = Array.from({ length: 20 }, (_, n) => ({
      ...measured(n, shifted(2 * n)),
      ...(n === 8 ? { sigma: told } : {}),
    }));
    const after = refineJointly(frames, PIN, new Set([0]))[8]!.sigma;
    for (const [k, s] of after.entries()) expect(Math.abs(s - told[k]!), `corner ${k}`).toBeLessThan(0.05);
  });
});

describe('frames that were lost', () => {
  it('lie on the way between their neighbours, and are known the less the longer it is', () => {
    const frames = Array.from({ length: 30 }, (_, n) => (n >= 10 && n < 18 ? lost(n) : measured(n, shifted(3 * n))));
    const all = refineJointly(frames, PIN, new Set([0]));
    for (let n = 10; n < 18; n++) expect(farthest(mapQuad(all[n]!.homography!, PIN), shifted(3 * n))).toBeLessThan(0.1);
    expect(all[14]!.sigma[0]!).toBeGreaterThan(all[10]!.sigma[0]!);
    expect(all[14]).toMatchObject({ trust: 0, evidence: {} });
  });
  it('are known by their ends and by how much a random change of movement may add between them', () => {
    // Known to 0.2 px, so that a change of 6 times that is taken for usual: 1.2 px a frame squared.
    const frames = Array.from({ length: 24 }, (_, n) => (n >= 9 && n < 14 ? lost(n) : measured(n, shifted(2 * n))));
    const all = refineJointly(frames, PIN, new Set([0]));
    const between = (t: number, l: number): number => 1.2 * Math.sqrt((t * (l - t)) ** 3 / (3 * l ** 3));
    for (const [n, t] of [
      [9, 1],
      [11, 3],
      [13, 5],
    ] as const)
      expect(all[n]!.sigma[2]).toBeCloseTo(Math.hypot(SIGMA, SIGMA, between(t, 6)), 3);
    // Half of what moves from frame to frame.
    expect(all[11]!.blur).toBeCloseTo(1, 6);
    expect(all[5]!.sigma[0]).toBeCloseTo(SIGMA, 2);
  });
  it('curve as the movement on both sides does', () => {
    const at = (n: number): Quad => shifted(0.4 * (n - 13) ** 2);
    const frames = Array.from({ length: 30 }, (_, n) => (n >= 11 && n < 16 ? lost(n) : measured(n, at(n))));
    const after = refined(frames);
    for (let n = 11; n < 16; n++) expect(farthest(after[n]!, at(n))).toBeLessThan(1.5);
  });
});

describe('frames that somebody placed, and the reference', () => {
  it('stay to the last digit, and few frames stay as they are', () => {
    const frames = Array.from({ length: 12 }, (_, n) => measured(n, shifted(n * n)));
    const exact = new Set([0, 6]);
    const all = refineJointly(frames, PIN, exact);
    for (const n of exact) expect(all[n]).toBe(frames[n]);
    expect(refineJointly(frames.slice(0, 2), PIN, exact)).toEqual(frames.slice(0, 2));
    expect(refineJointly(frames.slice(0, 3), PIN, exact)).toHaveLength(3);
  });
  it('that nothing is known of but their place keep their own sigma', () => {
    const bare = (n: number): FrameResult => ({ ...measured(n, shifted(2 * n)), information: [], sigma: [1, 2, 3, 4] });
    const all = refineJointly(
      Array.from({ length: 9 }, (_, n) => (n === 4 ? bare(n) : measured(n, shifted(2 * n)))),
      PIN,
      new Set([0]),
    );
    expect(all[4]!.sigma).toEqual([1, 2, 3, 4]);
    expect(farthest(mapQuad(all[4]!.homography!, PIN), shifted(8))).toBeLessThan(0.01);
  });
});
