/**
 * Key pictures: frames of the shot that are remembered beside the reference, for views that differ too much from it (a
 * fourfold zoom, a steep turn). A frame is always aligned to a remembered picture and never to its neighbour, so errors
 * do not add up from frame to frame; they add up only along the few key pictures.
 */
import { clamp } from '../../clamp';
import type { Lens } from '../../geometry/lens';
import { idealBounds } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { IDENTITY, inverse, multiply } from '../../geometry/matrix3';
import { derivativeAt, mapPoint } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import type { Bounds } from '../../geometry/polygon';
import { boundsOf } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import { estimateNoise } from '../../image/noise';
import { buildPyramid } from '../../image/pyramid';
import type { Region } from '../outline/region';
import type { Smear } from '../timing/shutter';
import { NO_SMEAR, smearOf } from '../timing/shutter';
import type { Template } from './template';
import { buildTemplate } from './template';

export interface KeyPicture {
  readonly frame: number;
  /** which of the pictures that the Screen shows in turn: 0 is the reference's */
  readonly picture: number;
  /** reference frame to this frame */
  readonly homography: Matrix3;
  /** the same as it was thought to be when its template was made */
  readonly made: Matrix3;
  /** per corner, px; what every frame aligned to this picture inherits */
  readonly sigma: readonly number[];
  /** of the pin's corners there, px a frame: the picture is smeared itself; empty when it is not known */
  readonly velocity: readonly Point[];
  /** how it would lie behind another lens, see `lens-response.ts`; null for the reference, which stays, and where it is not known */
  readonly response: readonly number[] | null;
  readonly template: Template;
  /** kept for making the template anew when the lens becomes known better */
  readonly luma: RawLuma;
}

/** What is known of a frame that is remembered, see {@link KeyPicture}. */
export type Kept = Pick<KeyPicture, 'sigma' | 'velocity'> & Partial<Pick<KeyPicture, 'response' | 'picture' | 'made'>>;

/**
 * How a key picture is smeared itself, in its px; not at all where its movement is not known. @param shutter share of a
 * frame's time
 */
export function smearOfKey({ homography, velocity }: KeyPicture, pin: Quad, shutter: number): Smear {
  return velocity.length === 0 ? NO_SMEAR : smearOf(mapQuad(homography, pin), velocity, shutter);
}

/**
 * Whether what lies at these corners of the reference frame, with that mean grey, must prove that it moves with the
 * plane.
 */
export type Probation = (corners: readonly Point[], mean: number) => boolean;

/** px of a level about the region that are kept: room for the interpolation and for one step of alignment. By trial. */
const BORDER = 24;

/** Pyramid levels that a region of so many px needs, 1 to 6. */
export function levelsFor(bounds: Bounds): number {
  const side = Math.min(bounds.x1 - bounds.x0, bounds.y1 - bounds.y0);
  return clamp(1 + Math.floor(Math.log2(Math.max(side, 1) / 14)), 1, 6);
}

function mapRegion(h: Matrix3, region: Region, lens: Lens): Region {
  const seen = idealBounds(lens);
  const map = (l: readonly Point[]): Point[] => l.map((p) => mapPoint(h, p));
  const follow = region.follow.map(map);
  const surroundings = region.surroundings && map(region.surroundings);
  const cut = (b: Bounds): Bounds => ({
    x0: Math.max(seen.x0, b.x0),
    y0: Math.max(seen.y0, b.y0),
    x1: Math.min(seen.x1, b.x1),
    y1: Math.min(seen.y1, b.y1),
  });
  return {
    follow,
    ignore: region.ignore.map(map),
    rim: region.rim,
    surroundings,
    core: cut(boundsOf(follow.flat())),
    bounds: cut(boundsOf([...follow.flat(), ...(surroundings ?? [])])),
  };
}

/** A remembered picture of a frame that was solved; see {@link KeyPicture} for shapes and units. */
export function makeKeyPicture(
  frame: number,
  luma: RawLuma,
  homography: Matrix3,
  { sigma, velocity, response = null, picture = 0, made = homography }: Kept,
  region: Region,
  count: number,
  probation: Probation,
  lens: Lens,
): KeyPicture {
  const own = made === IDENTITY ? region : mapRegion(made, region, lens);
  const { x0, y0, x1, y1 } = own.bounds;
  const pyramid = buildPyramid(
    luma,
    levelsFor(own.core),
    { x0: x0 - BORDER, y0: y0 - BORDER, x1: x1 + BORDER, y1: y1 + BORDER },
    lens,
    true,
  ).map((l) => ({ ...l, data: l.data.slice() }));
  const toReference = inverse(made);
  const template = buildTemplate(pyramid, {
    region: own,
    count,
    noise: estimateNoise(pyramid[0]!),
    toReference,
    trustBounds: region.bounds,
    probation: (x, y, side, mean) =>
      probation(
        [
          [x, y],
          [x + side, y],
          [x + side, y + side],
          [x, y + side],
        ].map((p) => mapPoint(toReference, p as unknown as Point)),
        mean,
      ),
  });
  return { frame, picture, homography, made, sigma, velocity, response, template, luma };
}

/**
 * How differently two views see the plane at `at`: |log2| of both singular values of the local map; 0 for turns and
 * shifts.
 */
export function viewDifference(from: Matrix3, to: Matrix3, at: Point): number {
  const h = multiply(to, inverse(from));
  const [a, b, c, d] = derivativeAt(h, mapPoint(from, at));
  const sum = (a * a + b * b + c * c + d * d) / 2;
  const det = Math.abs(a * d - b * c);
  const spread = Math.sqrt(Math.max(0, sum * sum - det * det));
  const s1 = Math.sqrt(sum + spread);
  const s2 = det / Math.max(s1, 1e-12);
  return Math.abs(Math.log2(s1)) + Math.abs(Math.log2(Math.max(s2, 1e-6)));
}
