/** Following against photographs and geometry that others published. */
import { describe, expect, it } from 'vitest';
import { alignTexture } from '../src/follow/picture/texture-alignment';
import { makeKeyPicture } from '../src/follow/picture/key-pictures';
import { followRegion } from '../src/follow/outline/region';
import { mapPoint } from '../src/geometry/homography';
import type { Lens } from '../src/geometry/lens';
import { distort, undistort } from '../src/geometry/lens';
import { IDENTITY, inverse, multiply, translation } from '../src/geometry/matrix3';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { RawLuma } from '../src/image/image';
import { buildPyramid } from '../src/image/pyramid';
import { saddle } from './builders/saddle';
import { photograph, publishedMatrices, publishedMatrix } from './builders/photograph';

const HALF_PX = [1, 0, -0.5, 0, 1, -0.5, 0, 0, 1];
/** From the convention that pixel centres lie on whole numbers to that of corners. */
const toCorners = (h: readonly number[]): number[] => multiply(inverse(HALF_PX), multiply(h, HALF_PX));

describe('the Oxford affine-covariant pair "graffiti" 1 to 3', () => {
  // Source: K. Mikolajczyk and others, A Comparison of Affine Region Detectors, IJCV 2005; homography H1to3p of its
  // data set.
  it('aligns to the published homography across 30 degrees of view, from a start that is 9 px off', async () => {
    const one = await photograph('graf1.png');
    const three = await photograph('graf3.png');
    const published = toCorners(publishedMatrix('H1to3p.xml'));
    const pin: Quad = [
      [250, 150],
      [600, 150],
      [600, 480],
      [250, 480],
    ];
    const lens: Lens = { radial: 0, width: one.width, height: one.height };
    const key = makeKeyPicture(
      0,
      one,
      IDENTITY,
      { sigma: [0, 0, 0, 0], velocity: [] },
      followRegion(pin, [], lens),
      400,
      () => false,
      lens,
    );
    const ones = new Float32Array(32 * 32).fill(1);
    const start = multiply(translation(7, -6), published);
    const found = alignTexture(key.template, buildPyramid(three, 6), start, {
      motion: 'perspective',
      frameNoise: 2,
      trust: ones,
      proven: ones,
      pin,
      expected: mapQuad(start, pin),
      expectedSigma: 40,
      floor: [0.05, 0.05, 0.05, 0.05],
    })!;
    for (const p of pin) {
      const a = mapPoint(found.homography, p);
      const b = mapPoint(published, p);
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1.5);
    }
  });
});

describe('the chessboard photographs of the OpenCV documentation', () => {
  // Board of 9 by 6 inner corners with equal cells, and the camera's calibration: left_intrinsics.yml of the same
  // package.
  it('the grid of the board is equal and straight once the radial term that fits it best is known', async () => {
    const image = await photograph('left01.jpg');
    const lens = (radial: number): Lens => ({ radial, width: image.width, height: image.height });
    const rough: Quad = [
      [245, 94],
      [514, 87],
      [512, 265],
      [248, 254],
    ];
    const grid = await findGrid(image, rough);
    expect(grid.length).toBe(54);
    const misfit = (radial: number): number => {
      const ideal = grid.map((g) => ({ ...g, at: undistort(lens(radial), g.at) }));
      const h = fit(
        ideal.map((g) => g.cell),
        ideal.map((g) => g.at),
      );
      return Math.sqrt(
        ideal.reduce((s, g) => s + Math.hypot(...sub(mapPoint(h, g.cell), g.at)) ** 2, 0) / ideal.length,
      );
    };
    const tried = Array.from({ length: 41 }, (_, i) => -0.3 + 0.0125 * i);
    const best = tried.reduce((b, r) => (misfit(r) < misfit(b) ? r : b));
    // k1 = -0.2664 on the focal length of 535.9 px, here on half the picture's width.
    const [k1] = publishedMatrices('left_intrinsics.yml', 'distortion_coefficients');
    const [fx] = publishedMatrices('left_intrinsics.yml', 'camera_matrix');
    expect(Math.abs(best - k1! * (image.width / 2 / fx!) ** 2)).toBeLessThan(0.03);
    expect(misfit(best)).toBeLessThan(0.25);
    expect(misfit(best)).toBeLessThan(0.6 * misfit(0));
    const back = distort(lens(best), undistort(lens(best), [600, 20]));
    expect(Math.hypot(back[0] - 600, back[1] - 20)).toBeLessThan(1e-6);
  });
});

const sub = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]];
const { homographyFromPairs: fit } = await import('../src/geometry/homography');

/** Inner corners with their cell coordinates, grown outwards from four that were read off the photograph roughly. */
async function findGrid(image: RawLuma, rough: Quad): Promise<{ cell: Point; at: Point }[]> {
  const known: { cell: Point; at: Point }[] = [];
  const corners: Point[] = [
    [0, 0],
    [8, 0],
    [8, 5],
    [0, 5],
  ];
  let h = fit(corners, rough as unknown as Point[]);
  // Twice: the first corners found put the rest nearer to where they are, since the lens bows the board.
  for (let round = 0; round < 3; round++) {
    known.length = 0;
    for (let v = 0; v < 6; v++)
      for (let u = 0; u < 9; u++) {
        const at = saddle(image, mapPoint(h, [u, v]), 4);
        if (at) known.push({ cell: [u, v], at });
      }
    h = fit(
      known.map((k) => k.cell),
      known.map((k) => k.at),
    );
  }
  return known;
}
