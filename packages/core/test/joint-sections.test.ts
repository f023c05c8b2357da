import { describe, expect, it } from 'vitest';
import { everywhere } from '../src/geometry/corner-information';
import { normaliseHomography, quadToQuad } from '../src/geometry/homography';
import { triangle } from '../src/geometry/linear-algebra';
import type { Quad } from '../src/geometry/quad';
import { mapQuad, perspectiveCentre } from '../src/geometry/quad';
import type { FrameResult } from '../src/solve/frame-result';
import { refineJointly } from '../src/solve/joint-refinement';
import { refineInSections } from '../src/solve/joint-sections';

const PIN: Quad = [
  [100, 100],
  [500, 100],
  [500, 340],
  [100, 340],
];

/** A number from 0 to 1 that a seed decides (mulberry32, from memory). */
function dice(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A pin that slides at an even pace, measured with an error of some tenths of a px; `lost` frames tell nothing. */
function measured(frames: number, seed: number, lost: ReadonlySet<number> = new Set()): FrameResult[] {
  const at = dice(seed);
  return Array.from({ length: frames }, (_, frame) => {
    const corners = PIN.map(([x, y]) => [x + 2 * frame + at() - 0.5, y + frame + at() - 0.5]) as unknown as Quad;
    return {
      frame,
      homography: lost.has(frame) ? null : normaliseHomography(quadToQuad(PIN, corners), perspectiveCentre(PIN)),
      sigma: [0.3, 0.3, 0.3, 0.3],
      trust: 0.9,
      evidence: { edges: 1 },
      information: lost.has(frame) ? [] : triangle(everywhere(0.3)),
      blur: 0,
      reason: null,
    };
  });
}
const place = (r: FrameResult): Quad => mapQuad(r.homography!, PIN);
/** px; by how much movement changes at a frame. */
function step(a: FrameResult, b: FrameResult, c: FrameResult): number {
  const [p, q, r] = [place(a), place(b), place(c)];
  return Math.max(...q.map((v, i) => Math.hypot(p[i]![0] - 2 * v[0] + r[i]![0], p[i]![1] - 2 * v[1] + r[i]![1])));
}

describe('a shot that was followed in sections', () => {
  const partOf = (frame: number): string => (frame < 30 ? 'first' : 'then');

  it('keeps the numbers of what came before to the last bit, whatever comes after', () => {
    const rows = measured(60, 1);
    const other = rows.map((r) => (r.frame < 30 ? r : measured(60, 2)[r.frame]!));
    const [a, b] = [rows, other].map((x) => refineInSections(x, PIN, new Set([10]), { partOf, referenceFrame: 10 }));
    expect(a!.slice(0, 30)).toEqual(b!.slice(0, 30));
    expect(a!.slice(0, 30)).toEqual(refineJointly(rows.slice(0, 30), PIN, new Set([10])));
    expect(a![40]).not.toEqual(b![40]);
  });

  it('does the same before the reference', () => {
    const rows = measured(60, 3);
    const other = rows.map((r) => (r.frame >= 30 ? r : measured(60, 4)[r.frame]!));
    const [a, b] = [rows, other].map((x) => refineInSections(x, PIN, new Set([50]), { partOf, referenceFrame: 50 }));
    expect(a!.slice(30)).toEqual(b!.slice(30));
    expect(a![5]).not.toEqual(b![5]);
  });

  it('meets without a step: movement changes no more where sections meet than elsewhere', () => {
    const steps = [5, 6, 7, 8, 9].flatMap((seed) => {
      const out = refineInSections(measured(60, seed), PIN, new Set([10]), { partOf, referenceFrame: 10 });
      const all = out.slice(1, -1).map((r, i) => step(out[i]!, r, out[i + 2]!));
      return [{ seam: Math.max(...all.slice(27, 31)), usual: Math.max(...all.slice(12, 26), ...all.slice(33, 56)) }];
    });
    expect(steps.reduce((s, v) => s + v.seam, 0)).toBeLessThan(1.2 * steps.reduce((s, v) => s + v.usual, 0));
  });

  it('bridges frames that were lost across a seam from both sides', () => {
    const lost = new Set([28, 29, 30, 31]);
    const rows = measured(60, 11, lost);
    const out = refineInSections(rows, PIN, new Set([10]), { partOf, referenceFrame: 10 });
    for (const n of lost) {
      expect(place(out[n]!)[0]![0]).toBeCloseTo(100 + 2 * n, -0.5);
      expect(out[n]).toMatchObject({ trust: 0, evidence: {} });
    }
    expect(out.every((r) => r.homography)).toBe(true);
  });

  it('is the joint solve where there is one section', () => {
    const rows = measured(20, 12, new Set([7]));
    expect(refineInSections(rows, PIN, new Set([3]), { partOf: () => 1, referenceFrame: 3 })).toEqual(
      refineJointly(rows, PIN, new Set([3])),
    );
  });
});
