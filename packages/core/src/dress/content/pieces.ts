/**
 * Whole pieces of made-up content, of our own drawing, with fields to fill in: a call, a message, a chat, a clock, a measure of
 * how far something is, a battery, a place on a map. Each is drawn one high about its own middle.
 */
import { clamp } from '../../clamp';
import type { Point } from '../../geometry/point';
import type { Rgb } from '../colour/levels';
import type { Part } from './contours';
import { movedBy, ovalContour, ring } from './contours';
import type { PieceSetting } from './piece-pen';
import { Pen, cutOff } from './piece-pen';
import { widthOf, wrapped } from './words';

/** A field of a piece. */
export interface PieceField {
  readonly id: string;
  readonly label: string;
  /** what stands there before anybody writes */
  readonly base: string;
  /** several lines may be written */
  readonly isLong?: boolean;
}

/** The number of a piece that may change over the shot. */
export interface PieceAmount {
  readonly label: string;
  readonly base: number;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly help: string;
}

interface Piece {
  readonly title: string;
  readonly fields: readonly PieceField[];
  readonly amount?: PieceAmount;
  /** width by height */
  readonly aspect: number;
  readonly draw: (s: PieceSetting, pen: Pen) => Part[];
}

/** Frames in which what waits swells and shrinks once. By eye. */
const PULSE = 30;
/** 0 to 1 and back, evenly for ever. */
const pulseAt = (frame: number): number => 0.5 - 0.5 * Math.cos((2 * Math.PI * frame) / PULSE);

function call(s: PieceSetting, pen: Pen): Part[] {
  const left = -pen.aspect / 2 + 0.16;
  const button = (x: number, id: string, colour: Rgb, ink: Rgb): Part[] => [
    pen.box([x, 0.27], [0.86, 0.24], 0.12, colour),
    pen.line(s.field(id), pen.hand(0.12, 'sans bold'), { at: [x, 0.27], align: 'middle', colour: ink }, 0.74),
  ];
  const swell = 0.07 + 0.05 * pulseAt(s.frame);
  const ringing: Point = [pen.aspect / 2 - 0.22, -0.24];
  return [
    ...pen.card(),
    pen.line(s.field('who'), pen.hand(0.22, 'sans bold'), { at: [left, -0.29], align: 'left' }, pen.aspect - 0.62),
    pen.line(s.field('says'), pen.hand(0.12), { at: [left, -0.08], align: 'left' }, pen.aspect - 0.5),
    pen.shape(movedBy([ovalContour(2 * swell, 2 * swell)], ringing), s.colour, 0.35),
    pen.shape(movedBy([ovalContour(0.12, 0.12)], ringing), s.colour),
    ...button(left + 0.43, 'take', s.colour, s.paper),
    ...button(left + 1.36, 'leave', s.ink, s.paper),
  ];
}

function message(s: PieceSetting, pen: Pen): Part[] {
  const left = -pen.aspect / 2 + 0.16;
  const right = pen.aspect / 2 - 0.1;
  const hand = pen.hand(0.15);
  const rows = wrapped(s.field('words'), right - left, hand).slice(0, 3);
  return [
    ...pen.card(),
    pen.line(s.field('who'), pen.hand(0.15, 'sans bold'), { at: [left, -0.31], align: 'left' }, right - left - 0.45),
    pen.line(s.field('when'), pen.hand(0.11, 'mono'), { at: [right, -0.31], align: 'right' }),
    ...rows.map((r, i) => pen.line(r, hand, { at: [left, -0.08 + 0.2 * i], align: 'left' }, right - left)),
  ];
}

/** Lines of a chat that are seen at once. */
const SEEN = 5;

function chat(s: PieceSetting, pen: Pen): Part[] {
  const said = s
    .field('lines')
    .split('\n')
    .filter((l) => l.trim() !== '');
  const count = clamp(s.amount, 0, said.length);
  const whole = Math.floor(count);
  // The next one rises from below as far as the amount has come towards it.
  const rising = count - whole;
  const first = Math.max(0, whole - SEEN);
  const shown = said.slice(first, Math.ceil(count));
  const step = 1 / SEEN;
  const room = pen.aspect - 0.1;
  return shown.flatMap((line, i): Part[] => {
    const isOwn = line.startsWith('>');
    const hand = pen.hand(0.42 * step);
    const text = cutOff(line.replace(/^[<>]\s*/, ''), hand, room * 0.8);
    const width = widthOf(text, hand) + 0.45 * step;
    const x = (isOwn ? 1 : -1) * (room / 2 - width / 2);
    const y = 0.5 - step * (count - first - i - 0.5);
    const opacity = first + i < whole ? 1 : rising;
    return [
      pen.box([x, y], [width, 0.8 * step], 0.18 * step, isOwn ? s.colour : s.paper, opacity),
      { ...pen.line(text, hand, { at: [x, y], align: 'middle', colour: isOwn ? s.paper : s.ink }), opacity },
    ];
  });
}

const twoDigits = (v: number): string => Math.floor(v).toString().padStart(2, '0');

/** A time of day so many seconds after `from` (HH:MM or HH:MM:SS); what cannot be read begins at midnight. */
export function clockAt(from: string, seconds: number): string {
  const parts = from.split(':').map((p) => Number(p) || 0);
  const [h = 0, m = 0, sec = 0] = parts;
  const day = (((h * 3600 + m * 60 + sec + seconds) % 86_400) + 86_400) % 86_400;
  const now = [day / 3600, (day % 3600) / 60, ...(parts.length > 2 ? [day % 60] : [])];
  return now.map(twoDigits).join(':');
}

