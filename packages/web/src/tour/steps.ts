/** The first-run tour: what the person does in each stage, and how it is seen that it was done. */
import type { Stage } from '../stages';

/** What the tour looks at; nothing is asked, all is seen. */
export interface Seen {
  readonly stage: Stage;
  readonly played: boolean;
  readonly screens: number;
  readonly followed: boolean;
  readonly boardUsed: boolean;
  readonly proved: boolean;
  readonly filled: boolean;
  readonly delivered: boolean;
}

export interface TourStep {
  readonly stage: Stage;
  readonly title: string;
  readonly text: string;
  readonly done: (s: Seen) => boolean;
}

export const STEPS: readonly TourStep[] = [
  {
    stage: 'plate',
    title: 'Look at the plate',
    text: 'Play it with Space or the button below. The arrow keys step frame by frame, the wheel zooms at the pointer.',
    done: (s) => s.played,
  },
  {
    stage: 'follow',
    title: 'Follow the screen',
    text: 'On a frame where the screen is well seen, press N and click its four corners; then press "Follow both ways". On the demo shots this is done: watch the strip, where weak frames stand tall.',
    done: (s) => s.screens > 0 && s.followed,
  },
  {
    stage: 'pin',
    title: 'Set the pin to the pixel',
    text: 'Press G to lay the pin onto the glass, or take a corner with 1 to 4 and nudge it with the arrow keys while you look at its close-up.',
    done: (s) => s.boardUsed,
  },
  {
    stage: 'prove',
    title: 'Prove that it holds',
    text: 'Press "Measure slip on every frame". The worst frames are listed; a click goes there. Look at the Screen laid flat, too.',
    done: (s) => s.proved,
  },
  {
    stage: 'dress',
    title: 'Put the content in',
    text: 'Choose a fill from the library, or bring in your own.',
    done: (s) => s.filled,
  },
  {
    stage: 'hand-over',
    title: 'Hand it over',
    text: 'Deliver the corner data as CSV or JSON, or the finished picture. It is kept here with its checksum.',
    done: (s) => s.delivered,
  },
];

/** The first step that is not done yet; the number of steps when all are. */
export function stepAt(seen: Seen): number {
  const i = STEPS.findIndex((s) => !s.done(seen));
  return i < 0 ? STEPS.length : i;
}
