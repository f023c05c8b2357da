/** A short track with names and numbers that are awkward to write, for tests of formats. */
import fc from 'fast-check';
import type { Conventions } from '../../src/formats/conventions';
import { ORIGINS, PIXEL_ORIGINS, UNITS } from '../../src/formats/conventions';
import { normaliseHomography, quadToQuad } from '../../src/geometry/homography';
import type { Quad } from '../../src/geometry/quad';
import { mapQuad, perspectiveCentre } from '../../src/geometry/quad';
import type { Track } from '../../src/track';

/** On the reference frame, px of a 640x360 plate. */
export const PIN: Quad = [
  [100.125, 50.5],
  [420.7, 60.1],
  [410.3, 300.9],
  [90.2, 310.4],
];
/** Where the corners lie on a frame: moved, and a little sheared. */
const carried = (n: number): Quad =>
  PIN.map(([x, y]) => [x + 3.21 * n, y - 1.77 * n + 0.01 * x * n]) as unknown as Quad;

/** A track of one Screen, of a plate that begins at 1001. */
export function track(frames = 4, name = 'harbour "phone", left', cornersOn = carried): Track {
  const pin = cornersOn(0);
  const rows = Array.from({ length: frames }, (_, frame) => {
    const homography = normaliseHomography(quadToQuad(pin, cornersOn(frame)), perspectiveCentre(pin));
    return {
      frame,
      corners: mapQuad(homography, pin),
      homography,
      sigma: [0.1, 0.11, 0.12, 0.13],
      trust: 0.98,
      evidence: { texture: 0.4, edges: 0.6 },
    };
  });
  return {
    plate: {
      name: 'quay.mp4',
      width: 640,
      height: 360,
      frameRate: [24000, 1001],
      firstFrame: 1001,
      frameCount: frames,
    },
    screens: [{ name, referenceFrame: 0, stopped: null, frames: rows }],
  };
}

/** All that a file of corners may be written in. */
export const conventions = fc.record<Conventions>({
  origin: fc.constantFrom(...ORIGINS),
  units: fc.constantFrom(...UNITS),
  pixelOrigin: fc.constantFrom(...PIXEL_ORIGINS),
  size: fc.constantFrom<[number, number]>([640, 360], [1920, 1080], [777, 1003]),
});
