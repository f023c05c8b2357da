/** Runs one job in a worker thread: the heavy computation, away from the server's own thread. */
import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { CoreError } from '@yarlop/core/errors';
import type { Mix } from '@yarlop/core/follow/reading';
import type { FollowSetup, FollowerState } from '@yarlop/core/follow/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { ABSENT } from '@yarlop/core/solve/frame-result';
import { snapToGlass } from '@yarlop/core/pin/snap-to-glass';
import { flatten } from '@yarlop/core/proof/flat-view';
import { ContractError } from '@yarlop/contracts/validate';
import type { Raster } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { MEZZANINE, LUMA, extractLuma, ingest, mezzanineProbe } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import { MediaError } from '@yarlop/media/media-error';
import { openSource } from '@yarlop/media/source';
import { measureDress } from '@yarlop/pipeline/dress';
import { bothWays, untilSettled } from '@yarlop/pipeline/follow';
import type { ProvedFrame } from '@yarlop/pipeline/prove';
import { blursOn, likenessesOf, measureSlips, slipsOn } from '@yarlop/pipeline/prove';
import { followSpot } from '@yarlop/pipeline/spot-run';
import { onThreads } from '@yarlop/pipeline/threads';
import { describeMix, mixFor } from '@yarlop/pipeline/reading';
import { followSetup } from '@yarlop/pipeline/screen-file';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { Checkpoint } from './rows';
import { giveWay } from './give-way';
import { runDeliver } from './run-deliver';
import { runStill } from './run-still';
import { openOriginal } from './use-cases/library';
import type {
  Call,
  Direction,
  FlatTask,
  FollowTask,
  IngestTask,
  Line,
  MatchTask,
  Outcome,
  ProveTask,
  SlipTask,
  SnapTask,
  SpotTask,
} from './worker-protocol';

/** Frames are handed over in batches of about this long, ms. */
const BATCH_MS = 200;

async function runIngest(task: IngestTask, line: Line): Promise<Outcome> {
  await mkdir(task.folder, { recursive: true });
  const source = await openOriginal(task.original, task.media);
  try {
    const { frameCount, damaged, notes } = await ingest(
      source,
      task.media.probe,
      task.folder,
      (done) => line.say({ type: 'progress', done }),
      line.cancelled,
    );
    return { kind: 'ingest', frameCount, damaged, notes: [...task.media.probe.notes, ...notes] };
  } finally {
    await source.dispose();
  }
}

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

function whatWasLearnt({ lens, readout }: FollowSetup): string {
  const of = [
    ...(lens ? [`the lens bows the picture (radial term ${lens.toFixed(3)})`] : []),
    ...(readout ? [`the sensor reads its rows over ${Math.round(100 * readout)} % of a frame`] : []),
  ];
  return of.length > 0
    ? `Followed again: ${of.join(', and ')}, which was learnt on the way.`
    : 'Followed again with what was learnt of the camera on the way.';
}

