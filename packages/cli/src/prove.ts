import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { openPlate, withLuma } from '@yarlop/pipeline/plate';
import type { Proof } from '@yarlop/pipeline/prove';
import { prove } from '@yarlop/pipeline/prove';
import { readTrack } from '@yarlop/pipeline/track-file';
import { interruption } from './interruption';
import { assertFrames, assertPlateOf } from './screens';

export interface ProveOptions {
  track: string;
  json?: boolean;
}

/** px at 1920 wide; smaller troubles are not worth a line. */
const WORTH = 0.3;
/** Lines of troubles that are printed. */
const MOST_LINES = 12;

const px = (v: number): string => (Number.isFinite(v) ? `${v.toFixed(2)} px` : 'not known');

function asText({ name, ranking }: Proof): string {
  const worst = ranking.troubles.filter((t) => t.size >= WORTH).slice(0, MOST_LINES);
  return [
    `${name}: slip could be told on ${Math.round(100 * ranking.told)} % of its corners; jitter ${px(ranking.jitter)} (at 1920 wide).`,
    ...(worst.length === 0
      ? [`  Nothing slips by ${WORTH} px or more.`]
      : worst.map((t) => `  frame ${t.frame}  ${CORNER_NAMES[t.corner]}  ${t.kind}  ${px(t.size)}`)),
  ].join('\n');
}

const round = (v: number): number | null => (Number.isFinite(v) ? Number(v.toFixed(3)) : null);

function asJson({ name, frames, ranking: r }: Proof): object {
  return {
    name,
    told: round(r.told),
    jitter: round(r.jitter),
    troubles: r.troubles.map((t) => ({
      frame: t.frame,
      corner: CORNER_NAMES[t.corner],
      kind: t.kind,
      size: round(t.size),
    })),
    frames: frames.map((f) => ({
      frame: f.frame,
      slip: f.slips.map((s) => s.by && s.by.map(round)),
      sigma: f.slips.map((s) => round(s.sigma)),
      likeness: f.slips.map((s) => round(s.likeness)),
      reason: f.slips.map((s) => s.reason),
    })),
  };
}

/** Ranks the frames of a track by how far the picture lies from where the track puts it. */
export async function proveCommand(path: string, options: ProveOptions): Promise<number> {
  const track = await readTrack(options.track);
  const plate = await openPlate(path);
  const { probe } = plate;
  try {
    assertPlateOf(track, probe);
    return await withLuma(
      plate,
      () => interruption.requested,
      async (luma) => {
        assertFrames(track, luma.frameCount, probe.name);
        const proofs: Proof[] = [];
        for (const s of track.screens) proofs.push(await prove(s, luma, () => interruption.requested));
        if (interruption.requested) return 130;
        process.stdout.write(
          options.json
            ? `${JSON.stringify({ format: 'yarlop-proof', version: 1, screens: proofs.map(asJson) })}\n`
            : `${proofs.map(asText).join('\n')}\n`,
        );
        return 0;
      },
    );
  } finally {
    await plate.close();
  }
}
