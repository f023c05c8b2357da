/**
 * The job of dressing: plate pictures through the renderer into an encoder, one by one; and of measuring what a dress
 * needs.
 */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Proposal } from '@yarlop/core/dress/match';
import { DressMeasure } from '@yarlop/core/dress/match';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import type { Show } from '@yarlop/core/dress/render';
import { isPass } from '@yarlop/core/dress/render';
import { transferOf } from '@yarlop/core/dress/colour/transfer';
import { COMMON_SHUTTER, smearOf } from '@yarlop/core/follow/timing/shutter';
import type { Point } from '@yarlop/core/geometry/point';
import type { Raster } from '@yarlop/core/image/image';
import { maxOf } from '@yarlop/core/image/image';
import { decodeRgb, isFloat } from '@yarlop/media/decode';
import { holdsFloats } from '@yarlop/media/encode';
import { FrameBuffers } from '@yarlop/media/frame-buffers';
import type { Probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { timecodeAfter } from '@yarlop/core/formats/timecode';
import type { FrameRenderer, Place, PlaneLayer, RenderOrder, ScreenLayer } from './render-frame';
import { OwnThread } from './render-frame';
import { OnThreads } from './render-threads';
import type { Loop } from './loop';
import { assertLoop, loopPictures, loopPlaces } from './loop';
import { InputError } from './pipeline-error';
import { writePictures } from './write-pictures';

export type { Place, ScreenLayer } from './render-frame';

export interface DressJob {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  /** back to front */
  readonly layers: readonly ScreenLayer[];
  /** other Screens on whose planes holdouts ride; none when left out */
  readonly planes?: readonly PlaneLayer[];
  readonly out: string;
  /** `element` is the fills alone, with alpha: straight, or multiplied into the colours */
  readonly show: Show;
  readonly premultiplied?: boolean;
  /** OpenEXR with 32 bits a channel instead of 16 */
  readonly fullFloat?: boolean;
  readonly hevc?: boolean;
  /** the plate's sound goes along: what to open */
  readonly sound?: readonly string[];
  readonly from: number;
  readonly count: number;
  /** the range is a loop, or a part of one */
  readonly loop?: Loop;
  /** the built `render-thread`, and how many to run; this thread alone when left out */
  readonly threads?: { readonly program: URL; readonly count: number };
}

/** Frames; shorter shots are done before threads have begun. By trial. */
const WORTH_THREADS = 6;

/**
 * Yields the number of each frame written; returns the files. Cancel by ending the generator: nothing is left behind.
 * @throws MediaError
 */
export async function* dress(job: DressJob): AsyncGenerator<number, string[]> {
  const { probe, show } = job;
  let depth: 8 | 16 | 32;
  if (holdsFloats(job.out)) depth = 32;
  else if (probe.bitDepth > 8) depth = 16;
  else depth = 8;
  if (isPass(show) && depth !== 32)
    throw new InputError('A pass holds light below black and beyond white; write it as NAME.%04d.exr.');
  const { loop = null } = job;
  if (loop) assertLoop(loop);
  const looped = <T extends PlaneLayer>(all: readonly T[]): readonly T[] =>
    loop ? all.map((l) => ({ ...l, places: loopPlaces(l.places, l.screen.pin, loop) })) : all;
  const layers = looped(job.layers);
  const planes = looped(job.planes ?? []);
  const order: RenderOrder = { probe, layers, planes, show, premultiplied: job.premultiplied ?? false, depth };
  const rate = probe.frameRate[0] / probe.frameRate[1];
  const timecode = probe.timecode && timecodeAfter(probe.timecode, job.from, probe.frameRate);
  return yield* writePictures(
    job.out,
    {
      width: probe.width,
      height: probe.height,
      frameRate: probe.frameRate,
      firstNumber: probe.firstFrame + job.from,
      depth,
      alpha: show === 'element' || show === 'pass-element',
      fullFloat: job.fullFloat ?? isFloat(probe),
      hevc: job.hevc ?? false,
      colour: probe.colour,
      ...(timecode ? { timecode } : {}),
      ...(job.sound ? { sound: { input: job.sound, from: job.from / rate, seconds: job.count / rate } } : {}),
    },
    rendered(job, order, loop),
  );
}

/** The frames in order, while threads are at work on those that follow. */
async function* rendered(
  { probe, threads, ...job }: DressJob,
  order: RenderOrder,
  loop: Loop | null,
): AsyncGenerator<readonly [number, Raster]> {
  const many = threads && job.count >= WORTH_THREADS && job.layers.length > 0;
  const ahead = many ? threads.count : 0;
  const renderer: FrameRenderer = many
    ? new OnThreads(threads.program, order, threads.count)
    : await OwnThread.open(order);
  const waiting: Promise<Raster>[] = [];
  const buffers = new FrameBuffers();
  async function* first(frame: number): AsyncGenerator<readonly [number, Raster]> {
    const picture = await waiting.shift()!;
    yield [frame, picture];
    buffers.give(picture.data);
  }
  try {
    let frame = job.from;
    let next = job.from;
    for await (const picture of loop
      ? loopPictures(job.plate, probe, loop, job, { seekable: job.seekable, buffers })
      : decodeRgb(job.plate, probe, { from: job.from, count: job.count, seekable: job.seekable, buffers })) {
      const made = renderer.render(next++, picture);
      made.catch(() => {});
      waiting.push(made);
      if (waiting.length > ahead) yield* first(frame++);
    }
    while (waiting.length > 0) yield* first(frame++);
  } finally {
    await renderer.close();
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

/** Frames that are looked at closely, spread over the shot; all of them are glanced at. By trial. */
const LOOKS = 16;

/** Yields frames as they are looked at; returns what to propose. @throws MediaError */
export async function* measureDress(job: MeasureJob): AsyncGenerator<number, Proposal[]> {
  const { screen, places, probe, from, count } = job;
  const aspect = slotAspect(screen.pin);
  const every = Math.max(1, Math.floor(count / LOOKS));
  const share = job.shutter ?? COMMON_SHUTTER;
  let measure: DressMeasure | null = null;
  let frame = from;
  for await (const picture of decodeRgb(job.plate, probe, { from, count, seekable: job.seekable })) {
    const here = places.get(frame);
    const before = places.get(frame - 1) ?? null;
    const after = places.get(frame + 1) ?? null;
    measure ??= new DressMeasure(maxOf(picture), transferOf(probe.colour.transfer), aspect, screen.referenceFrame);
    if (here) {
      const velocity = here.corners.map(
        (_, i): Point =>
          [0, 1].map(
            (k) => ((after ?? here).corners[i]![k]! - (before ?? here).corners[i]![k]!) / (before && after ? 2 : 1),
          ) as unknown as Point,
      );
      const sample = { frame, picture, corners: here.corners, moves: smearOf(here.corners, velocity, share).inFrame };
      measure.glance(sample);
      if ((frame - from) % every === 0 || frame === screen.referenceFrame) measure.look(sample);
    }
    yield frame++;
  }
  return measure?.proposals(job.shutter) ?? [];
}
