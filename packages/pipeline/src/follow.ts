/**
 * The job of following, in one direction: frames in through a port, results out one by one, so that a caller can show,
 * store, cancel and take up again. The command line and the server run this same code.
 */
import { CoreError } from '@yarlop/core/errors';
import type { FollowerState, FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { wayOf } from '@yarlop/core/solve/frame-result';
import { isPresent } from '@yarlop/core/follow/memory/follower-state';
import type { Gap } from '@yarlop/core/follow/memory/path';
import { Follower } from '@yarlop/core/follow/follower';
import type { SecondLook } from '@yarlop/core/follow/frame/second-look';
import type { ShutterMemory } from '@yarlop/core/follow/timing/shutter';
import { NO_SHUTTER_MEMORY, shutterToRepeatWith } from '@yarlop/core/follow/timing/shutter';
import { setupsOf } from '@yarlop/core/follow/memory/sections';
import { RADIAL, likeliest, readoutToRepeatWith, together } from '@yarlop/core/follow/evidence/camera-evidence';
import type { RawLuma } from '@yarlop/core/image/image';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { FramePort } from './frame-port';
import { portFor, readOn } from './frame-port';

export type Direction = 'forwards' | 'backwards';

export interface DirectionRun {
  readonly setup: FollowSetup;
  readonly referenceFrame: number;
  /** the last frame of the run; before the reference for a backward run, the reference itself for nothing but it */
  readonly end: number;
  /** go on from here instead of from the reference */
  readonly checkpoint?: { readonly frame: number; readonly state: FollowerState };
  /** begin after solved frames instead of after the reference: newest first, in the run's own order */
  readonly start?: readonly { readonly frame: number; readonly corners: Quad }[];
}

export interface Step {
  readonly result: FrameResult;
  /** a frame that was lost, looked at again from where the screen was found beyond it */
  readonly again?: boolean;
  /** the follower's memory after this frame */
  readonly state: () => FollowerState;
}

/** Yields every frame after the reference (or after the checkpoint or start) to the end, whether found or not. */
export async function* followDirection(run: DirectionRun, frames: FramePort): AsyncGenerator<Step> {
  const begin = run.checkpoint?.frame ?? run.start?.[0]?.frame;
  const setupOn = setupsOf(run.setup);
  let own = { ...run, setup: setupOn(begin ?? run.referenceFrame) };
  let port = portFor(own.setup, frames);
  let placed = await placedFrames(own.setup, port);
  let follower = await followerAt(own, port, placed);
  if (begin === undefined) yield { result: follower.referenceResult(frames.width), state: () => follower.state };
  for await (const { frame: n, luma } of readOn(begin ?? run.referenceFrame, run.end, (f) =>
    portFor(setupOn(f), frames),
  )) {
    const setup = setupOn(n);
    if (setup !== own.setup) {
      // What waits is looked at with what it was followed with.
      yield* lookAgain(own, follower, true, port, placed);
      own = { ...own, setup };
      port = portFor(setup, frames);
      placed = await placedFrames(setup, port);
      follower = await followerFrom(follower, own, n, port, placed);
    }
    const result = isPresent(setup, n) ? follower.step(n, luma) : follower.absent(n);
    const isHalt = haltsAt(setup, result);
    // Before the frame that ends the stretch: a run taken up from the checkpoint before it comes by here again.
    yield* lookAgain(own, follower, n === run.end || isHalt, port, placed);
    yield { result, state: () => follower.state };
    if (isHalt) return;
  }
}

type Placed = readonly { readonly frame: number; readonly luma: RawLuma }[];

/** A follower that saw the reference frame alone. */
async function freshFollower(
  { setup, referenceFrame }: Pick<DirectionRun, 'setup' | 'referenceFrame'>,
  frames: FramePort,
  placed: Placed,
): Promise<Follower> {
  return new Follower(setup, referenceFrame, await frames.read(referenceFrame), placed);
}

/**
 * A follower that goes on where another one stands, with other settings. @throws CoreError that names the section whose
 * settings do not do
 */
async function followerFrom(
  before: Follower,
  run: DirectionRun,
  frame: number,
  frames: FramePort,
  placed: Placed,
): Promise<Follower> {
  const own = await freshFollower(run, frames, placed).catch((e: unknown) => {
    throw e instanceof CoreError ? new CoreError(e.code, `From frame ${frame} on: ${e.message}`) : e;
  });
  await own.takeOver(before, (n) => frames.read(n));
  return own;
}

/** A follower where a run begins. */
async function followerAt(run: DirectionRun, frames: FramePort, placed: Placed): Promise<Follower> {
  const follower = await freshFollower(run, frames, placed);
  if (run.checkpoint) await follower.resume(run.checkpoint.state, (n) => frames.read(n));
  else if (run.start) follower.startFrom(run.start);
  return follower;
}

/** Whether a run ends with a frame: it is to halt where the Screen cannot be vouched for. */
export function haltsAt(setup: FollowSetup, { frame, homography }: FrameResult): boolean {
  return setup.halts === true && !homography && isPresent(setup, frame);
}

/** What is found anew on frames before, now that the way beyond them is known. @param last no further frame will tell more */
async function* lookAgain(
  run: DirectionRun,
  follower: Follower,
  last: boolean,
  frames: FramePort,
  placed: Placed,
): AsyncGenerator<Step> {
  const state = (): FollowerState => follower.state;
  const gap = follower.takeGap(last);
  if (gap)
    for await (const result of lookBack(run, gap, follower.state, frames, placed)) {
      follower.amend(result);
      yield { result, again: true, state };
    }
  follower.closeStretch(last);
  if (isFirst(run) && !last) return;
  const looks: SecondLook[] = [];
  for (let look = follower.takeStretch(); look; look = follower.takeStretch()) looks.push(look);
  if (!follower.knowsShutter) follower.knowShutter(await shutterBetween(looks, frames));
  if (isFirst(run) && isToBeRepeated(run, follower)) return;
  for (const look of looks)
    for (const n of look.frames) {
      const better = look.at(n, await frames.read(n));
      if (better) yield { result: better, again: true, state };
    }
}

/** What the frames that are to be looked at again tell of the shutter. */
async function shutterBetween(looks: readonly SecondLook[], frames: FramePort): Promise<ShutterMemory> {
  let told = NO_SHUTTER_MEMORY;
  for (const look of looks) for (const n of look.frames) told = look.learnShutter(told, n, await frames.read(n));
  return told;
}

/** Whether what is doubtful waits for the run's end: by then it is known whether the shot is followed again. */
function isFirst({ setup }: DirectionRun): boolean {
  return setup.way === undefined;
}

/** Whether a run over a whole shot has told so much of the camera that the shot is followed again with that. */
function isToBeRepeated({ setup, start, checkpoint }: DirectionRun, follower: Follower): boolean {
  return !start && !checkpoint && setupToRepeatWith([follower.state], setup, [], 1) !== null;
}

/** Frames in a row that must stay lost for what lies behind them to be given up, looking back. By trial. */
const GIVEN_UP = 3;

/**
 * Lost frames, followed from beyond them in the other direction: what comes back into view is known from there, and
 * what was learnt of the screen's stiffness meanwhile helps. Yields those that are found.
 */
async function* lookBack(
  run: DirectionRun,
  { beyond, lost }: Gap,
  state: FollowerState,
  frames: FramePort,
  placed: Placed,
): AsyncGenerator<FrameResult> {
  const follower = await freshFollower(run, frames, placed);
  await follower.resume(state, (n) => frames.read(n));
  follower.startFrom(beyond);
  const present = lost.findIndex((n) => !isPresent(run.setup, n));
  const reachable = present < 0 ? lost : lost.slice(0, present);
  yield* untilGivenUp(reachable, async (n) => follower.step(n, await frames.read(n)));
}

/**
 * Follows frames in the given order and tells those that were found; gives up after `GIVEN_UP` in a row that were
 * not, for what lies behind them is then out of reach.
 */
export async function* untilGivenUp(
  frames: readonly number[],
  follow: (frame: number) => Promise<FrameResult>,
): AsyncGenerator<FrameResult> {
  let failures = 0;
  for (const n of frames) {
    if (failures >= GIVEN_UP) return;
    const result = await follow(n);
    failures = result.homography ? 0 : failures + 1;
    if (result.homography) yield result;
  }
}

/** Pictures of the frames on which spots were placed by hand, where spots are matched against them. */
async function placedFrames(setup: FollowSetup, frames: FramePort): Promise<Placed> {
  const wanted = new Set(
    (setup.spots ?? [])
      .filter((s) => s.match === 'hand')
      .flatMap((s) => s.keys.map((k) => k.frame))
      .filter((f) => f < frames.frameCount),
  );
  return Promise.all([...wanted].map(async (frame) => ({ frame, luma: await frames.read(frame) })));
}

/** Radial term; one found in one direction counts for both when it differs by more than this. By trial. */
const SAME_LENS = 0.002;

/** Times that a shot is followed at the most, with what was learnt of its camera on the way. By trial. */
const MOST_RUNS = 3;

/**
 * The setup that a shot should be followed with again, since its lens, its sensor's readout or its shutter was learnt on the way;
 * null when another time would tell nothing new. How fast things move is then known from both sides of every frame.
 * @param setup that of the last run, the `runs`th
 */
export function setupToRepeatWith(
  states: readonly FollowerState[],
  setup: FollowSetup,
  results: Iterable<FrameResult>,
  runs: number,
): FollowSetup | null {
  if (runs >= MOST_RUNS || states.length === 0) return null;
  const bowed = setup.lens === undefined && states.some((s) => Math.abs(s.lens.radial) > SAME_LENS);
  const readout = readoutToRepeatWith(together(states.map((s) => s.readout)), setup.readout ?? null);
  const shutter = setup.shutter ? null : shutterToRepeatWith(states.map((s) => s.shutter));
  if (!bowed && readout === null && !shutter) return null;
  return {
    ...setup,
    ...(bowed ? { lens: likeliest(together(states.map((s) => s.lens)), RADIAL) } : {}),
    readout: readout ?? setup.readout ?? 0,
    ...(shutter ? { shutter } : {}),
    way: wayOf(results, setup.pin),
  };
}

/**
 * Runs a shot, and again as often as what was learnt of its camera makes it worth.
 * @param pass runs it with a setup and tells the followers' last memories, or null when it was stopped
 * @param results what the passes found so far, by frame
 * @returns the setup of the last run, what that one told, and how many runs there were
 */
export async function untilSettled(
  setup: FollowSetup,
  results: ReadonlyMap<number, FrameResult>,
  pass: (own: FollowSetup, runs: number) => Promise<FollowerState[] | null>,
): Promise<{ own: FollowSetup; states: FollowerState[] | null; runs: number }> {
  let own = setup;
  let runs = 1;
  let states = await pass(own, runs);
  while (states) {
    const again = setupToRepeatWith(states, own, results.values(), runs);
    if (!again) break;
    runs++;
    states = await pass((own = again), runs);
  }
  return { own, states, runs };
}

/** How a direction is run, on a thread of its own where there are any; steps come as they are done. */
export type RunDirection = (run: DirectionRun) => AsyncIterable<Step>;

/** Both directions of a run at once; steps come as they are done. */
export async function* bothWays(
  runs: readonly (readonly [Direction, DirectionRun])[],
  follow: RunDirection,
): AsyncGenerator<Step & { readonly direction: Direction }> {
  const running = new Map(runs.map(([direction, run]) => [direction, follow(run)[Symbol.asyncIterator]()]));
  const waiting = new Map([...running].map(([d, it]) => [d, it.next().then((step) => ({ d, step }))]));
  try {
    while (waiting.size > 0) {
      const { d, step } = await Promise.race(waiting.values());
      if (step.done) waiting.delete(d);
      else {
        waiting.set(
          d,
          running
            .get(d)!
            .next()
            .then((s) => ({ d, step: s })),
        );
        yield { ...step.value, direction: d };
      }
    }
  } finally {
    await Promise.allSettled([...running.values()].map((it) => it.return?.()));
    for (const w of waiting.values()) w.catch(() => {});
  }
}
