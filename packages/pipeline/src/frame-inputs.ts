/**
 * What a frame was followed with beyond the settings of its section: where what passes in front lies on it, and how spots
 * were placed from the reference up to it. It is kept with each frame, so that an edit outdates the frames that it reaches
 * and no others.
 */
import { createHash } from 'node:crypto';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Passing } from '@yarlop/core/follow/outline/outlines';
import { distance } from '@yarlop/core/geometry/point';
import type { Point } from '@yarlop/core/geometry/point';

type Spots = NonNullable<ScreenFile['spots']>;

export interface FrameInputs {
  /** outlines of what passes, px of the picture; missing where the Screen ignores nothing */
  readonly passing?: readonly (readonly Point[])[];
  /** a digest of how spots were placed; missing where there are none */
  readonly spots?: string;
}

/** px by which a passing outline may lie elsewhere without anything being followed otherwise: less than its margin. */
const SAME_PLACE = 1.5;

/** What of spots holds for all frames: the rest belongs to the frames that it lies on. */
export function lastingOf(spots: Spots): unknown[] {
  return spots.map(({ path: _path, from: _from, to: _to, keys, ...rest }) =>
    // A spot that is matched to the frames around it knows of those to come.
    rest.match === 'hand' ? { ...rest, keys } : rest,
  );
}

const digest = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 16);

/** How spots stand on one frame by themselves. */
function onFrame(spots: Spots): (frame: number) => string {
  const known = spots.map(({ keys = [], path = [], from = 0, to = Infinity }) => ({
    from,
    to,
    keys: new Map(keys.map((k) => [k.frame, k])),
    path: new Map(path.map((p) => [p[0], p])),
  }));
  return (frame) =>
    JSON.stringify(known.map((s) => [frame >= s.from && frame <= s.to, s.keys.get(frame), s.path.get(frame)]));
}

/** Digests of how spots were placed from the reference to a frame: a spot is followed from frame to frame. */
function chained(spots: Spots, referenceFrame: number): (frame: number) => string {
  const at = onFrame(spots);
  const known = new Map([[referenceFrame, digest(at(referenceFrame))]]);
  return (frame) => {
    const step = frame < referenceFrame ? -1 : 1;
    let begin = frame;
    while (!known.has(begin)) begin -= step;
    for (let n = begin; n !== frame; n += step) known.set(n + step, digest(known.get(n)! + at(n + step)));
    return known.get(frame)!;
  };
}

/**
 * Tells what each frame is followed with.
 * @param passing by what the recipe ignores, as far as it was followed
 * @returns null where no frame differs from another by such
 */
export function frameInputs(
  { spots = [], ignores = [], referenceFrame }: Pick<ScreenFile, 'spots' | 'ignores' | 'referenceFrame'>,
  passing: readonly Passing[],
): ((frame: number) => FrameInputs) | null {
  if (spots.length === 0 && ignores.length === 0) return null;
  const placed = spots.length > 0 ? chained(spots, referenceFrame) : null;
  const outlines = passing.map((p) => new Map(p.map((f) => [f.frame, f.points])));
  return (frame) => ({
    ...(ignores.length > 0 ? { passing: outlines.flatMap((o) => (o.has(frame) ? [o.get(frame)!] : [])) } : {}),
    ...(placed ? { spots: placed(frame) } : {}),
  });
}

function isSameOutline(a: readonly Point[], b: readonly Point[]): boolean {
  return a.length === b.length && a.every((p, i) => distance(p, b[i]!) < SAME_PLACE);
}

/** Whether a frame was followed with what it would be followed with now. @param was null where that was not kept */
export function isSameInput(was: FrameInputs | null, now: FrameInputs): boolean {
  if (!was) return true;
  const [a, b] = [was.passing ?? [], now.passing ?? []];
  return was.spots === now.spots && a.length === b.length && a.every((o, i) => isSameOutline(o, b[i]!));
}
