/**
 * The ways in which other programs count pixels. Inside Yarlop there is one (origin at the top-left corner of the
 * top-left pixel, x right, y down); a convention is applied only when a file is written and undone when it is read.
 * Order: scale to the target size; origin (`bottom-left` flips y, `centre` moves the origin to the picture's centre
 * without a flip); `centre` pixel origin subtracts 0.5 from both, after a flip too; normalise by the size last.
 */
import type { Matrix3 } from '../geometry/matrix3';
import { inverse, multiply, scaling, translation } from '../geometry/matrix3';
import { mapPoint, normaliseHomography } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { mapQuad, perspectiveCentre } from '../geometry/quad';
import type { Point } from '../geometry/point';

export const ORIGINS = ['top-left', 'bottom-left', 'centre'] as const;
export const UNITS = ['pixels', 'normalised'] as const;
export const PIXEL_ORIGINS = ['corner', 'centre'] as const;

export interface Conventions {
  readonly origin: (typeof ORIGINS)[number];
  readonly units: (typeof UNITS)[number];
  readonly pixelOrigin: (typeof PIXEL_ORIGINS)[number];
  /** px of the picture that the coordinates are for */
  readonly size: readonly [width: number, height: number];
  /** corners are where they are when the shutter opens or closes; at the frame's middle when left out */
  readonly moment?: 'open' | 'close';
  /** share of a frame that the shutter is open, where it is one for all Screens */
  readonly shutter?: number;
  /** corners are the dressed fill's, with placement, offset and lift */
  readonly dressed?: boolean;
}

/** Yarlop's own conventions: px from the top left corner, frames from 0. */
export function ownConventions(width: number, height: number): Conventions {
  return { origin: 'top-left', units: 'pixels', pixelOrigin: 'corner', size: [width, height] };
}

/** Whether conventions are Yarlop's own for a picture of that size, px. */
export function isOwn(c: Conventions, width: number, height: number): boolean {
  return (
    c.origin === 'top-left' &&
    c.units === 'pixels' &&
    c.pixelOrigin === 'corner' &&
    c.size[0] === width &&
    c.size[1] === height &&
    !c.moment &&
    !c.dressed
  );
}

/** Maps plate pixels (column vectors) to the convention's coordinates; affine. */
export function conventionMatrix(c: Conventions, plateWidth: number, plateHeight: number): number[] {
  const [w, h] = c.size;
  let m = scaling(w / plateWidth, h / plateHeight);
  if (c.origin === 'bottom-left') m = multiply([1, 0, 0, 0, -1, h, 0, 0, 1], m);
  if (c.origin === 'centre') m = multiply(translation(-w / 2, -h / 2), m);
  if (c.pixelOrigin === 'centre') m = multiply(translation(-0.5, -0.5), m);
  if (c.units === 'normalised') m = multiply(scaling(1 / w, 1 / h), m);
  return m;
}

/** A homography between two plate pictures, as it reads in the convention's coordinates. */
export function conjugate(h: Matrix3, convention: Matrix3, at: Point): number[] {
  return normaliseHomography(multiply(convention, multiply(h, inverse(convention))), mapPoint(convention, at));
}

/** One frame's corners and homography carried over by `m`. */
export function convertFrame<T extends { corners: Quad; homography: readonly number[] }>(
  f: T,
  m: Matrix3,
  referencePin: Quad,
): T {
  return {
    ...f,
    corners: mapQuad(m, f.corners),
    homography: conjugate(f.homography, m, perspectiveCentre(referencePin)),
  };
}

/** Which corners these are, as a sentence; empty for the pin's own at the frame's middle. */
export function whichCorners({ moment, shutter, dressed }: Conventions): string {
  const when = { open: 'opens', close: 'closes' };
  const share =
    shutter === undefined ? '' : `, ${shutter / 2} of a frame ${moment === 'open' ? 'before' : 'after'} its middle`;
  return [
    ...(dressed ? ['corners of the dressed fill, placement, offset and lift taken in'] : []),
    ...(moment ? [`where they are as the shutter ${when[moment]}${share}, on the reference frame too`] : []),
  ].join('; ');
}

/** Conventions in a sentence, for the head of a file. */
export function describe(c: Conventions): string {
  const origin = {
    'top-left': 'origin top-left, x right, y down',
    'bottom-left': 'origin bottom-left, x right, y up',
    centre: 'origin at the centre of the picture, x right, y down',
  }[c.origin];
  const pixel =
    c.pixelOrigin === 'corner' ? 'whole numbers lie on pixel corners' : 'whole numbers lie on pixel centres';
  const which = whichCorners(c);
  return `${c.units === 'pixels' ? 'pixels' : 'normalised by width and height'} of ${c.size[0]}x${c.size[1]}; ${origin}; ${pixel}; corners TL, TR, BR, BL${which ? `; ${which}` : ''}`;
}
