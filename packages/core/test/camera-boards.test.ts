/**
 * A camera solved from the photographs of one board, against the calibration that was published with them: Debian's
 * opencv-doc, left01.jpg to left14.jpg and left_intrinsics.yml. Where the board's corners lie is found in the photographs.
 */
import { beforeAll, describe, expect, it } from 'vitest';
import { rotationBy } from '../src/geometry/pose';
import type { Point } from '../src/geometry/point';
import type { PointTrack } from '../src/camera/point-tracks';
import type { SolvedCamera } from '../src/camera/solve-camera';
import { solveCamera } from '../src/camera/solve-camera';
import { halfDiagonal } from '../src/camera/view-model';
import { photograph, publishedMatrices } from './builders/photograph';
import { saddle } from './builders/saddle';

const SIZE = { width: 640, height: 480 };
const [COLUMNS, ROWS] = [9, 6];
const NUMBERS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 11, 12, 13, 14];
/** Px about a corner in which its saddle is looked for. */
const REACH = 5;

const [fx, , cx, , , cy] = publishedMatrices('left_intrinsics.yml', 'camera_matrix');
const [k1, k2, p1, p2, k3] = publishedMatrices('left_intrinsics.yml', 'distortion_coefficients');
const poses = publishedMatrices('left_intrinsics.yml', 'extrinsic_parameters');
const square = 0.025;

/** The photographs by how the board is turned in the picture, so that neighbours resemble one another as in a shot. */
const VIEWS = NUMBERS.map((_, view) => view).sort((a, b) => poses[6 * a + 2]! - poses[6 * b + 2]!);

/** About where a corner of the board is seen, by the published pose and lens; pixels' corners count here. */
function expected(view: number, column: number, row: number): Point {
  const p = poses.slice(6 * view, 6 * view + 6);
  const r = rotationBy([p[0]!, p[1]!, p[2]!]);
  const at = [square * column, square * row, 0];
  const [x, y, z] = [0, 1, 2].map((k) => p[3 + k]! + at.reduce((sum, v, c) => sum + r[3 * k + c]! * v, 0));
  const [u, v] = [x! / z!, y! / z!];
  const r2 = u * u + v * v;
  const bow = 1 + r2 * (k1! + r2 * (k2! + r2 * k3!));
  const du = 2 * p1! * u * v + p2! * (r2 + 2 * u * u);
  const dv = p1! * (r2 + 2 * v * v) + 2 * p2! * u * v;
  return [cx! + fx! * (u * bow + du) + 0.5, cy! + fx! * (v * bow + dv) + 0.5];
}

/** Tracks of the corners through the photographs; the middle of the lens lies in the middle of the picture. */
async function tracks(): Promise<PointTrack[]> {
  const images = await Promise.all(NUMBERS.map((n) => photograph(`left${String(n).padStart(2, '0')}.jpg`)));
  const out: PointTrack[] = [];
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) {
      const places = VIEWS.flatMap((view) => {
        const found = saddle(images[view]!, expected(view, column, row), REACH);
        if (!found) return [NaN, NaN];
        return [found[0] - cx! - 0.5 + SIZE.width / 2, found[1] - cy! - 0.5 + SIZE.height / 2];
      });
      out.push({ id: out.length, first: 0, places });
    }
  return out;
}

describe('the camera of the published boards', () => {
  let corners: PointTrack[];
  let solved: SolvedCamera;
  beforeAll(async () => {
    corners = await tracks();
    solved = solveCamera(corners, SIZE, VIEWS.length)!;
  });

  it('is seen in corners that were found on nearly all photographs', () => {
    const all = corners.flatMap((t) => t.places);
    expect(all.filter(Number.isNaN).length).toBeLessThan(0.05 * all.length);
  });
  it('has the published focal length within 1 %, though the board is flat and none was given', () => {
    expect(solved.kind).toBe('moving');
    const focal = solved.scene.optics.focal * halfDiagonal(SIZE);
    expect(Math.abs(focal / fx! - 1)).toBeLessThan(0.01);
  });
  it('has the published first radial term', () => {
    // Published by the focal length, here by the half diagonal.
    const byDiagonal = k1! * (halfDiagonal(SIZE) / fx!) ** 2;
    expect(Math.abs(solved.scene.optics.k1 - byDiagonal)).toBeLessThan(0.01);
  });
  it('has seen the board flat, its squares equal', () => {
    const at = (column: number, row: number): readonly number[] => solved.scene.points.get(COLUMNS * row + column)!;
    const sides: number[] = [];
    for (let row = 0; row < ROWS; row++)
      for (let column = 0; column + 1 < COLUMNS; column++) {
        const [a, b] = [at(column, row), at(column + 1, row)];
        if (a && b) sides.push(Math.hypot(...a.map((v, k) => v - b[k]!)));
      }
    const usual = sides.reduce((s, v) => s + v, 0) / sides.length;
    expect(sides.length).toBeGreaterThan(40);
    for (const side of sides) expect(Math.abs(side / usual - 1)).toBeLessThan(0.03);
  });
});
