/** How a shot stands, and what state a note is in, as they are shown. */
import { countText } from '../shared/format';
import type { NoteState, ReviewNote, Screen, Standing } from '../types';

export const STANDINGS: readonly { readonly value: Standing; readonly text: string }[] = [
  { value: 'in work', text: 'in work' },
  { value: 'to be looked at', text: 'to be looked at' },
  { value: 'once more', text: 'looked at: once more' },
  { value: 'approved', text: 'approved' },
];

export const STATES: readonly { readonly value: NoteState; readonly text: string }[] = [
  { value: 'open', text: 'open' },
  { value: 'done', text: 'done' },
  { value: 'approved', text: 'approved' },
];

/** As the corners are called, in the order of a pin. */
export const CORNERS = ['TL', 'TR', 'BR', 'BL'] as const;

/** @param first number of the plate's first frame */
export function framesText({ from, to }: Pick<ReviewNote, 'from' | 'to'>, first: number): string {
  return from === to ? `frame ${from + first}` : `frames ${from + first} to ${to + first}`;
}

/** What a note is about beside its frames; '' for the whole picture. */
export function aboutText(
  { screenId, corner }: Pick<ReviewNote, 'screenId' | 'corner'>,
  screens: readonly Screen[],
): string {
  const screen = screens.find((s) => s.id === screenId);
  if (!screen) return '';
  return corner === null ? screen.recipe.name : `${screen.recipe.name}, ${CORNERS[corner]}`;
}

/** How a shot stands and what of it is open, as far as that is more than being in work; '' where it is not. */
export function saidText({ standing, openNotes }: { readonly standing: Standing; readonly openNotes: number }): string {
  const stands = standing === 'in work' ? [] : [standingText(standing)];
  const open = openNotes > 0 ? [countText(openNotes, 'open note')] : [];
  return [...stands, ...open].join(', ');
}

export const standingText = (standing: Standing): string => STANDINGS.find((s) => s.value === standing)!.text;
