import type { ScreenTrack, Track } from '@yarlop/core/track';
import type { Probe } from '@yarlop/media/probe';
import { InputError } from '@yarlop/pipeline/pipeline-error';

/** @throws InputError when two Screens share a name */
export function uniqueNames(names: readonly string[]): void {
  const twice = names.find((n, i) => names.indexOf(n) !== i);
  if (twice !== undefined) throw new InputError(`two Screens are named "${twice}"; give each its own name.`);
}

/** The track's Screen of that name. @throws InputError that lists those it has */
export function screenOf(track: Track, name: string): ScreenTrack {
  const found = track.screens.find((s) => s.name === name);
  if (!found)
    throw new InputError(
      `the track has no Screen named "${name}"; it has ${track.screens.map((s) => `"${s.name}"`).join(', ')}.`,
    );
  return found;
}

/** `NAME=FILE` pairs, or one bare FILE for the only Screen. @param may go without one. @throws InputError */
export function matchFills(
  fills: readonly string[],
  names: readonly string[],
  may: readonly string[] = [],
): Map<string, string> {
  const out = new Map<string, string>();
  for (const fill of fills) {
    const name = names.find((n) => fill.startsWith(`${n}=`));
    if (name !== undefined) out.set(name, fill.slice(name.length + 1));
    else if (names.length === 1) out.set(names[0]!, fill);
    else
      throw new InputError(
        `--fill ${fill} names no Screen of the call; write NAME=FILE with one of ${names.join(', ')}.`,
      );
  }
  const without = names.filter((n) => !out.has(n) && !may.includes(n));
  if (without.length > 0)
    throw new InputError(`no fill was given for "${without[0]}"; add --fill "${without[0]}=FILE".`);
  return out;
}

/** @throws InputError for a track of a plate of another size */
export function assertPlateOf(track: Track, probe: Pick<Probe, 'name' | 'width' | 'height'>): void {
  const { width, height } = track.plate;
  if (probe.width !== width || probe.height !== height)
    throw new InputError(
      `the track was made on a plate of ${width}x${height}, but ${probe.name} is ${probe.width}x${probe.height}; use the same plate.`,
    );
}

/** @throws InputError for a track that goes on beyond its plate */
export function assertFrames(track: Track, frameCount: number, name: string): void {
  const last = Math.max(...track.screens.flatMap((s) => s.frames.map((f) => f.frame)));
  if (last >= frameCount)
    throw new InputError(
      `the track goes on to frame ${last}, but ${name} ends at ${frameCount - 1}; use the same plate.`,
    );
}
