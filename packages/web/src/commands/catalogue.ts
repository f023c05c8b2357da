/**
 * Everything that can be done by a key or found by its name, in one table: keys, buttons' sentences and the help with its
 * search are made from it. Who can do a thing tells so with `provideCommand`.
 */
export interface Command {
  readonly id: string;
  /** as it is found in the help */
  readonly title: string;
  /** as it is shown */
  readonly keys: string;
  /** as the keyboard is listened to; null where others listen to it */
  readonly binding: string | null;
  /** what its button says of it; its title where that is enough */
  readonly sentence?: string;
}

const letter = (key: string, id: string, title: string, sentence?: string): Command => ({
  id,
  title,
  keys: key.toUpperCase(),
  binding: key,
  ...(sentence ? { sentence } : {}),
});

export const COMMANDS: readonly Command[] = [
  { id: 'play', title: 'Play or pause', keys: 'Space', binding: null },
  { id: 'first-frame', title: 'First frame', keys: 'Home', binding: 'Home' },
  { id: 'last-frame', title: 'Last frame', keys: 'End', binding: 'End' },
  letter('l', 'play-round', 'Play round and round'),
  letter('i', 'begin-range', 'Begin the working range here'),
  letter('o', 'end-range', 'End the working range here'),
  letter('z', 'zoom-fit', 'Zoom to fit'),
  letter('x', 'zoom-100', 'Zoom to 100 %'),
  letter('c', 'zoom-400', 'Zoom to 400 %'),
  letter(
    'd',
    'ride',
    'Hold the taken corner, the chosen outline, or the middle of the Screen still in the view; once more: let go',
    'The view rides along: the taken corner, or what is chosen here, stays where it is while the picture plays, in full pixels',
  ),
  letter(
    '5',
    'whole-pin',
    'Take the whole pin',
    'Take the pin as a whole: drag it by its middle, turn and scale it by the knob beside it; arrows move it',
  ),
  letter(
    '6',
    'place-fill',
    'Place the fill by handles on the picture (in Dress)',
    'Drag the fill on the picture by its middle, sides and corners, turn and lean it by its knobs; arrows move it',
  ),
  letter('.', 'next-point', 'Take the next point of the chosen outline: arrows move it'),
  letter(',', 'point-before', 'Take the chosen outline as a whole, or the point before'),
  letter(
    '7',
    'bend-point',
    'The taken point: a corner, or part of a curve',
    'Make the taken point a corner, or let the curve pass evenly through it',
  ),
  letter(
    'a',
    'view-aid',
    'View aid: brighten, contrast, a channel, edges',
    'Brighten, contrast, gamma, one channel, edges: for the eye alone',
  ),
  {
    id: 'measure-box',
    title: 'Draw a box, and read its values out; once more: take it away',
    keys: 'Shift+A',
    binding: 'Shift+a',
    sentence: 'Darkest, mean and brightest of a part of the picture, of the plate and of what is laid over it',
  },
  letter('n', 'new-screen', 'Drop four corners for a new Screen', 'Drop four corners for a new Screen on this frame'),
  {
    id: 'take-proposal',
    title: 'Take the screen that is seen',
    keys: 'Shift+N',
    binding: 'Shift+n',
    sentence: 'Make a Screen of the outline that is drawn strongest; on a shot that has none yet',
  },
  letter(
    'p',
    'draw-patch',
    'Draw a follow patch (in Follow, on the reference frame)',
    'Outline what moves with the screen',
  ),
  letter('f', 'follow-both', 'Follow both ways (in Follow)', 'Backwards and forwards at once'),
  {
    id: 'follow-all',
    title: 'Follow all Screens (in Follow)',
    keys: 'Shift+F',
    binding: 'Shift+f',
    sentence: 'Every Screen of the shot, both ways over the working range',
  },
  {
    id: 'solve-camera',
    title: "Solve the shot's camera from the whole picture (in Follow)",
    keys: 'Shift+K',
    binding: 'Shift+k',
    sentence:
      'Follow points over the whole picture through the working range, and solve where the camera stands on every frame',
  },
  {
    id: 'follow-steadied',
    title: 'Follow again on the steadied plate (in Follow)',
    keys: 'Shift+G',
    binding: 'Shift+g',
    sentence: 'What was followed in the working range holds the plate still; what is left of the movement is followed',
  },
  {
    id: 'measure-all',
    title: 'Measure slip of all Screens (in Prove)',
    keys: 'Shift+M',
    binding: 'Shift+m',
    sentence: 'Slip of every Screen that is followed, on every frame',
  },
  {
    id: 'match-screens',
    title: 'Match all Screens (in Dress)',
    keys: 'Shift+D',
    binding: 'Shift+d',
    sentence: 'Measure the plate for every dressed Screen and take what is proposed, one step of undo for each',
  },
  letter(
    'k',
    'hand-here',
    'Place the pin by hand on this frame (in Follow)',
    'Take the pin as it is here, to be dragged; frames are followed on from it. Once more: the next frame, away from the reference',
  ),
  letter(
    't',
    'show-cells',
    'What the frame was followed by',
    'Small places of the picture and of the edges, the weak ones the most striking',
  ),
  letter(
    'g',
    'snap-glass',
    'Lay the pin onto the glass (in Pin)',
    'Find the edge of the glass along each ticked side and set the corners where they meet',
  ),
  letter(
    'r',
    'ruling',
    'Perspective ruling',
    'Lines of the plane in perspective: compare their angles with other straight things',
  ),
  letter(
    'b',
    'corner-board',
    'Corner board and picture change places; called up where the bench has none',
    'Board and picture change places',
  ),
  letter('q', 'compare', 'What the close-ups show: this frame, its likeness, half and half, what differs, blink'),
  letter(
    'j',
    'remember-likeness',
    'This frame is right: remember the likeness',
    'This frame is right: remember how the taken corner, or all four, look here',
  ),
  letter(
    'm',
    'measure-slip',
    'Measure slip (in Prove)',
    'Compare every corner on every frame with what it looked like where it was right',
  ),
  letter(
    's',
    'snap-likeness',
    'Snap to the likeness (in Prove)',
    'Move the taken corner, or all four, to where its likeness fits on this frame',
  ),
  letter('y', 'prove-look', 'In place, laid flat, slit, curves, room (in Prove)'),
  letter('e', 'repairs', 'Before and after: as repaired, before the last repair, as followed'),
  letter('w', 'wipe', 'Divider between plate and dressed picture'),
  letter('u', 'lanes', 'Open the lanes of the strip', 'Lanes: plate, slip, touch-ups, keys by hand, sections'),
  letter('v', 'plate-alone', 'Plate alone', 'Take away what is laid over the plate'),
  { id: 'undo', title: 'Undo', keys: 'Ctrl+Z', binding: '$mod+z' },
  { id: 'redo', title: 'Redo', keys: 'Ctrl+Shift+Z', binding: '$mod+Shift+z' },
  letter(
    '8',
    'notes',
    'Notes on the shot',
    'What was said of the shot, in the place of the bench; once more: the bench',
  ),
  letter('9', 'new-note', 'Say something of this frame', 'A note on this frame or several, with words and strokes'),
  letter('h', 'alone', 'Hide everything but the picture'),
  {
    id: 'second-window',
    title: 'The picture alone in a second window',
    keys: 'Shift+H',
    binding: 'Shift+h',
    sentence: 'The picture alone in a window of its own, for another display; it stays in step with this one',
  },
  {
    id: 'find-control',
    title: 'Find a control by its name',
    keys: '/',
    binding: '/',
    sentence: 'Type a part of its name; Enter goes to the first that is found',
  },
  { id: 'help', title: 'This help', keys: '?', binding: 'Shift+?', sentence: 'Help and all keys' },
];

