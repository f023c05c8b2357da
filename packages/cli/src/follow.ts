import type { FollowSetup, FollowerState } from '@yarlop/core/follow/follower-state';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import { toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import type { ScreenTrack } from '@yarlop/core/track';
import type { LumaFile } from '@yarlop/media/luma-file';
import type { Direction } from '@yarlop/pipeline/follow';
import { assembleTrack, bothWays, untilSettled } from '@yarlop/pipeline/follow';
import type { LumaPlace } from '@yarlop/pipeline/threads';
import { onThreads } from '@yarlop/pipeline/threads';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate, plateInfo, withLuma } from '@yarlop/pipeline/plate';
import { mixFor } from '@yarlop/pipeline/reading';
import { correctionsOf, followSetup, parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { uniqueNames } from './screens';

export interface FollowOptions {
  screen: string[];
  out: string;
  from?: number;
  to?: number;
  progress?: boolean;
}

type Screen = ReturnType<typeof parseScreen>;

async function followOne(
  screen: Screen,
  luma: LumaFile,
  at: LumaPlace,
  from: number,
  to: number,
  progress: (frame: number) => void,
): Promise<ScreenTrack> {
  const setup = followSetup(screen, luma);
  const { referenceFrame } = screen;
  const results = new Map<number, FrameResult>();
  const follow = onThreads(new URL('./direction-thread.mjs', import.meta.url), at);
  const pass = async (own: FollowSetup): Promise<FollowerState[] | null> => {
    const last = new Map<Direction, FollowerState>();
    const ends = [
      ['forwards', to],
      ['backwards', from],
    ] as const;
    const runs = ends
      .filter(([d, end]) => end !== referenceFrame || (d === 'forwards' && from === to))
      .map(([d, end]) => [d, { setup: own, referenceFrame, end }] as const);
    for await (const { result, again, state, direction } of bothWays(runs, follow)) {
      results.set(result.frame, result);
      last.set(direction, state());
      if (!again) progress(result.frame);
      if (interruption.requested) break;
    }
    return interruption.requested ? null : [...last.values()];
  };
  const { lens } = (await untilSettled(setup, results, pass)).own;
  return {
    name: screen.name,
    referenceFrame,
    ...(lens ? { lens } : {}),
    ...assembleTrack(
      [...results.values()],
      setup,
      referenceFrame,
      from,
      to,
      interruption.requested,
      correctionsOf(screen),
    ),
  };
}

export async function follow(path: string, options: FollowOptions): Promise<number> {
  const screens = await Promise.all(options.screen.map(async (f) => parseScreen(await readJson(f), f)));
  uniqueNames(screens.map((s) => s.name));
  const plate = await openPlate(path);
  try {
    const { probe } = plate;
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
      () => interruption.requested,
      async (luma, at, stills) => {
        const last = Math.min(to, luma.frameCount - 1);
        const tracks: ScreenTrack[] = [];
        let done = 0;
        let spoken = 0;
        const progress = (frame: number): void => {
          done++;
          if (!options.progress || Date.now() - spoken < 1000) return;
          spoken = Date.now();
          process.stderr.write(`frame ${frame}, ${done} of ${(last - from + 1) * screens.length}\n`);
        };
        for (const screen of screens) {
          const mix = await mixFor(screen, async () => stills.get(screen.referenceFrame) ?? null);
          const one = (l: LumaFile, place: LumaPlace): Promise<ScreenTrack> =>
            followOne(screen, l, place, from, last, progress);
          tracks.push(await (mix ? withLuma(plate, () => interruption.requested, one, { mix }) : one(luma, at)));
        }
        await writeWhole(
          options.out,
          writeTrackJson(toTrackFile({ plate: plateInfo(probe, luma.frameCount), screens: tracks })),
        );
        if (interruption.requested) return 130;
        const lost = tracks.filter((t) => t.stopped);
        for (const t of lost)
          process.stderr.write(
            `yarlop: "${t.name}" was lost at frame ${t.stopped![0]!.frame}: ${t.stopped![0]!.reason}\n`,
          );
        return lost.length > 0 ? 3 : 0;
      },
      { stills: screens.flatMap((s) => ((s.reading ?? 'auto') === 'auto' ? [s.referenceFrame] : [])) },
    );
  } finally {
    await plate.close();
  }
}
