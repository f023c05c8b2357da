import type { ScreenTrack, Track } from '@yarlop/core/track';
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
