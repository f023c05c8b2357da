/** What a value with keys is called where its control is not at hand. */
import type { KeyPath } from '@yarlop/core/dress/base/key-edit';
import { CORNER_NAMES } from '@yarlop/core/geometry/quad';
import { CONTROLS, SECTION_OF } from './dress-controls';

/** Members by what the person calls them; null for those that say nothing. */
const CALLED: Readonly<Record<string, string | null>> = {
  made: null,
  channels: null,
  foreground: 'clip',
  keys: 'shape',
  x: 'right',
  y: 'down',
};
/** One thing of a list, by the list's member. */
const ONE_OF: Readonly<Record<string, string>> = {
  lights: 'added light',
  holdouts: 'holdout',
  retouches: 'retouch',
  lines: 'text',
};
/** Places in lists that have names of their own. */
const PLACES: Readonly<Record<string, readonly string[]>> = {
  sides: ['top', 'right', 'bottom', 'left'],
  corners: CORNER_NAMES,
};
const CHANNELS = ['red', 'green', 'blue'] as const;

const spaced = (member: string): string => member.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);

/** A place in a list, by the member that holds the list. */
function placeName(list: string | number | undefined, i: number, path: KeyPath): string {
  if (PLACES[list!]) return PLACES[list!]![i]!;
  const isOfChannels = path.includes('channels') || list === 'black' || list === 'white';
  return isOfChannels ? CHANNELS[i]! : String(i + 1);
}

/** The words of a path, one after the other. */
function wordsOf(path: KeyPath, whole: KeyPath): string[] {
  return path.flatMap((step, k) => {
    if (typeof step === 'number') return [placeName(whole[whole.length - path.length + k - 1], step, whole)];
    if (step in PLACES) return [];
    const word = step in CALLED ? CALLED[step] : (ONE_OF[step] ?? spaced(step));
    return word ? [word] : [];
  });
}

/** As its control is called, where it has one, and which of several. @param path from the recipe on */
export function keyLabel(path: KeyPath): string {
  const [, part, field, ...rest] = path;
  const control = CONTROLS.find((c) => c.part === part && c.field === field);
  if (control) return [`${SECTION_OF[control.part]}: ${control.label}`, ...wordsOf(rest, path)].join(', ');
  const words = wordsOf(path.slice(1), path).join(' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}
