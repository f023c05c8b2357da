/**
 * The job of dressing: plate pictures through the renderer into an encoder, one by one; and of measuring what a dress
 * needs.
 */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Proposal } from '@yarlop/core/dress/match';
import { DressMeasure } from '@yarlop/core/dress/match';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { stillFrames } from '@yarlop/core/dress/layer/recipe';
import type { Show } from '@yarlop/core/dress/render';
import { isPass } from '@yarlop/core/dress/render';
import { transferOf } from '@yarlop/core/dress/colour/transfer';
import { COMMON_SHUTTER, smearOf } from '@yarlop/core/follow/timing/shutter';
import type { Point } from '@yarlop/core/geometry/point';
import type { Raster } from '@yarlop/core/image/image';
import { maxOf } from '@yarlop/core/image/image';
import { decodeRgb, isFloat } from '@yarlop/media/decode';
import type { EncodeOptions } from '@yarlop/media/encode';
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

/** What holds of every piece of a delivery. */
export interface DressWork {
  readonly plate: Source;
  readonly probe: Probe;
  readonly seekable: boolean;
  /** back to front */
  readonly layers: readonly ScreenLayer[];
  /** other Screens on whose planes holdouts ride; none when left out */
  readonly planes?: readonly PlaneLayer[];
  /** `element` is the fills alone, with alpha: straight, or multiplied into the colours */
  readonly show: Show;
  readonly premultiplied?: boolean;
  /** OpenEXR with 32 bits a channel instead of 16 */
  readonly fullFloat?: boolean;
  readonly hevc?: boolean;
  /** the plate's sound goes along: what to open */
  readonly sound?: readonly string[];
  /** the range is a loop, or a part of one */
  readonly loop?: Loop;
  /** the built `render-thread`, and how many to run; this thread alone when left out */
  readonly threads?: { readonly program: URL; readonly count: number };
}

/** Frames that are written as one clip or sequence. */
export interface Piece {
  readonly out: string;
  readonly from: number;
  readonly count: number;
}

export type DressJob = DressWork & Piece;

/** Frames; shorter shots are done before threads have begun. By trial. */
const WORTH_THREADS = 6;

/** Bits of a sample that is written. */
function depthOf(out: string, probe: Probe): 8 | 16 | 32 {
  if (holdsFloats(out)) return 32;
  return probe.bitDepth > 8 ? 16 : 8;
}

/** The frames of the plate from which marks are painted out. @throws MediaError */
async function stillsOf({ plate, probe, seekable, layers }: DressWork): Promise<RenderOrder['stills']> {
  const frames = new Set(layers.flatMap((l) => stillFrames((l.screen.dress ?? {}) as DressRecipe)));
  const stills: Record<number, Raster> = {};
  for (const from of frames)
    for await (const picture of decodeRgb(plate, probe, { from, count: 1, seekable }))
      stills[from] = { ...picture, data: picture.data.slice() };
  return stills;
}

/** What the threads need to know of a delivery. */
function orderOf(job: DressWork, depth: 8 | 16 | 32, stills: RenderOrder['stills']): RenderOrder {
  const { loop, probe, show, premultiplied = false } = job;
  const looped = <T extends PlaneLayer>(all: readonly T[]): readonly T[] =>
    loop ? all.map((l) => ({ ...l, places: loopPlaces(l.places, l.screen.pin, loop) })) : all;
  return { probe, layers: looped(job.layers), planes: looped(job.planes ?? []), stills, show, premultiplied, depth };
}

function encodingOf(job: DressWork, { from, count }: Piece, depth: 8 | 16 | 32): EncodeOptions {
  const { probe, show, sound } = job;
  const rate = probe.frameRate[0] / probe.frameRate[1];
  const timecode = probe.timecode && timecodeAfter(probe.timecode, from, probe.frameRate);
  return {
    width: probe.width,
    height: probe.height,
    frameRate: probe.frameRate,
    firstNumber: probe.firstFrame + from,
    depth,
    alpha: show === 'element' || show === 'pass-element',
    fullFloat: job.fullFloat ?? isFloat(probe),
    hevc: job.hevc ?? false,
    colour: probe.colour,
    ...(timecode ? { timecode } : {}),
    ...(sound ? { sound: { input: sound, from: from / rate, seconds: count / rate } } : {}),
  };
}

/** The next `count` pictures of a stream, which is left open for those after them. */
async function* taken<T>(pictures: AsyncGenerator<T>, count: number): AsyncGenerator<T> {
  for (let i = 0; i < count; i++) {
    const next = await pictures.next();
    if (next.done) return;
    yield next.value;
  }
}

/**
 * Yields the number of each frame written; returns the files. Cancel by ending the generator: nothing is left behind.
 * @throws MediaError
 */
export function dress(job: DressJob): AsyncGenerator<number, string[]> {
  return dressPieces(job, [job]);
}

/**
 * As {@link dress}, in pieces that follow on one another: plate and fills are opened once, and a piece that is written
 * stays when the generator is ended.
 * @param pieces all of one kind of file
 */
export async function* dressPieces(job: DressWork, pieces: readonly Piece[]): AsyncGenerator<number, string[]> {
  const [first] = pieces;
  if (!first) return [];
  const depth = depthOf(first.out, job.probe);
  if (isPass(job.show) && depth !== 32)
    throw new InputError('A pass holds light below black and beyond white; write it as NAME.%04d.exr.');
  if (job.loop) assertLoop(job.loop);
  const count = pieces.reduce((n, p) => n + p.count, 0);
  const pictures = rendered({ ...job, from: first.from, count }, orderOf(job, depth, await stillsOf(job)));
  const files: string[] = [];
  try {
    for (const piece of pieces)
      files.push(...(yield* writePictures(piece.out, encodingOf(job, piece, depth), taken(pictures, piece.count))));
  } finally {
    await pictures.return(undefined);
  }
  return files;
}

/** The frames in order, while threads are at work on those that follow. */
async function* rendered(
  { probe, threads, loop, ...job }: Omit<DressJob, 'out'>,
  order: RenderOrder,
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
  /** radial term of the lens, on half the picture's width; 0 where it bows nothing */
  readonly lens: number;
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
  const lens = job.lens === 0 ? null : { radial: job.lens, width: probe.width, height: probe.height };
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
      const { inFrame } = smearOf(here.corners, velocity, share);
      const sample = { frame, picture, corners: here.corners, moves: inFrame, lens };
      measure.glance(sample);
      if ((frame - from) % every === 0 || frame === screen.referenceFrame) measure.look(sample);
    }
    yield frame++;
  }
  return measure?.proposals(job.shutter) ?? [];
}
