/**
 * Two runs over the same frames, the second of which shows more and is believed: but where they are far apart and the second
 * has no evidence to trust, the one whose way is the smoother. A Screen does not leap to and fro.
 */
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { FrameResult } from '../../solve/frame-result';
import { mean, median } from '../../statistics';

const APART = {
  /** px at 1920 wide from which two runs have the Screen elsewhere. By trial. */
  least: 3,
  /** Trust by its own evidence from which the second is believed there. By trial. */
  trusted: 0.5,
} as const;

/** What two runs made of a frame. */
export interface Both {
  readonly first: FrameResult;
  readonly second: FrameResult;
  /** of the second by its own evidence, whatever is not known of where it was followed from; 0 to 1 */
  readonly trust: number;
}

const cornersOf = (r: FrameResult, pin: Quad): Quad | null => r.homography && mapQuad(r.homography, pin);

const apart = (a: Quad, b: Quad): number => mean(a.map((p, i) => distance(p, b[i]!)));

/** Natural logarithm of how much a way bends around some of its frames, px: one leap is no worse than a few. */
function roughness(way: readonly (Quad | null)[], from: number, to: number): number {
  let sum = 0;
  for (let i = Math.max(1, from - 1); i <= Math.min(way.length - 2, to); i++) {
    const [a, b, c] = [way[i - 1], way[i], way[i + 1]];
    if (!a || !b || !c) continue;
    const middle = a.map((p, k) => [(p[0] + c[k]![0]) / 2, (p[1] + c[k]![1]) / 2]) as unknown as Quad;
    sum += Math.log1p(2 * apart(middle, b));
  }
  return sum;
}

/** Stretches of rows, `to` exclusive, on which something holds. */
function stretchesOf(holds: readonly boolean[]): { readonly from: number; readonly to: number }[] {
  const out: { from: number; to: number }[] = [];
  for (const [i, h] of holds.entries()) {
    if (!h) continue;
    const last = out.at(-1);
    if (last?.to === i) last.to++;
    else out.push({ from: i, to: i + 1 });
  }
  return out;
}

/** Whether the second run knows most frames better, with all that is not known of where it was followed from. */
export function isKnownBetter(both: readonly Pick<Both, 'first' | 'second'>[]): boolean {
  const found = both.filter((b) => b.first.homography && b.second.homography && b.second !== b.first);
  const usual = (run: 'first' | 'second'): number => median(found.map((b) => Math.max(...b[run].sigma)));
  return found.length > 0 && usual('second') < usual('first');
}

/**
 * @param both of consecutive frames
 * @param pin what was followed, px of the reference frame
 * @param width of the plate, px
 * @returns of each frame the one to believe
 */
export function betterOf(both: readonly Both[], pin: Quad, width: number): FrameResult[] {
  const first = both.map((b) => cornersOf(b.first, pin));
  const second = both.map((b) => cornersOf(b.second, pin));
  const least = APART.least * (width / 1920);
  const isApart = first.map((q, i) => q !== null && second[i] !== null && apart(q, second[i]!) > least);
  // Where only one of them found the Screen, that one.
  const out = both.map((b, i) => (second[i] ? b.second : b.first));
  for (const { from, to } of stretchesOf(isApart)) {
    if (median(both.slice(from, to).map((b) => b.trust)) >= APART.trusted) continue;
    const changed = second.map((q, i) => (i >= from && i < to ? first[i]! : q));
    if (roughness(changed, from, to) < roughness(second, from, to))
      for (let i = from; i < to; i++) out[i] = both[i]!.first;
  }
  return out;
}