/** Keys that move and point instead of doing one thing. */
export const GESTURES: readonly (readonly [keys: string, what: string])[] = [
  ['Space', 'hold it and drag to move the picture'],
  [
    'Left, Right',
    'one frame back or on; with a corner, the pin, the fill, an outline or its point taken by its key: nudge by 1 px',
  ],
  [
    'Page Up, Page Down',
    'with the whole pin, the fill or an outline taken: larger and smaller by 1 px, with Alt turned; with Shift by 0.1 px',
  ],
  ['Shift with arrows', 'ten frames; with one of them taken: nudge by 0.1 px'],
  ['Ctrl with arrows', 'with one of them taken: nudge by 10 px'],
  ['Delete', 'with a point of an outline taken: take it away'],
  ['1 to 4', 'take corner TL, TR, BR, BL'],
  ['Escape', 'let go of a corner, leave a tool, stop following'],
  ['Tab, Enter', 'reach and press every control'],
  ['Alt+1 to Alt+6', 'the six stages'],
];

const BY_ID = new Map(COMMANDS.map((c) => [c.id, c]));

/** What a button says of its command, with its key. @throws for an id that is not in the table */
export function sentenceOf(id: string): string {
  const command = BY_ID.get(id);
  if (!command) throw new Error(`There is no command "${id}".`);
  return `${command.sentence ?? command.title} (${command.keys})`;
}
