/** The job of dressing: plate pictures through the renderer into an encoder, one by one; and of measuring what a dress needs. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { readingOf } from '@yarlop/core/dress/fill-pyramid';
import { fillPicture } from '@yarlop/core/dress/fill-time';
import type { Proposal } from '@yarlop/core/dress/match';
import { DressMeasure } from '@yarlop/core/dress/match';
import { slotAspect } from '@yarlop/core/dress/placement';
import type { DressRecipe } from '@yarlop/core/dress/recipe';
import type { Layer, Show } from '@yarlop/core/dress/render';
import { Renderer } from '@yarlop/core/dress/render';
import { transferOf } from '@yarlop/core/dress/transfer';
import { COMMON_SHUTTER, smearOf } from '@yarlop/core/follow/shutter';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import { maxOf } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { Encoder } from '@yarlop/media/encode';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import type { FillReader } from './read-fill';

/** Where a Screen is on a frame. */
export interface Place {
  readonly corners: Quad;
  /** reference frame to frame */
  readonly homography: Matrix3;
}

export interface ScreenLayer {
  readonly screen: ScreenFile;
  /** by frame; a frame without a place shows the plate */
  readonly places: ReadonlyMap<number, Place>;
  readonly fill: FillReader;
  /** share of a frame's time that the shutter is open, where it was estimated */
  readonly shutter: number | null;
  /** radial term of the lens, on half the picture's width; 0 where it bows nothing */
  readonly lens: number;
}

export interface DressJob {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  /** back to front */
  readonly layers: readonly ScreenLayer[];
  readonly out: string;
  /** `element` is the fills alone, with straight alpha */
  readonly show: Show;
  readonly from: number;
  readonly count: number;
}

function blank(plate: Raster): Raster {
  const { width, height } = plate, n = width * height * 4;
  return { width, height, channels: 4, data: plate.data instanceof Uint16Array ? new Uint16Array(n) : new Uint8Array(n) };
}

/** One Screen on one frame as the renderer takes it; null where it is not. */
async function layerOn({ screen, places, fill, shutter, lens }: ScreenLayer, frame: number, plate: Probe): Promise<Layer | null> {
  const here = places.get(frame), dress = (screen.dress ?? {}) as DressRecipe;
  if (!here) return null;
  const reading = readingOf(dress.levels, frame, { tag: fill.probe.colour.transfer, set: screen.fill?.transfer }, plate.colour.transfer), rate = plate.frameRate[0] / plate.frameRate[1];
  const picture = await fill.picture(fillPicture(screen.fill ?? {}, frame, Math.max(1, fill.probe.frameCount), fill.probe.frameRate, plate.frameRate), reading);
  return {
    fill: picture, corners: here.corners, before: places.get(frame - 1)?.corners ?? null, after: places.get(frame + 1)?.corners ?? null, pin: screen.pin, plane: here.homography, referenceFrame: screen.referenceFrame,
    dress, frame, frameRate: rate, lens: lens === 0 ? null : { radial: lens, width: plate.width, height: plate.height }, ...(shutter === null ? {} : { shutter }),
  };
}

/**
 * Yields the number of each frame written; returns the files. Cancel by ending the generator: nothing is left behind.
 * @throws MediaError
 */
export async function* dress(job: DressJob): AsyncGenerator<number, string[]> {
  const { probe, show } = job, renderer = new Renderer(), transfer = transferOf(probe.colour.transfer);
  const encoder = await Encoder.open(job.out, {
    width: probe.width, height: probe.height, frameRate: probe.frameRate, firstNumber: probe.firstFrame + job.from,
    depth: probe.bitDepth > 8 ? 16 : 8, alpha: show === 'element',
  });
  let files: string[] | null = null;
  try {
    let frame = job.from;
    for await (const picture of decodeRgb(job.plate, probe, { from: job.from, count: job.count, seekable: job.seekable })) {
      const target = show === 'element' ? blank(picture) : picture, layers: Layer[] = [];
      for (const layer of job.layers) {
        const l = await layerOn(layer, frame, probe);
        if (l) layers.push(l);
      }
      renderer.render(picture, layers, target, { transfer, show });
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

export interface MeasureJob {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  readonly screen: ScreenFile;
  readonly places: ReadonlyMap<number, Place>;
  readonly shutter: number | null;
  readonly from: number;
  readonly count: number;
}

/** Frames that are looked at closely, spread over the shot; all of them are glanced at. */
const LOOKS = 16;

/** Yields frames as they are looked at; returns what to propose. @throws MediaError */
export async function* measureDress(job: MeasureJob): AsyncGenerator<number, Proposal[]> {
  const { screen, places, probe, from, count } = job, aspect = slotAspect(screen.pin);
  const every = Math.max(1, Math.floor(count / LOOKS)), share = job.shutter ?? COMMON_SHUTTER;
  let measure: DressMeasure | null = null, frame = from;
  for await (const picture of decodeRgb(job.plate, probe, { from, count, seekable: job.seekable })) {
    const here = places.get(frame), before = places.get(frame - 1) ?? null, after = places.get(frame + 1) ?? null;
    measure ??= new DressMeasure(maxOf(picture), transferOf(probe.colour.transfer), aspect, screen.referenceFrame);
    if (here) {
      const velocity = here.corners.map((_, i): Point => [0, 1].map((k) => ((after ?? here).corners[i]![k]! - (before ?? here).corners[i]![k]!) / (before && after ? 2 : 1)) as unknown as Point), sample = { frame, picture, corners: here.corners, moves: smearOf(here.corners, velocity, share).inFrame };
      measure.glance(sample);
      if ((frame - from) % every === 0 || frame === screen.referenceFrame) measure.look(sample);
    }
    yield frame++;
  }
  return measure?.proposals(job.shutter) ?? [];
}
