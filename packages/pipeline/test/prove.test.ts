/** Proving a whole path on pictures with exact truth: likenesses of several states, and corrections in a track. */
import { describe, expect, it } from 'vitest';
import { mapPoint, quadToQuad } from '../../core/src/geometry/homography';
import { IDENTITY } from '../../core/src/geometry/matrix3';
import type { Point } from '../../core/src/geometry/point';
import { insidePolygon } from '../../core/src/geometry/polygon';
import type { Quad } from '../../core/src/geometry/quad';
import { mapQuad } from '../../core/src/geometry/quad';
import { grownPin } from '../../core/src/pin/inset';
import type { RawLuma } from '../../core/src/image/image';
import { planRepairs } from '../../core/src/proof/repair-plan';
import type { TouchUp } from '../../core/src/solve/touch-up';
import { moved, renderScene, waves } from '../../core/test/builders/scene';
import { assembleTrack } from '../src/assemble-track';
import type { PlaneFrame } from '../src/prove';
import { blursOn, likenessesOf, measureSlips } from '../src/prove';
import { correctionsOf } from '../src/screen-file';

const PIN: Quad = [
  [150, 90],
  [390, 98],
  [382, 250],
  [142, 242],
];
const FRAMES = 14;
const CHANGES = 7;
const plane = (n: number): number[] => moved(PIN, { x: 2 * n, y: n, turn: 0.008 * n, scale: 1 + 0.006 * n });
/** A device with a black bezel whose picture becomes another one halfway. */
function picture(n: number): RawLuma {
  const first = waves(5);
  const second = waves(31);
  const texture = (x: number, y: number): number =>
    insidePolygon([x, y], PIN) ? 60 + 0.75 * (n < CHANGES ? first : second)(x, y) : 16;
  return renderScene(
    { width: 560, height: 340, pin: grownPin(PIN, 12), homography: plane, texture, background: waves(9), noise: 1.5 },
    n,
  );
}
const pictures = Array.from({ length: FRAMES }, (_, n) => picture(n));
const port = { width: 560, height: 340, frameCount: FRAMES, read: async (n: number) => Promise.resolve(pictures[n]!) };
const path = (off: (n: number) => number = () => 0): PlaneFrame[] =>
  Array.from({ length: FRAMES }, (_, frame) => ({
    frame,
    homography: quadToQuad(
      PIN,
      mapQuad(plane(frame), PIN).map(([x, y]): Point => [x + off(frame), y]) as unknown as Quad,
    ),
  }));
const right = [0, 1, 2, 3].map((corner) => ({ corner, frame: 10, at: mapPoint(plane(10), PIN[corner]!) }));
async function told(
  of: PlaneFrame[],
  more: typeof right,
): Promise<{ frame: number; by: readonly (Point | null)[]; homography: readonly number[] }[]> {
  const out = [];
  for await (const f of measureSlips(of, PIN, 0, more, port))
    out.push({ frame: f.frame, by: f.by, homography: of[f.frame]!.homography });
  return out;
}
const count = (f: { by: readonly (Point | null)[] }): number => f.by.filter((p) => p !== null).length;

describe('proving a path', () => {
  it('tells nothing of a device whose picture changed, until that state has a likeness of its own', async () => {
    const alone = await told(path(), []);
    const both = await told(path(), right);
    const after = (list: typeof alone): number => list.slice(CHANGES).reduce((s, f) => s + count(f), 0);
    const before = (list: typeof alone): number => list.slice(0, CHANGES).reduce((s, f) => s + count(f), 0);
    expect(before(alone)).toBeGreaterThan(20);
    expect(after(alone)).toBeLessThan(6);
    expect(after(both)).toBeGreaterThan(20);
    expect(before(both)).toBe(before(alone));
    for (const f of both) for (const p of f.by) if (p) expect(Math.hypot(...p)).toBeLessThan(0.5);
  });
  it('finds a slip by the second likeness, and a plan repairs it to the truth', async () => {
    const frames = await told(
      path((n) => (n > 8 && n !== 10 ? 2.5 : 0)),
      right,
    );
    const plan = planRepairs(frames, PIN, {}, { limit: 1, width: 560, right: [0, 10] });
    expect(Math.abs(frames[12]!.by[1]![0] + 2.5)).toBeLessThan(0.4);
    expect(plan.touchUps.length).toBeGreaterThan(0);
    expect(Math.max(...plan.after.map((v) => v ?? 0))).toBeLessThan(Math.max(...plan.before.map((v) => v ?? 0)) / 2);
  });
  it('leaves out likenesses of frames that are not followed or not there', async () => {
    const looks = await likenessesOf(
      path().slice(0, 6),
      PIN,
      0,
      [...right, { corner: 1, frame: 400, at: [1, 1] }],
      port,
    );
    expect(looks.map((l) => l.length)).toEqual([1, 1, 1, 1]);
  });
  it('takes a pop of the path for no blur', () => {
    const calm = path();
    const popped = path((n) => (n === 5 ? 30 : 0));
    for (const n of [4, 5, 6])
      for (const c of [0, 1, 2, 3])
        expect(Math.abs(blursOn(popped, PIN, n)[c]! - blursOn(calm, PIN, n)[c]!)).toBeLessThan(0.3);
    expect(blursOn([{ frame: 0, homography: IDENTITY }], PIN, 0)).toEqual([0, 0, 0, 0]);
  });
});

describe('a track with corrections', () => {
  const results = path().map(({ frame, homography }) => ({
    frame,
    homography,
    sigma: [0.05, 0.05, 0.05, 0.05],
    trust: 1,
    evidence: { texture: 1 },
    information: [],
    blur: 0,
    reason: null,
  }));
  const touchUp: TouchUp = {
    frame: 9,
    offsets: [
      [2, 0],
      [2, 0],
      [2, 0],
      [2, 0],
    ],
    before: { frames: 4, shape: 'linear' },
    after: { frames: 4, shape: 'eased' },
  };
  const setup = { pin: PIN, patches: [], motion: 'perspective', density: 'usual', evidence: ['texture'] } as never;
  it('carries them, with matrices that still take the pin to the corners', () => {
    const screen = {
      format: 'yarlop-screen',
      version: 1,
      name: 'a',
      referenceFrame: 0,
      pin: PIN,
      touchUps: [touchUp],
    } as never;
    const plain = assembleTrack(results, { setup, referenceFrame: 0, width: 540, from: 0, to: FRAMES - 1 }).frames;
    const { frames } = assembleTrack(results, {
      width: 540,
      setup,
      referenceFrame: 0,
      from: 0,
      to: FRAMES - 1,
      corrections: correctionsOf(screen),
    });
    expect(frames.slice(0, 6)).toEqual(plain.slice(0, 6));
    for (const f of frames)
      for (const [i, p] of mapQuad(f.homography, PIN).entries())
        expect(Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])).toBeLessThan(1e-6);
    const at = mapPoint(plane(9), [PIN[0][0] + 2, PIN[0][1]]);
    expect(Math.hypot(frames[9]!.corners[0][0] - at[0], frames[9]!.corners[0][1] - at[1])).toBeLessThan(0.05);
    expect(Math.hypot(...(frames[9]!.homography as number[]))).toBeCloseTo(1, 9);
  });
});
