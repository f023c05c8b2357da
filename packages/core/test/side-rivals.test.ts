import { describe, expect, it } from 'vitest';
import type { EdgeView } from '../src/follow/edges/edge-rows';
import type { EdgeFit, EdgeSolverOptions } from '../src/follow/edges/edge-solver';
import { firstSpread, fitEdges } from '../src/follow/edges/edge-solver';
import { findRails } from '../src/follow/edges/rails';
import { firstLooks, likenessOf, seenAcross } from '../src/follow/edges/side-looks';
import type { Weighing } from '../src/follow/edges/side-rivals';
import { amongRivals } from '../src/follow/edges/side-rivals';
import { quadToQuad } from '../src/geometry/homography';
import type { Matrix3 } from '../src/geometry/matrix3';
import { IDENTITY } from '../src/geometry/matrix3';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import { DARK, GLASS, device } from './builders/device';
import { renderScene } from './builders/scene';

const image = buildPyramid(renderScene(device(DARK), 0), 1)[0]!;
const rails = findRails(GLASS, image, []);
const spread = firstSpread(rails);
const view: EdgeView = { rails, image, spread, search: { reach: 0, blur: () => [0, 0] } };
const looks = firstLooks(seenAcross(image, GLASS, IDENTITY), [9, 9, 9, 9]);
const weighing: Weighing = {
  pin: GLASS,
  expected: GLASS,
  expectedSigma: 12,
  misfit: () => 0,
  across: (fit) => likenessOf(looks, seenAcross(image, GLASS, fit.homography), [0, 0, 0, 0]),
  isSharp: true,
  needsAll: true,
};
const OPTIONS: EdgeSolverOptions = {
  pin: GLASS,
  motion: 'perspective',
  expected: GLASS,
  expectedSigma: 3,
  spread,
  reach: 1,
  blur: () => [0, 0],
  floor: [0.03, 0.03, 0.03, 0.03],
};
/** Edges right around a start: whatever lines lie there are taken. */
const refit = (start: Matrix3): EdgeFit | null =>
  fitEdges(rails, image, start, { ...OPTIONS, expected: mapQuad(start, GLASS) });
/** The right side on the outer line of the bezel. */
const [a, b, c, d] = GLASS;
const ON_BEZEL: Quad = [a, [b[0] + 9, b[1]], [c[0] + 9, c[1]], d];
const off = (fit: EdgeFit): number => farthest(mapQuad(fit.homography, GLASS), GLASS);

describe('a side on the line of its neighbour', () => {
  it('is what a fit around it takes, since each line by itself looks right', () => {
    const wrong = refit(quadToQuad(GLASS, ON_BEZEL))!;
    expect(off(wrong)).toBeGreaterThan(4);
  });
  it('is given up for the line that all of the device speaks for', () => {
    const wrong = refit(quadToQuad(GLASS, ON_BEZEL))!;
    const chosen = amongRivals(wrong, view, weighing, refit);
    expect(off(chosen.fit)).toBeLessThan(0.3);
    expect(chosen.certainty).toBeGreaterThan(0.9);
    expect(chosen.rival).toBeGreaterThan(4);
  });
  it('is looked for farther off where a side that could be seen was not found, unless a picture tells', () => {
    // The right side so far in that none of its lines lies near: three sides are found, and look as remembered.
    const inside: Quad = [a, [b[0] - 7, b[1]], [c[0] - 7, c[1]], d];
    const three = { ...refit(quadToQuad(GLASS, inside))!, sides: 3, available: 4 };
    const blank = { log: 0, misfit: 0, bySide: [0, 0, 0, 0] };
    const tell = (needsAll: boolean) => amongRivals(three, view, { ...weighing, across: () => blank, needsAll }, refit);
    expect(off(tell(true).fit)).toBeLessThan(0.3);
    expect(tell(false).fit).toBe(three);
  });
  it('on two sides at once is given up for what is right on both', () => {
    const both: Quad = [
      [a[0] - 9, a[1]],
      [b[0] + 9, b[1]],
      [c[0] + 9, c[1]],
      [d[0] - 9, d[1]],
    ];
    const chosen = amongRivals(refit(quadToQuad(GLASS, both))!, view, weighing, refit);
    expect(off(chosen.fit)).toBeLessThan(0.3);
  });
  it('is found again where it is faint and stands beside a strong one', () => {
    const bezel = 12;
    const faint = buildPyramid(renderScene(device({ bezel, glassGrey: 80, bezelGrey: 90, behind: 190 }), 0), 1)[0]!;
    const lines = findRails(GLASS, faint, []);
    const seen = firstLooks(seenAcross(faint, GLASS, IDENTITY), [bezel, bezel, bezel, bezel]);
    const doubts = firstSpread(lines);
    const around = (start: Matrix3): EdgeFit | null =>
      fitEdges(lines, faint, start, { ...OPTIONS, expected: mapQuad(start, GLASS), spread: doubts });
    const outside: Quad = [a, [b[0] + bezel, b[1]], [c[0] + bezel, c[1]], d];
    const wrong = around(quadToQuad(GLASS, outside))!;
    expect(off(wrong)).toBeGreaterThan(6);
    const across = (fit: EdgeFit) => likenessOf(seen, seenAcross(faint, GLASS, fit.homography), [0, 0, 0, 0]);
    const beside: EdgeView = { ...view, rails: lines, image: faint, spread: doubts };
    const chosen = amongRivals(wrong, beside, { ...weighing, across, isSharp: false }, around);
    expect(off(chosen.fit)).toBeLessThan(0.5);
  });
  it('is not looked for where the device fits', () => {
    const right = refit(IDENTITY)!;
    const chosen = amongRivals(right, view, weighing, () => expect.unreachable());
    expect(chosen).toMatchObject({ fit: right, certainty: 1, rival: 0 });
  });
  it('stays in doubt where nothing tells the lines apart', () => {
    const wrong = refit(quadToQuad(GLASS, ON_BEZEL))!;
    const blind: Weighing = {
      ...weighing,
      across: () => ({ log: 0, misfit: 9, bySide: [0, 0, 0, 0] }),
      expectedSigma: 1000,
    };
    expect(amongRivals(wrong, view, blind, refit).certainty).toBeLessThan(0.6);
  });
});