async function runFollow(task: FollowTask, line: Line): Promise<Outcome> {
  const { probe } = task.media;
  const mix = await mixFor(task.recipe, () => colourFrame(task, task.recipe.referenceFrame));
  const path = mix ? await readMix(task, mix, line) : join(task.folder, LUMA);
  if (path === null) return { kind: 'cancelled' };
  const luma = await LumaFile.open(path, probe.width, probe.height, probe.bitDepth);
  const referenceFrame = task.recipe.referenceFrame;
  const setup = { ...followSetup(task.recipe, luma), halts: !task.keepLooking };
  const halts: string[] = [];
  await luma.close();
  const follow = onThreads(new URL('./direction-thread.mjs', import.meta.url), {
    path,
    width: probe.width,
    height: probe.height,
    bitDepth: probe.bitDepth,
  });
  const distance = (frame: number): number => Math.abs(frame - referenceFrame);
  const end = (d: Direction): number => (d === 'forwards' ? task.to : task.from);
  const begin = (d: Direction): number => task.starts[d]?.[0]?.frame ?? task[d]?.frame ?? referenceFrame;
  const open = task.directions.filter((d) => distance(begin(d)) < distance(end(d)));
  if (open.length === 0 && task.directions.length > 0 && task.from === task.to) open.push('forwards');
  let done = 1 + task.directions.reduce((s, d) => s + distance(begin(d)), 0);
  const first = done;
  const found = new Map<number, FrameResult>();

  /** @returns the followers' last memories, or null when it was cancelled */
  async function pass(own: FollowSetup, fresh: boolean): Promise<FollowerState[] | null> {
    const batches = new Map<Direction, FrameResult[]>(open.map((d) => [d, []]));
    const last = new Map<Direction, FollowerState>();
    const checkpoints = new Map<Direction, Checkpoint>();
    let spoken = Date.now();
    const flush = (): void => {
      for (const [direction, results] of batches) {
        if (results.length > 0)
          line.say({ type: 'frames', direction, results, checkpoint: checkpoints.get(direction) ?? null, done });
        batches.set(direction, []);
      }
      spoken = Date.now();
    };
    const runs = open.map((d) => {
      const start = task.starts[d];
      const checkpoint = task[d];
      const resumed = checkpoint ? { checkpoint } : {};
      const begun = start ? { start } : resumed;
      return [
        d,
        {
          setup: own,
          referenceFrame,
          end: end(d),
          ...(fresh ? {} : begun),
        },
      ] as const;
    });
    const halted = new Set<Direction>();
    for await (const { result, again, state, direction } of bothWays(runs, follow)) {
      if (halted.has(direction)) continue;
      batches.get(direction)!.push(result);
      found.set(result.frame, result);
      if (again) continue;
      if (result.frame !== referenceFrame) done++;
      const stops = !result.homography && result.reason !== ABSENT && !task.keepLooking;
      if (stops) {
        halts.push(`Halted ${direction} at frame ${result.frame}: ${result.reason}`);
        halted.add(direction);
      } else {
        last.set(direction, state());
        // A run over frames that were followed before leaves the farther memory as it is.
        if (fresh || distance(result.frame) > distance(task[direction]?.frame ?? referenceFrame))
          checkpoints.set(direction, { frame: result.frame, state: state() });
      }
      if (Date.now() - spoken > BATCH_MS || line.cancelled() || stops) flush();
      if (line.cancelled()) return null;
      if (halted.size === open.length) break;
    }
    flush();
    return [...last.values()];
  }

  let fresh = Object.keys(task.starts).length === 0 && !task.forwards && !task.backwards;
  const { own, states } = await untilSettled(setup, found, async (s, runs) => {
    if (runs > 1) done = first;
    const told = await pass(s, runs > 1);
    // A part of a shot, or one that halted, is not followed again with what it told.
    if (runs === 1) fresh &&= halts.length === 0;
    return told && (fresh ? told : []);
  });
  if (!states) return { kind: 'cancelled' };
  const learnt = own === setup ? null : whatWasLearnt(own);
  const mixed = mix && (task.recipe.reading ?? 'auto') === 'auto' ? describeMix(mix) : learnt;
  return { kind: 'follow', done, message: halts.length > 0 ? halts.join(' ') : mixed };
}

function runSpot(task: SpotTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    let done = 0;
    for await (const { frame, at, sigma, reason } of followSpot(task.recipe, task.spot, task.start, task.end, luma)) {
      line.say({ type: 'spot', done: ++done, word: { frame, at, sigma, reason } });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'spot' };
  });
}

const round = (v: number): number => Number(v.toFixed(4));

function proofFrame({ frame, slips }: ProvedFrame): ProofFrame {
  return {
    frame,
    by: slips.map((s) => s.by && [round(s.by[0]), round(s.by[1])]),
    sigma: slips.map((s) => (Number.isFinite(s.sigma) ? round(s.sigma) : null)),
    likeness: slips.map((s) => (Number.isFinite(s.likeness) ? round(s.likeness) : 0)),
    reason: slips.map((s) => s.reason),
  };
}

/** Works on the luma of a plate that is read in, and closes it. */
async function onLuma<T>(
  { folder, media: { probe } }: { readonly folder: string; readonly media: FollowTask['media'] },
  work: (luma: LumaFile) => Promise<T>,
): Promise<T> {
  const luma = await LumaFile.open(join(folder, LUMA), probe.width, probe.height, probe.bitDepth);
  try {
    return await work(luma);
  } finally {
    await luma.close();
  }
}