function clock(s: PieceSetting, pen: Pen): Part[] {
  return [
    pen.line(clockAt(s.field('from'), s.amount), pen.hand(0.72), { at: [0, -0.12], align: 'middle' }),
    pen.line(s.field('below'), pen.hand(0.2), { at: [0, 0.38], align: 'middle', colour: s.colour }, pen.aspect),
  ];
}

const percentOf = (share: number): string => `${Math.round(100 * clamp(share, 0, 1))} %`;

function howFar(s: PieceSetting, pen: Pen): Part[] {
  const width = pen.aspect;
  const done = clamp(s.amount, 0, 1) * width;
  const bar = (w: number, colour: Rgb, opacity: number): Part =>
    pen.box([(w - width) / 2, 0.25], [w, 0.28], 0.14, colour, opacity);
  return [
    pen.line(s.field('what'), pen.hand(0.34), { at: [-width / 2, -0.25], align: 'left' }, width - 1),
    pen.line(percentOf(s.amount), pen.hand(0.34, 'mono'), { at: [width / 2, -0.25], align: 'right' }),
    bar(width, s.paper, 1),
    ...(done > 0.02 ? [bar(done, s.colour, 1)] : []),
  ];
}

/** Slats of a battery. */
const SLATS = 5;

function battery(s: PieceSetting, pen: Pen): Part[] {
  const left = -pen.aspect / 2;
  const step = 0.3;
  const full = clamp(s.amount, 0, 1) * SLATS;
  const slats = Array.from({ length: SLATS }, (_, i): Part => {
    // Each slat is as tall as it is charged; an empty one is a line at its foot.
    const height = 0.12 + 0.58 * clamp(full - i, 0, 1);
    return pen.box([left + 0.12 + i * step, 0.35 - height / 2], [0.2, height], 0.05, s.colour, full > i ? 1 : 0.4);
  });
  return [
    ...slats,
    pen.line(percentOf(s.amount), pen.hand(0.5, 'mono'), { at: [pen.aspect / 2, 0.06], align: 'right' }),
  ];
}

function place(s: PieceSetting, pen: Pen): Part[] {
  const at: Point = [0, -0.16];
  const far = (s.frame % PULSE) / PULSE;
  const outer = 0.2 + 0.44 * far;
  const waves = ring(ovalContour(outer, outer), ovalContour(outer - 0.04, outer - 0.04));
  return [
    pen.shape(movedBy(waves, at), s.colour, 1 - far),
    pen.shape(movedBy([ovalContour(0.26, 0.26)], at), s.paper),
    pen.shape(movedBy([ovalContour(0.18, 0.18)], at), s.colour),
    pen.line(s.field('name'), pen.hand(0.19, 'sans bold'), { at: [0, 0.32], align: 'middle' }, pen.aspect),
  ];
}

const share = (label: string, base: number, help: string): PieceAmount => ({
  label,
  base,
  min: 0,
  max: 1,
  step: 0.01,
  help,
});

export const PIECES = {
  call: {
    title: 'Incoming call',
    aspect: 2.3,
    fields: [
      { id: 'who', label: 'Who', base: 'Ada Merrow' },
      { id: 'says', label: 'Below it', base: 'is calling from the harbour office' },
      { id: 'take', label: 'Left button', base: 'Take it' },
      { id: 'leave', label: 'Right button', base: 'Not now' },
    ],
    draw: call,
  },
  message: {
    title: 'Message',
    aspect: 3,
    fields: [
      { id: 'who', label: 'Who', base: 'Tidewater Post' },
      { id: 'when', label: 'When', base: '07:42' },
      { id: 'words', label: 'Words', base: 'Gale warning: the ferry stays in port until noon.', isLong: true },
    ],
    draw: message,
  },
  chat: {
    title: 'Chat',
    aspect: 1.2,
    fields: [
      {
        id: 'lines',
        label: 'Lines',
        base: '< Are you at the quay?\n> Ten minutes.\n< Bring the spare lamp.\n> Already in the bag.',
        isLong: true,
      },
    ],
    amount: {
      label: 'Lines shown',
      base: 4,
      min: 0,
      max: 40,
      step: 0.05,
      help: 'How many lines are there by now; between two, the next one rises',
    },
    draw: chat,
  },
  clock: {
    title: 'Clock',
    aspect: 2.4,
    fields: [
      { id: 'from', label: 'Begins at', base: '07:42' },
      { id: 'below', label: 'Below it', base: 'Tuesday, high water 09:15' },
    ],
    amount: {
      label: 'Seconds passed',
      base: 0,
      min: 0,
      max: 86_400,
      step: 1,
      help: 'Seconds since the time it begins at: keys let it run',
    },
    draw: clock,
  },
  'how-far': {
    title: 'Progress',
    aspect: 6,
    fields: [{ id: 'what', label: 'What', base: 'Sending the log' }],
    amount: share('Done', 0.6, 'How much of it is done'),
    draw: howFar,
  },
  battery: {
    title: 'Battery',
    aspect: 3,
    fields: [],
    amount: share('Charge', 0.4, 'How full it is'),
    draw: battery,
  },
  place: {
    title: 'Map marker',
    aspect: 1.6,
    fields: [{ id: 'name', label: 'Name', base: 'North Mole' }],
    draw: place,
  },
} as const satisfies Readonly<Record<string, Piece>>;

export type PieceKind = keyof typeof PIECES;

/** A piece by its name, as all of them are. */
export const pieceOf = (kind: PieceKind): Piece => PIECES[kind];

/** What a piece draws: one high, about its own middle. */
export function partsOfPiece(kind: PieceKind, s: PieceSetting): Part[] {
  const piece = pieceOf(kind);
  return piece.draw(s, new Pen(s, piece.aspect));
}
