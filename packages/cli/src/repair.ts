import { toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import { FRAMES_A_REPAIR } from '@yarlop/core/proof/repair-plan';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate, withLuma } from '@yarlop/pipeline/plate';
import type { Repair } from '@yarlop/pipeline/repair';
import { repair } from '@yarlop/pipeline/repair';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson, readTrack } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { Progress } from './progress';
import { assertFrames, assertPlateOf, screenOf } from './screens';

export interface RepairOptions {
  track: string;
  screen: string;
  out?: string;
  outTrack?: string;
  under: number;
  plan?: boolean;
  json?: boolean;
  progress?: boolean;
}

const worst = (v: readonly (number | null)[]): number => v.reduce<number>((m, x) => Math.max(m, x ?? 0), 0);

function asText(name: string, { plan }: Repair, under: number): string {
  const n = plan.touchUps.length;
  if (n === 0) return `${name}: nothing to repair; all that could be told is under ${under} px.`;
  const bad = plan.tooMany
    ? ` That is more than one frame in ${FRAMES_A_REPAIR}: rather follow again${plan.worstRange ? ` from frame ${plan.worstRange[0]} to ${plan.worstRange[1]}` : ''}.`
    : '';
  return [
    `${name}: ${n} ${n === 1 ? 'repair brings' : 'repairs bring'} the worst from ${worst(plan.before).toFixed(2)} to ${worst(plan.after).toFixed(2)} px (at 1920 wide).${bad}`,
    ...plan.touchUps.map((t) => `  frame ${t.frame}  fades over ${t.before.frames} and ${t.after.frames} frames`),
  ].join('\n');
}

function asJson(name: string, { plan, frames }: Repair): string {
  const screen = { name, ...plan, frames };
  return JSON.stringify({ format: 'yarlop-repair', version: 1, screens: [screen] });
}

/** Plans the fewest touch-ups that bring every slip under a limit, and writes the recipe that has them. */
export async function repairCommand(path: string, options: RepairOptions): Promise<number> {
  if (!options.plan && options.out === undefined)
    throw new InputError('nothing says where the repaired recipe goes; give --out, or --plan to print the plan alone.');
  const screen = parseScreen(await readJson(options.screen), options.screen);
  const track = await readTrack(options.track);
  const own = screenOf(track, screen.name);
  const plate = await openPlate(path);
  try {
    assertPlateOf(track, plate.probe);
    return await withLuma(
      plate,
      () => interruption.requested,
      async (luma) => {
        assertFrames(track, luma.frameCount, plate.probe.name);
        const progress = new Progress('repair', own.frames.length, options.progress ?? false);
        const job = repair({ track: own, screen, luma, under: options.under });
        let step = await job.next();
        for (; !step.done; step = await job.next()) {
          progress.frame(step.value);
          if (interruption.requested) return 130;
        }
        const made = step.value;
        if (!options.plan) {
          await writeWhole(options.out!, `${JSON.stringify(made.screen, null, 2)}\n`);
          const screens = track.screens.map((s) => (s.name === own.name ? made.track : s));
          if (options.outTrack !== undefined)
            await writeWhole(options.outTrack, writeTrackJson(toTrackFile({ ...track, screens })));
        }
        process.stdout.write(
          `${options.json ? asJson(screen.name, made) : asText(screen.name, made, options.under)}\n`,
        );
        return 0;
      },
    );
  } finally {
    await plate.close();
  }
}
