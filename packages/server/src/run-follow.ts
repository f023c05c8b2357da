/** Follows a Screen's shot, or a part of it, and tells what is found as it goes. */
import { existsSync } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import type { Mix } from '@yarlop/core/follow/picture/reading';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { LUMA, MEZZANINE, extractLuma, mezzanineProbe } from '@yarlop/media/ingest';
import { MediaError } from '@yarlop/media/media-error';
import { openSource } from '@yarlop/media/source';
import type { Way } from '@yarlop/pipeline/follow-shot';
import { followShot } from '@yarlop/pipeline/follow-shot';
import { frameInputs } from '@yarlop/pipeline/frame-inputs';
import { describeMix, mixFor } from '@yarlop/pipeline/reading';
import { followSetup } from '@yarlop/pipeline/screen-file';
import { readingsOfSections } from '@yarlop/pipeline/sections';
import type { LumaPlace } from '@yarlop/pipeline/threads';
import { onThreads } from '@yarlop/pipeline/threads';
import type { Checkpoint } from './rows';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import type { Direction, FollowTask, FollowedResult, Line, Outcome, Report } from './worker-protocol';

/** Frames are handed over in batches of about this long, ms. */
const BATCH_MS = 200;

async function colourFrame(task: FollowTask, frame: number): Promise<Raster | null> {
  const plate = await openSource(join(task.folder, MEZZANINE));
  try {
    for await (const picture of decodeRgb(plate, mezzanineProbe(task.media.probe), {
      seekable: true,
      from: frame,
      count: 1,
    }))
      return picture;
    return null;
  } finally {
    await plate.dispose();
  }
}

/**
 * Reads a mix of the channels out of the mezzanine, once: later runs find it beside the luma. @returns null when it was
 * cancelled
 */
async function readMix(task: FollowTask, mix: Mix, line: Line): Promise<string | null> {
  const path = join(task.folder, `mix-${mix.map((w) => w.toFixed(2)).join('-')}.raw`);
  if (existsSync(path)) return path;
  const plate = await openSource(join(task.folder, MEZZANINE));
  const part = `${path}.${process.pid}.part`;
  try {
    await extractLuma(plate, mezzanineProbe(task.media.probe), part, line.cancelled, { mix });
    await rename(part, path);
    return path;
  } catch (e) {
    if (e instanceof MediaError && e.code === 'cancelled') return null;
    throw e;
  } finally {
    await rm(part, { force: true });
    await plate.dispose();
  }
}

function whyFromAnchor(frame: number): string {
  return `Followed again from frame ${frame}: on the reference frame the Screen is smeared by its movement.`;
}

function whatWasLearnt({ lens, readout }: FollowSetup): string {
  const of = [
    ...(lens ? [`the lens bows the picture (radial term ${lens.toFixed(3)})`] : []),
    ...(readout ? [`the sensor reads its rows over ${Math.round(100 * readout)} % of a frame`] : []),
  ];
  return of.length > 0
    ? `Followed again: ${of.join(', and ')}, which was learnt on the way.`
    : 'Followed again with what was learnt of the camera on the way.';
}

/** What was found and not handed over yet, by direction. */
class Batches {
  private results = new Map<Direction, FollowedResult[]>();
  private checkpoints = new Map<Direction, Checkpoint>();
  private spoken = Date.now();

  /** @param of what the frames are: see {@link Report} @param inputs what each is followed with */
  constructor(
    private readonly line: Line,
    readonly of: Pick<Extract<Report, { type: 'frames' }>, 'isSteadied' | 'isAnew'>,
    private readonly inputs: ReturnType<typeof frameInputs>,
  ) {}

  add(direction: Direction, result: FrameResult): void {
    // What was not found on the steadied plate stays as it was found first.
    if (this.of.isSteadied && !result.homography) return;
    const followed = { ...result, inputs: this.inputs?.(result.frame) ?? null };
    this.results.set(direction, [...(this.results.get(direction) ?? []), followed]);
  }

  /** Where a direction may be taken up again. */
  mark(direction: Direction, checkpoint: Checkpoint): void {
    this.checkpoints.set(direction, checkpoint);
  }

  get isDue(): boolean {
    return Date.now() - this.spoken > BATCH_MS;
  }

  /** @param done frames that are followed */
  handOver(done: number): void {
    for (const [direction, results] of this.results)
      if (results.length > 0)
        this.line.say({
          type: 'frames',
          direction,
          results,
          ...this.of,
          checkpoint: this.checkpoints.get(direction) ?? null,
          done,
        });
    this.results.clear();
    this.spoken = Date.now();
  }
}

/** The frame at which a direction is taken up. */
function beginOf({ begins, recipe }: FollowTask, direction: Direction): number {
  const begin = begins[direction];
  return begin?.checkpoint?.frame ?? begin?.start?.[0]?.frame ?? recipe.referenceFrame;
}

