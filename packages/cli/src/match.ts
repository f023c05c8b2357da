import { access } from 'node:fs/promises';
import type { Proposal } from '@yarlop/core/dress/match';
import { PARTS } from '@yarlop/core/dress/match';
import { withProposals } from '@yarlop/core/dress/proposals';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { measureDress } from '@yarlop/pipeline/dress';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate } from '@yarlop/pipeline/plate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson, readTrack } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { Progress } from './progress';
import { assertPlateOf, screenOf } from './screens';

export interface MatchOptions {
  track: string;
  screen: string;
  out: string;
  fill?: string;
  only?: string;
  json?: boolean;
  progress?: boolean;
}

type Part = Proposal['part'];

/** @throws InputError that lists the parts there are */
function partsOf(only: string | undefined): readonly Part[] {
  const parts = only?.split(',').map((p) => p.trim()) ?? PARTS;
  const other = parts.find((p) => !(PARTS as readonly string[]).includes(p));
  if (other !== undefined)
    throw new InputError(`--only names "${other}", which is no part of a dress; use ${PARTS.join(', ')}.`);
  return parts as readonly Part[];
}

function asText(name: string, proposals: readonly Proposal[], taken: readonly Proposal[]): string {
  const lines = proposals.map((p) => `  ${p.part}${taken.includes(p) ? '' : ' (left)'}: ${p.told}`);
  return [`${name}:`, ...(lines.length > 0 ? lines : ['  nothing could be told of the plate'])].join('\n');
}

/** Measures the plate about a Screen, and writes its recipe with the dress that is proposed. */
export async function matchCommand(path: string, options: MatchOptions): Promise<number> {
  const parts = partsOf(options.only);
  const screen = parseScreen(await readJson(options.screen), options.screen);
  const track = await readTrack(options.track);
  const own = screenOf(track, screen.name);
  if (options.fill !== undefined)
    await access(options.fill).catch(() => {
      throw new InputError(`the fill ${options.fill} does not exist or cannot be read; check the path.`);
    });
  const plate = await openPlate(path);
  try {
    const { probe, source } = plate;
    assertPlateOf(track, probe);
    const progress = new Progress('match', probe.frameCount, options.progress ?? false);
    const job = measureDress({
      plate: source,
      probe,
      seekable: false,
      screen,
      places: new Map(own.frames.map((f) => [f.frame, f])),
      shutter: null,
      lens: own.lens ?? 0,
      from: 0,
      count: probe.frameCount,
    });
    let step = await job.next();
    for (; !step.done; step = await job.next()) {
      progress.frame(step.value);
      if (!interruption.requested) continue;
      await job.return([]);
      return 130;
    }
    const proposals = step.value;
    const taken = proposals.filter((p) => parts.includes(p.part));
    const dress = withProposals((screen.dress ?? {}) as DressRecipe, taken);
    const matched = parseScreen(JSON.parse(JSON.stringify({ ...screen, dress })), options.out);
    await writeWhole(options.out, `${JSON.stringify(matched, null, 2)}\n`);
    const told = proposals.map((p) => ({ part: p.part, told: p.told, taken: taken.includes(p), recipe: p.recipe }));
    process.stdout.write(
      options.json
        ? `${JSON.stringify({ format: 'yarlop-match', version: 1, screens: [{ name: screen.name, proposals: told }] })}\n`
        : `${asText(screen.name, proposals, taken)}\n`,
    );
    return 0;
  } finally {
    await plate.close();
  }
}
