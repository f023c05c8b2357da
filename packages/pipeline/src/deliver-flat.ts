/** The plate held still by the Screen's plane, or the Screen laid flat, as pictures. */
import { quadToQuad } from '@yarlop/core/geometry/homography';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { perspectiveCentre } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import { emptyLike } from '@yarlop/core/image/image';
import { warp } from '@yarlop/core/image/warp';
import type { ScreenTrack } from '@yarlop/core/track';
import { decodeRgb, isFloat } from '@yarlop/media/decode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { InputError } from './pipeline-error';
import { writePictures } from './write-pictures';

export interface FlatJob {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  readonly screen: ScreenTrack;
  /** `stabilised` shows the plate as the reference frame stands; `flat` the Screen alone, as large as its pin */
  readonly show: 'stabilised' | 'flat';
  readonly out: string;
  readonly from: number;
  readonly count: number;
}

const even = (v: number): number => Math.max(16, 2 * Math.round(v / 2));

/** How a plate is warped: to how large a picture, and by which map on a frame whose corners are known. */
interface Warping {
  readonly width: number;
  readonly height: number;
  /** picture that is made to plate */
  readonly mapOf: (corners: Quad) => readonly number[];
}

/** The Screen as a rectangle of the size that it has on its reference frame. */
function laidFlat(pin: Quad): Warping {
  const width = even((distance(pin[0], pin[1]) + distance(pin[3], pin[2])) / 2);
  const height = even((distance(pin[0], pin[3]) + distance(pin[1], pin[2])) / 2);
  const rectangle: Quad = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  const middle = [width / 2, height / 2] as const;
  return { width, height, mapOf: (corners) => facing(quadToQuad(rectangle, corners), middle) };
}

/** The plate, with the Screen where it lies on its reference frame. */
function heldStill(pin: Quad, { width, height }: Pick<Probe, 'width' | 'height'>): Warping {
  const middle = perspectiveCentre(pin);
  return { width, height, mapOf: (corners) => facing(quadToQuad(pin, corners), middle) };
}

function depthOf(probe: Probe): 8 | 16 | 32 {
  if (isFloat(probe)) return 32;
  return probe.bitDepth > 8 ? 16 : 8;
}

async function* warped(job: FlatJob, { width, height, mapOf }: Warping): AsyncGenerator<readonly [number, Raster]> {
  const by = new Map(job.screen.frames.map((f) => [f.frame, f.corners]));
  const { from, count, seekable } = job;
  let frame = from;
  for await (const picture of decodeRgb(job.plate, job.probe, { from, count, seekable })) {
    const corners = by.get(frame);
    const made = corners
      ? warp(picture, mapOf(corners), width, height)
      : emptyLike(picture, width, height, picture.channels);
    yield [frame++, made];
  }
}

/**
 * Yields the number of each frame written; returns the files. Frames without a track are black. @throws InputError,
 * MediaError
 */
export async function* deliverFlat(job: FlatJob): AsyncGenerator<number, string[]> {
  const { screen, probe, show } = job;
  const pin = screen.frames.find((f) => f.frame === screen.referenceFrame)?.corners;
  if (!pin)
    throw new InputError(
      `Screen "${screen.name}" has no track on its reference frame ${screen.referenceFrame}; follow it first.`,
    );
  const warping = show === 'flat' ? laidFlat(pin) : heldStill(pin, probe);
  return yield* writePictures(
    job.out,
    {
      width: warping.width,
      height: warping.height,
      frameRate: probe.frameRate,
      firstNumber: probe.firstFrame + job.from,
      depth: depthOf(probe),
      alpha: false,
      colour: probe.colour,
    },
    warped(job, warping),
  );
}

/** With the sign that puts the Screen's own middle before the camera. */
function facing(m: readonly number[], at: readonly [number, number]): readonly number[] {
  return m[6]! * at[0] + m[7]! * at[1] + m[8]! < 0 ? m.map((v) => -v) : m;
}