/** The directions in which there is anything to follow. */
function waysOf(task: FollowTask): Way[] {
  const { referenceFrame } = task.recipe;
  const distance = (frame: number): number => Math.abs(frame - referenceFrame);
  const ways = task.directions.map((direction): Way => ({
    direction,
    end: direction === 'forwards' ? task.to : task.from,
    begin: task.begins[direction] ?? {},
  }));
  const open = ways.filter((w) => distance(beginOf(task, w.direction)) < distance(w.end));
  const isReferenceAlone = open.length === 0 && ways.length > 0 && task.from === task.to;
  return isReferenceAlone ? ways.filter((w) => w.direction === 'forwards') : open;
}

/** Frames that are followed before a run begins. */
function followedBefore(task: FollowTask): number {
  const { referenceFrame } = task.recipe;
  return task.directions.reduce((sum, d) => sum + Math.abs(beginOf(task, d) - referenceFrame), 1);
}

/** Follows, and hands over what is found: why a direction halted is said by its last frame. @returns what came of it */
async function followed(
  task: FollowTask,
  files: Pick<LumaPlace, 'path' | 'others'>,
  line: Line,
): Promise<{ isStopped: boolean; message: string | null; done: number }> {
  const { probe, frameCount } = task.media;
  const { width, height, bitDepth } = probe;
  const { referenceFrame } = task.recipe;
  const { passing, keepLooking } = task;
  const setup = { ...followSetup(task.recipe, { width, height, frameCount }), passing, halts: !keepLooking };
  const inputs = frameInputs(task.recipe, passing);
  const first = followedBefore(task);
  let done = first;
  let batches = new Batches(line, { isSteadied: false, isAnew: false }, inputs);
  const run = {
    setup,
    referenceFrame,
    width,
    height,
    ways: waysOf(task),
    follow: onThreads(new URL('./direction-thread.mjs', import.meta.url), { ...files, width, height, bitDepth }),
    isWhole: Object.values(task.begins).every((b) => !b.checkpoint && !b.start),
    steadied: task.steadied,
    known: task.known,
    isCancelled: () => line.cancelled(),
    looked: (_frame: number, count: number) => {
      if (!batches.isDue) return;
      batches.handOver(done);
      line.say({ type: 'progress', done: Math.min(count, done) });
    },
  };
  const { own, isStopped, anchor } = await followShot(run, (step) => {
    const { result, direction, halts: stops, isSteadied } = step;
    const isAnew = step.runs > 1;
    if (isAnew !== batches.of.isAnew || isSteadied !== batches.of.isSteadied) {
      batches.handOver(done);
      batches = new Batches(line, { isSteadied, isAnew }, inputs);
      if (isAnew && step.state) done = first;
    }
    batches.add(direction, result);
    if (step.again) return;
    if (result.frame !== referenceFrame || isSteadied) done++;
    if (step.state && !stops && !isSteadied) batches.mark(direction, { frame: result.frame, state: step.state() });
    if (batches.isDue || stops || line.cancelled()) batches.handOver(done);
  });
  if (!isStopped) batches.handOver(done);
  const learnt = own === setup ? null : whatWasLearnt(own);
  return { isStopped, message: anchor === null ? learnt : whyFromAnchor(anchor), done };
}

/** What a recipe is read from, and where that lies; no path when it was cancelled. */
async function readingOf(
  task: FollowTask,
  recipe: FollowTask['recipe'],
  line: Line,
): Promise<{ readonly mix: Mix | null; readonly path: string | null }> {
  const mix = await mixFor(recipe, () => colourFrame(task, recipe.referenceFrame));
  return { mix, path: mix ? await readMix(task, mix, line) : join(task.folder, LUMA) };
}

/** Where the pictures of sections lie that are read otherwise, by reading; null when it was cancelled. */
async function sectionPaths(task: FollowTask, line: Line): Promise<Record<string, string> | null> {
  const paths: Record<string, string> = {};
  for (const reading of readingsOfSections(task.recipe)) {
    const { path } = await readingOf(task, { ...task.recipe, reading }, line);
    if (path === null) return null;
    paths[reading] = path;
  }
  return paths;
}

/** Follows what a task says. */
export async function runFollow(task: FollowTask, line: Line): Promise<Outcome> {
  const { mix, path } = await readingOf(task, task.recipe, line);
  if (path === null) return { kind: 'cancelled' };
  const others = await sectionPaths(task, line);
  if (others === null) return { kind: 'cancelled' };
  const { isStopped, message, done } = await followed(task, { path, others }, line);
  if (isStopped) return { kind: 'cancelled' };
  const isMixed = mix && (task.recipe.reading ?? 'auto') === 'auto';
  return { kind: 'follow', done, message: isMixed ? describeMix(mix) : message };
}
