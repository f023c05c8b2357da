/**
 * The second pass over a shot whose sections were followed one after the other with settings of their own. Each section
 * is solved with the last frames of the one before it in their places: it meets that one without a step, and nothing
 * that follows later moves what was there before.
 */
import type { Quad } from '../geometry/quad';
import type { FrameResult } from './frame-result';
import { refineJointly } from './joint-refinement';

/** Frames that tell a place and a movement: with them in their places, a section goes on as the one before it ended. */
const MEETING = 2;

/** Rows from `from` up to and without `to`. */
interface Run {
  readonly from: number;
  readonly to: number;
}

function runsOf(results: readonly FrameResult[], partOf: (frame: number) => unknown): Run[] {
  const runs: Run[] = [];
  for (let from = 0; from < results.length;) {
    const part = partOf(results[from]!.frame);
    let to = from + 1;
    while (to < results.length && partOf(results[to]!.frame) === part) to++;
    runs.push({ from, to });
    from = to;
  }
  return runs;
}

/** Where runs meet, seen from the reference outwards: just behind a frame that was found, so that all before it is told. */
function seams(results: readonly FrameResult[], runs: readonly Run[], middle: number): Run[] {
  const found = (i: number): boolean => results[i]!.homography !== null;
  const ends = [0, ...runs.map((r) => r.to)].map((at) => {
    let i = at;
    if (at > middle) while (i < results.length && !found(i - 1)) i++;
    else while (i > 0 && !found(i)) i--;
    return i;
  });
  const sorted = [...new Set(ends)].sort((a, b) => a - b);
  return sorted.slice(1).map((to, i) => ({ from: sorted[i]!, to }));
}

/**
 * {@link refineJointly}, section by section, from the one that holds the reference frame outwards.
 * @param partOf what tells a frame's section from others: equal for frames of one
 */
export function refineInSections(
  results: readonly FrameResult[],
  pin: Quad,
  exact: ReadonlySet<number>,
  { partOf, referenceFrame }: { readonly partOf: (frame: number) => unknown; readonly referenceFrame: number },
): FrameResult[] {
  const runs = runsOf(results, partOf);
  if (runs.length < 2) return refineJointly(results, pin, exact);
  const at = results.findIndex((r) => r.frame >= referenceFrame);
  const middle = at < 0 ? results.length - 1 : at;
  const meeting = seams(results, runs, middle);
  const own = meeting.findIndex((r) => middle >= r.from && middle < r.to);
  const out: FrameResult[] = [...results];
  const solve = (from: number, to: number, fixed: readonly number[]): void => {
    const rows = out.slice(from, to);
    const still = new Set([...exact, ...fixed.map((i) => out[i]!.frame)]);
    for (const [i, r] of refineJointly(rows, pin, still).entries()) out[from + i] = r;
  };
  solve(meeting[own]!.from, meeting[own]!.to, []);
  const near = Array.from({ length: MEETING }, (_, i) => i);
  for (const { from, to } of meeting.slice(own + 1)) {
    const before = near.map((i) => from - 1 - i).filter((i) => i >= 0);
    solve(Math.min(...before), to, before);
  }
  for (const { from, to } of meeting.slice(0, own).reverse()) {
    const before = near.map((i) => to + i).filter((i) => i < out.length);
    solve(from, Math.max(...before) + 1, before);
  }
  return out;
}