function runProve(task: ProveTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    const frames: ProofFrame[] = [];
    for await (const f of measureSlips(task.path, task.pin, task.referenceFrame, task.likenesses, luma)) {
      frames.push(proofFrame(f));
      line.say({ type: 'progress', done: frames.length });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'prove', frames, done: frames.length };
  });
}

function runSlip(task: SlipTask): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    const i = task.path.findIndex((f) => f.frame === task.frame);
    const { frame, homography } = task.path[i]!;
    const looks = await likenessesOf(task.path, task.pin, task.referenceFrame, task.likenesses, luma);
    const slips = slipsOn(looks, await luma.read(frame), homography, task.pin, blursOn(task.path, task.pin, i));
    return { kind: 'slip', frame: proofFrame({ frame, slips, by: slips.map((s) => s.by) }) };
  });
}

function runSnap({ frame, corners, exclude, lens, ...task }: SnapTask): Promise<Outcome> {
  const { width, height } = task.media.probe;
  return onLuma(task, async (luma) => ({
    kind: 'snap',
    snapped: snapToGlass(await luma.read(frame), corners, {
      ...(exclude ? { exclude } : {}),
      ...(lens === null ? {} : { lens: { radial: lens, width, height } }),
    }),
  }));
}

function runFlat(task: FlatTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    for (const [i, corners] of task.corners.entries()) {
      const data = new Uint8ClampedArray(task.area.width * task.area.height);
      if (corners) flatten(await luma.read(task.from + i), task.area, corners, data);
      line.say({ type: 'flat', done: i + 1, data });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'flat' };
  });
}

async function runMatch(task: MatchTask, line: Line): Promise<Outcome> {
  const plate = await openSource(join(task.folder, MEZZANINE));
  const probe = mezzanineProbe(task.media.probe);
  try {
    const job = measureDress({
      plate,
      probe,
      seekable: true,
      screen: task.recipe,
      places: new Map(task.places.map((p) => [p.frame, p])),
      shutter: task.shutter,
      from: task.from,
      count: task.to - task.from + 1,
    });
    for (let n = 1; ; n++) {
      const { done, value } = await job.next();
      if (done) return { kind: 'match', proposals: value };
      line.say({ type: 'progress', done: n });
      if (line.cancelled()) {
        await job.return([]);
        return { kind: 'cancelled' };
      }
    }
  } finally {
    await plate.dispose();
  }
}

giveWay();

export default async function work({ task, port, cancel }: Call): Promise<Outcome> {
  const flag = new Int32Array(cancel);
  const line: Line = { say: (r) => port.postMessage(r), cancelled: () => Atomics.load(flag, 0) === 1 };
  try {
    if (task.kind === 'ingest') return await runIngest(task, line);
    if (task.kind === 'follow') return await runFollow(task, line);
    if (task.kind === 'prove') return await runProve(task, line);
    if (task.kind === 'deliver') return await runDeliver(task, line);
    if (task.kind === 'still') return await runStill(task);
    if (task.kind === 'spot') return await runSpot(task, line);
    if (task.kind === 'slip') return await runSlip(task);
    if (task.kind === 'match') return await runMatch(task, line);
    return await (task.kind === 'snap' ? runSnap(task) : runFlat(task, line));
  } catch (e) {
    if (e instanceof MediaError && e.code === 'cancelled') return { kind: 'cancelled' };
    const told =
      e instanceof MediaError || e instanceof CoreError || e instanceof InputError || e instanceof ContractError;
    const full = (e as NodeJS.ErrnoException).code === 'ENOSPC';
    let message = `The job failed unexpectedly (${(e as Error).message}).`;
    if (told) message = (e as Error).message;
    else if (full) message = 'The disk is full; free some space and try again.';
    return { kind: 'failed', ...(e instanceof CoreError ? { code: e.code } : {}), message };
  } finally {
    line.say({ type: 'end' });
    port.close();
  }
}
