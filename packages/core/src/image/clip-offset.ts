/**
 * Which frame of a new version of a clip is which of the old one. Versions may differ in grade, size, length and start;
 * each frame is looked at as a small picture less the mean of its own clip, so that what moves decides and not what
 * stands. Likeness is the normalised correlation, which knows nothing of gain and lift.
 */
import { clamp } from '../clamp';

/** Small pictures of a clip, one after the other, `size` numbers each. */
export interface SmallFrames {
  readonly size: number;
  readonly count: number;
  readonly data: Float32Array;
}

export interface ClipOffset {
  /** frame of the new clip less frame of the old one */
  readonly offset: number;
  /** mean correlation of the pictures as they are, at that offset: 1 where they are the same */
  readonly likeness: number;
  /**
   * how much better what moves agrees there than at any offset two frames or more away, 0 to 1; near 0 where nothing
   * moves
   */
  readonly margin: number;
}

/** Share of the shorter clip that must lie over the other. By trial. */
const LEAST_OVERLAP = 0.4;
/** Places that are looked at again with all of the picture. By trial. */
const CANDIDATES = 6;

/** Pictures of unit length about zero. @param mean taken off first; the picture's own mean alone when left out */
function normalised(f: SmallFrames, mean: Float32Array | null): SmallFrames {
  const { size, count } = f;
  const data = new Float32Array(f.data.length);
  for (let n = 0; n < count; n++) {
    let sum = 0;
    for (let i = 0; i < size; i++) sum += data[n * size + i] = f.data[n * size + i]! - (mean ? mean[i]! : 0);
    let squares = 0;
    for (let i = 0; i < size; i++) squares += (data[n * size + i]! -= sum / size) ** 2;
    const k = squares > 1e-9 ? 1 / Math.sqrt(squares) : 0;
    for (let i = 0; i < size; i++) data[n * size + i]! *= k;
  }
  return { size, count, data };
}

function meanOf({ size, count, data }: SmallFrames): Float32Array {
  const out = new Float32Array(size);
  for (let i = 0; i < data.length; i++) out[i % size]! += data[i]! / count;
  return out;
}

/** Mean of the products of frames that lie over each other. */
function agreement(a: SmallFrames, b: SmallFrames, offset: number): number {
  const from = Math.max(0, -offset);
  const to = Math.min(a.count, b.count - offset);
  let sum = 0;
  for (let i = from * a.size, k = (from + offset) * a.size; i < to * a.size; i++, k++) sum += a.data[i]! * b.data[k]!;
  return sum / Math.max(1, to - from);
}

/** A quarter as wide and high, each the mean of sixteen, for a first look. @param width of the small pictures */
export function coarser(f: SmallFrames, width: number): SmallFrames {
  const rows = Math.floor(f.size / width);
  const w = Math.max(1, width >> 2);
  const h = Math.max(1, rows >> 2);
  const data = new Float32Array(f.count * w * h);
  for (let n = 0; n < f.count; n++)
    for (let y = 0; y < h * 4 && y < rows; y++)
      for (let x = 0; x < w * 4 && x < width; x++)
        data[n * w * h + (y >> 2) * w + (x >> 2)]! += f.data[n * f.size + y * width + x]! / 16;
  return { size: w * h, count: f.count, data };
}

/** @param width of the small pictures, alike for both. @returns null for clips that cannot lie over each other */
export function clipOffset(old: SmallFrames, now: SmallFrames, width: number): ClipOffset | null {
  const least = Math.max(1, Math.ceil(LEAST_OVERLAP * Math.min(old.count, now.count)));
  if (old.count === 0 || now.count === 0) return null;
  const [smallOld, smallNow] = [old, now].map((f) => coarser(f, width)).map((f) => normalised(f, meanOf(f))) as [
    SmallFrames,
    SmallFrames,
  ];
  const found: { offset: number; score: number }[] = [];
  for (let offset = least - old.count; offset <= now.count - least; offset++)
    found.push({ offset, score: agreement(smallOld, smallNow, offset) });
  const [movingOld, movingNow] = [old, now].map((f) => normalised(f, meanOf(f))) as [SmallFrames, SmallFrames];
  // Where nothing tells them apart, the one that is nearest to no offset.
  const best = [...found]
    .sort((a, b) => b.score - a.score || Math.abs(a.offset) - Math.abs(b.offset))
    .slice(0, CANDIDATES)
    .map(({ offset }) => ({ offset, score: agreement(movingOld, movingNow, offset) }))
    .sort((a, b) => b.score - a.score || Math.abs(a.offset) - Math.abs(b.offset))[0]!;
  const own = found.find((f) => f.offset === best.offset)!.score;
  const other = found.filter((f) => Math.abs(f.offset - best.offset) >= 2).reduce((m, f) => Math.max(m, f.score), -1);
  return {
    offset: best.offset,
    likeness: agreement(normalised(old, null), normalised(now, null), best.offset),
    margin: clamp(own - other, 0, 1),
  };
}
