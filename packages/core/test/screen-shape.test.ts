/** What two numbers of a flat screen's view are, how they change with its corners, and what they add to equations. */
import { describe, expect, it } from 'vitest';
import { everywhere } from '../src/geometry/corner-information';
import { mapPoint, quadToQuad } from '../src/geometry/homography';
import { noEquations, solveStep, stepped } from '../src/geometry/motion-equations';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import type { RigidScreen } from '../src/solve/rigid-screen';
import { addRigid, addRigidInformation, calibrate, rigidMisfit } from '../src/solve/rigid-screen';
import { shapeGradients, shapeOf } from '../src/solve/screen-shape';

const PICTURE = { half: 480, cx: 480, cy: 270 };
/** Squared focal length, half widths: a lens of 1.1 picture widths. */
const PHI = 2.2 ** 2;

/** A screen of 2 by 1, turned about its upright axis and tipped, before that lens, px: plain projection. */
function view(turn: number, tip: number, distance = 6, aspect = 2): Quad {
  const f = Math.sqrt(PHI) * PICTURE.half;
  return [
    [-aspect / 2, -0.5],
    [aspect / 2, -0.5],
    [aspect / 2, 0.5],
    [-aspect / 2, 0.5],
  ].map(([x, y]): Point => {
    const x1 = x! * Math.cos(turn);
    const z1 = -x! * Math.sin(turn);
    const y2 = y! * Math.cos(tip) - z1 * Math.sin(tip);
    const z2 = y! * Math.sin(tip) + z1 * Math.cos(tip) + distance;
    return [PICTURE.cx + (f * x1) / z2, PICTURE.cy + (f * y2) / z2];
  }) as unknown as Quad;
}

describe('the shape that a view tells', () => {
  it('is a right angle and the screen’s own ratio, however it is turned', () => {
    for (const [turn, tip] of [
      [0, 0],
      [0.6, 0],
      [0.4, -0.5],
      [-0.7, 0.3],
    ] as const) {
      const [angle, ratio] = shapeOf(view(turn, tip), PICTURE, PHI);
      expect(angle).toBeCloseTo(0, 9);
      expect(ratio).toBeCloseTo(Math.log(2 ** 2), 9);
    }
  });
  it('is another behind a lens that is not the one it was seen with', () => {
    const [angle, ratio] = shapeOf(view(0.5, 0.4), PICTURE, 1.5 * PHI);
    expect(Math.abs(angle)).toBeGreaterThan(0.01);
    expect(Math.abs(ratio - Math.log(4))).toBeGreaterThan(0.01);
  });
  it('changes with the corners as its gradients say', () => {
    const quad = view(0.5, -0.3);
    const [angle, ratio] = shapeGradients(quad, PICTURE, PHI);
    for (let k = 0; k < 8; k++) {
      const moved = (by: number): readonly number[] =>
        shapeOf(
          quad.map((p, i): Point => [p[0] + (2 * i === k ? by : 0), p[1] + (2 * i + 1 === k ? by : 0)]),
          PICTURE,
          PHI,
        );
      const [up, down] = [moved(1e-3), moved(-1e-3)];
      expect(angle[k]).toBeCloseTo((up[0]! - down[0]!) / 2e-3, 7);
      expect(ratio[k]).toBeCloseTo((up[1]! - down[1]!) / 2e-3, 7);
    }
  });
});

describe('a screen whose views are known', () => {
  const sharp = everywhere(0.1);
  const views = [0, 0.2, 0.4, 0.6, -0.2, -0.4, -0.6, 0.3, 0.5, -0.5].map((turn, i) => ({
    corners: view(turn, 0.12 * (i % 5) - 0.2),
    information: sharp,
  }));
  const rigid: RigidScreen = calibrate(views, 960, 540)!;
  const fits = view(0.35, 0.1);
  const bent = fits.map((p, i): Point => (i === 1 ? [p[0] + 6, p[1]] : p)) as unknown as Quad;

  it('tells the lens, is met by a view of it, and contradicted by one whose corner is off', () => {
    expect(rigid.focal).toBeCloseTo(1.1, 1);
    for (const c of rigid.constraints(fits, 0)) expect(Math.abs(c.value) * Math.sqrt(c.weight)).toBeLessThan(1);
    expect(rigidMisfit(sharp, rigid, fits, 0)).toBeLessThan(1);
    expect(rigidMisfit(sharp, rigid, bent, 0)).toBeGreaterThan(3);
  });
  it('says less of what moves, whose rows are read one after the other', () => {
    const [still] = rigid.constraints(bent, 0);
    const [fast] = rigid.constraints(bent, 40);
    expect(fast!.value).toBe(still!.value);
    expect(1 / fast!.weight - 1 / still!.weight).toBeCloseTo(((0.3 * 40) / 960) ** 2, 12);
    expect(rigidMisfit(sharp, rigid, bent, 40)).toBeLessThan(rigidMisfit(sharp, rigid, bent, 0));
  });
  it('adds the outer products of its gradients to what is known of the corners', () => {
    const information = everywhere(1);
    addRigidInformation(information, rigid, fits, 0);
    const cs = rigid.constraints(fits, 0);
    for (const [i, j] of [
      [0, 0],
      [3, 6],
      [7, 2],
    ] as const) {
      const added = cs.reduce((s, c) => s + c.weight * c.gradient[i]! * c.gradient[j]!, 0);
      expect(information[8 * i + j]).toBeCloseTo((i === j ? 1 : 0) + added, 9);
    }
  });
  it('draws a motion towards it: its equations are those of the constraints by the motion’s parameters', () => {
    const nearly = fits.map((p, i): Point => (i === 1 ? [p[0] + 0.5, p[1]] : p)) as unknown as Quad;
    const u = [-1, 1, 1, -1];
    const v = [-0.5, -0.5, 0.5, 0.5];
    const h = quadToQuad(u.map((x, i): Point => [x, v[i]!]) as unknown as Quad, nearly).map((x, _, all) => x / all[8]!);
    const eq = noEquations();
    addRigid(eq, rigid, h, u, v, 0);
    const values = (m: readonly number[]): number[] => {
      const corners = u.map((x, i) => mapPoint(m, [x, v[i]!])) as unknown as Quad;
      return rigid.constraints(corners, 0).map((c) => c.value);
    };
    const cs = rigid.constraints(nearly, 0);
    const rows = cs.map((_, k) =>
      Array.from({ length: 8 }, (_, p) => {
        const d = 1e-4;
        const moved = (by: number): number =>
          values(
            stepped(
              h,
              Float64Array.from({ length: 8 }, (_, i) => (i === p ? by : 0)),
            ),
          )[k]!;
        return (moved(d) - moved(-d)) / (2 * d);
      }),
    );
    const expected = (i: number, j: number): number =>
      cs.reduce((s, c, k) => s + c.weight * rows[k]![i]! * rows[k]![j]!, 0);
    const most = Math.max(...Array.from({ length: 8 }, (_, i) => expected(i, i)));
    for (let i = 0; i < 8; i++) expect(eq.a[9 * i]! / most).toBeCloseTo(expected(i, i) / most, 3);
    // Beside a weak wish to stay, the step that they ask for leads to a view of the stiff screen.
    for (let i = 0; i < 8; i++) eq.a[9 * i]! += 1e-6 * most;
    const next = values(stepped(h, Float64Array.from(solveStep('perspective', eq)!)));
    for (const [k, c] of cs.entries()) expect(Math.abs(next[k]!)).toBeLessThan(0.2 * Math.abs(c.value) + 2e-5);
  });
});
