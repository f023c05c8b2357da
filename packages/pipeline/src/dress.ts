/** The job of dressing: plate pictures through the renderer into an encoder, one by one. */
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import { Renderer } from '@yarlop/core/dress/render';
import { decodeRgb } from '@yarlop/media/decode';
import { Encoder } from '@yarlop/media/encode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import type { FillReader } from './read-fill';

export interface Layer {
  /** corners by frame; a frame without them shows the plate */
  readonly corners: ReadonlyMap<number, Quad>;
  readonly fill: FillReader;
}

export interface DressJob {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  /** back to front */
  readonly layers: readonly Layer[];
  readonly out: string;
  /** the fills alone, with straight alpha */
  readonly element: boolean;
  readonly from: number;
  readonly count: number;
}

function blank(plate: Raster): Raster {
  const { width, height } = plate, n = width * height * 4;
  return { width, height, channels: 4, data: plate.data instanceof Uint16Array ? new Uint16Array(n) : new Uint8Array(n) };
}

/**
 * Yields the number of each frame written; returns the files. Cancel by ending the generator: nothing is left behind.
 * @throws MediaError
 */
export async function* dress(job: DressJob): AsyncGenerator<number, string[]> {
  const { probe } = job, renderer = new Renderer();
  const encoder = await Encoder.open(job.out, {
    width: probe.width, height: probe.height, frameRate: probe.frameRate, firstNumber: probe.firstFrame + job.from,
    depth: probe.bitDepth > 8 ? 16 : 8, alpha: job.element,
  });
  let files: string[] | null = null;
  try {
    let frame = job.from;
    for await (const picture of decodeRgb(job.plate, probe, { from: job.from, count: job.count, seekable: job.seekable })) {
      const target = job.element ? blank(picture) : picture;
      for (const layer of job.layers) {
        const corners = layer.corners.get(frame);
        if (corners) renderer.over(target, await layer.fill.picture(frame), corners);
      }
      await encoder.write(target);
      yield frame++;
    }
    files = await encoder.close();
    return files;
  } finally {
    if (!files) await encoder.abort();
    for (const layer of job.layers) await layer.fill.close();
  }
}
