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

/**
 * Yields the number of each frame written; returns the files. Frames without a track are black. @throws InputError,
 * MediaError
 */
export async function* deliverFlat(job: FlatJob): AsyncGenerator<number, string[]> {
  const { screen, probe, show } = job;
  const by = new Map(screen.frames.map((f) => [f.frame, f]));
  const pin = by.get(screen.referenceFrame)?.corners;
  if (!pin)
    throw new InputError(
      `Screen "${screen.name}" has no track on its reference frame ${screen.referenceFrame}; follow it first.`,
    );
  const still: Quad = pin;
  const [width, height] =
    show === 'flat'
      ? [
          even((distance(pin[0], pin[1]) + distance(pin[3], pin[2])) / 2),
          even((distance(pin[0], pin[3]) + distance(pin[1], pin[2])) / 2),
        ]
      : [probe.width, probe.height];
  const rectangle: Quad = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  let depth: 8 | 16 | 32;
  if (isFloat(probe)) depth = 32;
  else if (probe.bitDepth > 8) depth = 16;
  else depth = 8;
  return yield* writePictures(
    job.out,
    {
      width,
      height,
      frameRate: probe.frameRate,
      firstNumber: probe.firstFrame + job.from,
      depth,
      alpha: false,
      colour: probe.colour,
    },
    warped(),
  );
  async function* warped(): AsyncGenerator<readonly [number, Raster]> {
    let frame = job.from;
    for await (const picture of decodeRgb(job.plate, probe, {
      from: job.from,
      count: job.count,
      seekable: job.seekable,
    })) {
      const f = by.get(frame);
      const m = f && (show === 'flat' ? quadToQuad(rectangle, f.corners) : quadToQuad(still, f.corners));
      yield [
        frame++,
        m
          ? warp(
              picture,
              facing(m, show === 'flat' ? [width / 2, height / 2] : perspectiveCentre(still)),
              width,
              height,
            )
          : emptyLike(picture, width, height, picture.channels),
      ];
    }
  }
}

/** With the sign that puts the Screen's own middle before the camera. */
function facing(m: readonly number[], at: readonly [number, number]): readonly number[] {
  return m[6]! * at[0] + m[7]! * at[1] + m[8]! < 0 ? m.map((v) => -v) : m;
}
