import { toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import { withScene } from '@yarlop/core/camera/scene-evidence';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { ScreenTrack } from '@yarlop/core/track';
import type { LumaFile } from '@yarlop/media/luma-file';
import { inOrder, passingOf } from '@yarlop/pipeline/carried';
import { assembleTrack } from '@yarlop/pipeline/assemble-track';
import type { Way } from '@yarlop/pipeline/follow-shot';
import { followShot } from '@yarlop/pipeline/follow-shot';
import { steadiedStretches } from '@yarlop/pipeline/steadied';
import type { LumaPlace } from '@yarlop/pipeline/threads';
import { onThreads } from '@yarlop/pipeline/threads';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import type { Raster } from '@yarlop/core/image/image';
import type { OpenPlate } from '@yarlop/pipeline/plate';
import { openPlate, plateInfo, withLuma } from '@yarlop/pipeline/plate';
import { mixFor } from '@yarlop/pipeline/reading';
import { correctionsOf, followSetup, parseScreen } from '@yarlop/pipeline/screen-file';
import { readingsOfSections } from '@yarlop/pipeline/sections';
import { readJson } from '@yarlop/pipeline/track-file';
import { assertSamePlate, readCamera } from '@yarlop/pipeline/camera-file';
import { sceneFrames } from '@yarlop/pipeline/scene-frames';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { uniqueNames } from './screens';

export interface FollowOptions {
  screen: string[];
  out: string;
  camera?: string;
  from?: number;
  to?: number;
  progress?: boolean;
}

type Screen = ReturnType<typeof parseScreen>;

const isStopped = (): boolean => interruption.requested;

interface Job {
  readonly screen: Screen;
  readonly from: number;
  readonly to: number;
  /** Screens that were followed before it */
  readonly done: ReadonlyMap<string, ScreenTrack>;
  readonly screens: readonly Screen[];
}

async function followOne(
  { screen, from, to, done, screens }: Job,
  luma: LumaFile,
  at: LumaPlace,
  progress: (frame: number) => void,
): Promise<ScreenTrack> {
  const passing = (screen.ignores ?? []).map((name) =>
    passingOf(
      screens.find((s) => s.name === name)!,
      done.get(name)!.frames,
    ),
  );
  const setup = { ...followSetup(screen, luma), passing };
  const { referenceFrame } = screen;
  const ends: readonly Way[] = [
    { direction: 'forwards', end: to },
    { direction: 'backwards', end: from },
  ];
  const run = {
    setup,
    referenceFrame,
    width: luma.width,
    height: luma.height,
    ways: ends.filter((w) => w.end !== referenceFrame || (w.direction === 'forwards' && from === to)),
    follow: onThreads(new URL('./direction-thread.mjs', import.meta.url), at),
    isWhole: true,
    steadied: steadiedStretches(setup, referenceFrame, [from, to]),
    isCancelled: isStopped,
    looked: progress,
  };
  const { own, results } = await followShot(run, ({ result, again }) => {
    if (!again) progress(result.frame);
  });
  const { lens } = own;
  return {
    name: screen.name,
    referenceFrame,
    ...(lens ? { lens } : {}),
    ...assembleTrack([...results.values()], {
      setup,
      referenceFrame,
      from,
      to,
      interrupted: interruption.requested,
      width: luma.width,
      pinned: screen.pin,
      corrections: correctionsOf(screen),
    }),
  };
}

/** The scene's camera joined to what was followed, but where the recipe leaves it out; what it could not do is told. */
function withCamera(
  track: ScreenTrack,
  screen: Screen,
  camera: CameraFile | null,
  range: readonly [number, number],
): ScreenTrack {
  const on = sceneFrames(screen, true);
  if (!camera || !on) return track;
  const { track: joined, note } = withScene(track, camera, { range, on, plane: screen.scenePlane });
  if (note) process.stderr.write(`yarlop: "${track.name}": ${note}\n`);
  return joined;
}

/** Whether it is measured from which mix of the channels a Screen is best read, anywhere in the shot. */
function isMeasured(screen: Screen): boolean {
  return [screen.reading ?? 'auto', ...readingsOfSections(screen)].includes('auto');
}

interface Read {
  readonly plate: OpenPlate;
  readonly screen: Screen;
  readonly stills: ReadonlyMap<number, Raster>;
  /** where the plate's luma lies */
  readonly luma: string;
}

/** With the frames of sections that are read otherwise beside those at `place`. */
async function withSectionReadings<T>(
  { plate, screen, stills, luma }: Read,
  place: LumaPlace,
  work: (place: LumaPlace) => Promise<T>,
): Promise<T> {
  const reading = readingsOfSections(screen).find((r) => !(place.others && r in place.others));
  if (reading === undefined) return work(place);
  const mix = await mixFor({ ...screen, reading }, async () => stills.get(screen.referenceFrame) ?? null);
  const next = (path: string): Promise<T> =>
    withSectionReadings(
      { plate, screen, stills, luma },
      { ...place, others: { ...place.others, [reading]: path } },
      work,
    );
  return mix ? withLuma(plate, isStopped, (_, at) => next(at.path), { mix }) : next(luma);
}

export async function follow(path: string, options: FollowOptions): Promise<number> {
  const screens = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f)));
  const camera = options.camera === undefined ? null : await readCamera(options.camera);
  uniqueNames(screens.map((s) => s.name));
  inOrder(screens);
  const plate = await openPlate(path);
  try {
    const { probe } = plate;
    if (camera) assertSamePlate(camera, probe);
    const from = options.from ?? 0;
    const to = options.to ?? probe.frameCount - 1;
    for (const screen of screens) {
      followSetup(screen, probe);
      const r = screen.referenceFrame;
      if (from < 0 || to >= probe.frameCount || from > r || to < r)
        throw new InputError(
          `the range ${from} to ${to} must lie within the plate's frames 0 to ${probe.frameCount - 1} and contain the reference frame ${r} of "${screen.name}"; change --from or --to.`,
        );
    }
    return await withLuma(
      plate,
      isStopped,
      async (luma, at, stills) => {
        const last = Math.min(to, luma.frameCount - 1);
        const tracks = new Map<string, ScreenTrack>();
        let done = 0;
        let spoken = 0;
        const progress = (frame: number): void => {
          done++;
          if (!options.progress || Date.now() - spoken < 1000) return;
          spoken = Date.now();
          process.stderr.write(`frame ${frame}, ${done} of ${(last - from + 1) * screens.length}\n`);
        };
        for (const screen of inOrder(screens)) {
          const job = { screen, from, to: last, done: tracks, screens };
          const mix = await mixFor(screen, async () => stills.get(screen.referenceFrame) ?? null);
          const one = (l: LumaFile, place: LumaPlace): Promise<ScreenTrack> =>
            withSectionReadings({ plate, screen, stills, luma: at.path }, place, (p) => followOne(job, l, p, progress));
          tracks.set(screen.name, await (mix ? withLuma(plate, isStopped, one, { mix }) : one(luma, at)));
        }
        const all = screens.map((s) => withCamera(tracks.get(s.name)!, s, camera, [from, last]));
        await writeWhole(
          options.out,
          writeTrackJson(toTrackFile({ plate: plateInfo(probe, luma.frameCount), screens: all })),
        );
        if (interruption.requested) return 130;
        const lost = all.filter((t) => t.stopped);
        for (const t of lost)
          process.stderr.write(
            `yarlop: "${t.name}" was lost at frame ${t.stopped![0]!.frame}: ${t.stopped![0]!.reason}\n`,
          );
        return lost.length > 0 ? 3 : 0;
      },
      { stills: screens.filter(isMeasured).map((s) => s.referenceFrame) },
    );
  } finally {
    await plate.close();
  }
}
