/**
 * Timecode by frame count. Source: SMPTE ST 12-1:2014, section 5.2: at 30000/1001 and 60000/1001 frames a second
 * drop-frame timecode leaves out the first two (four) numbers of every minute but each tenth, so that an hour of it is
 * 107,892 frames (215,784).
 */

export interface Counting {
  /** numbers in a second */
  readonly base: number;
  readonly drop: boolean;
}

/** Denominator of the rates of NTSC. Source: SMPTE ST 12-1. */
const NTSC = 1001;
const pad = (v: number): string => String(v).padStart(2, '0');

/** How frames of that rate (a fraction) are counted. @throws CoreError `invalid` for drop-frame counting of a rate that has none */
export function countingOf(frameRate: readonly [number, number], drop: boolean): Counting {
  const base = Math.round(frameRate[0] / frameRate[1]);
  return { base, drop: drop && frameRate[1] === NTSC && (base === 30 || base === 60) };
}

/** Frames since 00:00:00:00. @returns null for a text that is no timecode of that counting */
export function framesOf(timecode: string, frameRate: readonly [number, number]): number | null {
  const m = /^(\d{1,2})[:.](\d{2})[:.](\d{2})([:;.])(\d{2,3})$/.exec(timecode.trim());
  if (!m) return null;
  const [h, min, s, f] = [m[1], m[2], m[3], m[5]].map(Number) as [number, number, number, number];
  const c = countingOf(frameRate, m[4] !== ':');
  if (h > 23 || min > 59 || s > 59 || f >= c.base) return null;
  const skipped = c.drop ? c.base / 15 : 0;
  const minutes = 60 * h + min;
  if (c.drop && s === 0 && f < skipped && min % 10 !== 0) return null;
  return (3600 * h + 60 * min + s) * c.base + f - skipped * (minutes - Math.floor(minutes / 10));
}

/** The timecode of a count of frames; a day begins again. */
export function timecodeOf(frames: number, frameRate: readonly [number, number], drop: boolean): string {
  const c = countingOf(frameRate, drop);
  const skipped = c.drop ? c.base / 15 : 0;
  const perTen = 600 * c.base - 9 * skipped;
  const perMinute = 60 * c.base - skipped;
  const day = 144 * perTen;
  let n = ((frames % day) + day) % day;
  if (c.drop) {
    const tens = Math.floor(n / perTen);
    const rest = n % perTen;
    n += 9 * skipped * tens + (rest >= 60 * c.base ? skipped * (1 + Math.floor((rest - 60 * c.base) / perMinute)) : 0);
  }
  const f = n % c.base;
  const s = Math.floor(n / c.base);
  return `${pad(Math.floor(s / 3600) % 24)}:${pad(Math.floor(s / 60) % 60)}:${pad(s % 60)}${c.drop ? ';' : ':'}${pad(f)}`;
}

/** The timecode `frames` later, counted the same way; null where it cannot be read. */
export function timecodeAfter(timecode: string, frames: number, frameRate: readonly [number, number]): string | null {
  const start = framesOf(timecode, frameRate);
  return start === null ? null : timecodeOf(start + frames, frameRate, /[;.]\d+$/.test(timecode));
}
