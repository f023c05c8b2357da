import Timecode from 'smpte-timecode';
import type { Probe } from '../types';

export function rateText([n, d]: readonly [number, number]): string {
  return d === 1 ? String(n) : (n / d).toFixed(3);
}

export function bytesText(n: number): string {
  if (n < 1024) return `${n} bytes`;
  if (n < 1024 ** 2) return `${(n / 1024).toFixed(1)} kB`;
  return n < 1024 ** 3 ? `${(n / 1024 ** 2).toFixed(1)} MB` : `${(n / 1024 ** 3).toFixed(1)} GB`;
}

export function countText(n: number, one: string, more = `${one}s`): string {
  return `${n} ${n === 1 ? one : more}`;
}

/** What is told without a capital and a full stop, with both. */
export function asSentence(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}

/** A day of this year, as short as the person's language has it. @param time ms */
export function dayText(time: number): string {
  return new Date(time).toLocaleDateString(undefined, { month: 'short', day: 'numeric' });
}

/** Steps of time from which on they are told, s. */
const SPANS = [
  ['day', 86_400],
  ['hour', 3600],
  ['minute', 60],
] as const;

/** How long ago a moment is, in the person's language. @param now ms */
export function agoText(moment: string, now = Date.now()): string {
  const seconds = (now - new Date(moment).getTime()) / 1000;
  const [unit, length] = SPANS.find(([, s]) => seconds >= s) ?? ['second', 1];
  if (unit === 'second') return 'just now';
  return new Intl.RelativeTimeFormat('en', { numeric: 'auto' }).format(-Math.floor(seconds / length), unit);
}

/** White of the narrow 10-bit range of video, and its black (Rec. ITU-R BT.709-6, item 5.6). */
const NARROW = { black: 64, white: 940 } as const;
/** Code values of white that read-outs may be told in. */
const WHITES: readonly number[] = [255, 1, 1023, NARROW.white];
const blackOf = (white: number): number => (white === NARROW.white ? NARROW.black : 0);
export const rangeChoices = WHITES.map((w) => ({ value: w, text: `${blackOf(w)} to ${w}` }));

/** A code value of a picture in another range: whole numbers, or three places where white is 1. @param code 0 to 255 */
export function codeText(code: number, white: number): string {
  const black = blackOf(white);
  const value = black + (code * (white - black)) / 255;
  return white === 1 ? value.toFixed(3) : String(Math.round(value));
}

/** R, G, B as shares of the range. */
export function cssColour(rgb: readonly number[]): string {
  return `rgb(${rgb.map((v) => Math.round(255 * v)).join(' ')})`;
}

/** Timecode of a frame (SMPTE ST 12-1), or null for a rate that it does not know. */
export function timecodeOf(frame: number, p: Probe): string | null {
  try {
    const rate = Math.round((p.frameRate[0] / p.frameRate[1]) * 100) / 100;
    const known = [23.98, 24, 25, 29.97, 30, 48, 50, 59.94, 60].find((r) => Math.abs(r - rate) < 0.01);
    if (!known) return null;
    const fps = known === 23.98 ? 23.976 : known;
    const start = p.timecode ? Timecode(p.timecode, fps, p.timecode.includes(';')) : Timecode(0, fps, false);
    return start.add(frame).toString();
  } catch {
    return null;
  }
}

/** What a frame can rest on, in the order in which it is shown. */
export const EVIDENCE_KINDS = ['texture', 'edges', 'spots', 'hand', 'scene'] as const;

/** Code values 0 to 255 as shares of the range, as recipes hold them. */
export function codeValues(rgb: readonly number[]): number[] {
  return rgb.map((v) => Number((v / 255).toFixed(3)));
}
