/**
 * A Screen's solves. Each belongs to one way of following, by a hash of all that counts for it; a recipe whose sections
 * are followed otherwise takes each frame from the solve of its part. So an edit throws nothing away: it names other
 * solves, and an earlier recipe finds its own again.
 */
import { createHash } from 'node:crypto';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { behindLens } from '@yarlop/core/solve/behind-lens';
import type { FrameInputs } from '@yarlop/pipeline/frame-inputs';
import { isSameInput } from '@yarlop/pipeline/frame-inputs';
import { areaOf, formerIdentity, hasCornerSpots, solveIdentity } from '@yarlop/pipeline/screen-file';
import type { Part } from '@yarlop/pipeline/sections';
import { partsOf } from '@yarlop/pipeline/sections';
import type { Context } from '../context';
import type { FrameRow, ScreenRow, SolveRow } from '../rows';
import * as solves from '../sql/solves';

/** A recipe without sections, and the one that its frames are followed with first. */
type Manner = Pick<Part, 'screen' | 'first'>;

/** One way of following, and what it has found. */
export interface Way {
  readonly manner: Manner;
  readonly identity: string;
  readonly solve: SolveRow | null;
  /** followed alike but for the lens, which was typed since: their frames are told behind that one */
  readonly others: readonly SolvedWay[];
}

/** Frames of a shot, both ends inclusive, that are followed in one way. */
export interface SolvedPart {
  readonly from: number;
  readonly to: number;
  readonly own: Way;
  /** how they are followed first, for a second run on the steadied plate */
  readonly first: Way | null;
}

/** The last frame that the tables can name. */
export const LAST_FRAME = 2 ** 31 - 1;

const hashed = (text: string): string => createHash('sha256').update(text).digest('hex');

/** What the solve of one way of following is found by. */
export function identityOf(manner: Manner, mediaHash: string): string {
  return hashed(solveIdentity(manner, mediaHash));
}

/** The same way as it was hashed before; it counts where spots were. */
function formerSolve(all: readonly SolveRow[], manner: Manner, mediaHash: string): SolveRow | null {
  const identity = hashed(formerIdentity(manner, mediaHash));
  return all.find((s) => s.identity === identity) ?? null;
}

/** Whether a pin moved by less than a twentieth of its size: it was nudged, not set anew. */
function isNudge(a: Quad, b: Quad): boolean {
  const size = Math.max(distance(a[0], a[2]), distance(a[1], a[3]));
  return a.every((p, i) => distance(p, b[i]!) < 0.05 * size);
}

/** A Screen's solves, and those that its recipe takes its frames from. */
export interface Solves {
  readonly all: readonly SolveRow[];
  /** in order, the whole shot */
  readonly parts: readonly SolvedPart[];
  /** of the reference frame's part, or of another where that one has none; null before anything was followed */
  readonly main: SolveRow | null;
}

export async function solvesOf(c: Pick<Context, 'db'>, screen: ScreenRow, mediaHash: string): Promise<Solves> {
  const all = await c.db.all<SolveRow>(solves.listSolves, [screen.id]);
  const { pin, referenceFrame } = screen.recipe;
  // The pin rides on what was followed, wherever it is set; just spots at its corners are followed with it.
  const bound = hasCornerSpots(screen.recipe);
  const wayOf = (manner: Manner): Way => {
    const identity = identityOf(manner, mediaHash);
    const known = all.filter((s) => !bound || isNudge(s.pin, pin));
    const solve = known.find((s) => s.identity === identity) ?? formerSolve(known, manner, mediaHash);
    return { manner, identity, solve, others: followedBehind(known, manner, mediaHash) };
  };
  const parts = partsOf(screen.recipe).map(({ from, to, screen: own, first }) => ({
    from,
    to: Math.min(to, LAST_FRAME),
    own: wayOf({ screen: own, first }),
    first: first && wayOf({ screen: first, first: null }),
  }));
  const foundBy = (w: Way | null | undefined): SolveRow | null => w?.solve ?? w?.others[0]?.solve ?? null;
  const of = (p: SolvedPart | undefined): SolveRow | null => foundBy(p?.own) ?? foundBy(p?.first);
  const home = parts.find((p) => referenceFrame <= p.to);
  return { all, parts, main: of(home) ?? of(parts.find((p) => of(p))) };
}

/** A way of following that has found something. */
export type SolvedWay = Omit<Way, 'solve' | 'others'> & { readonly solve: SolveRow };

/** The lens that a recipe names; null where it is to be found. */
export const typedLens = ({ lens }: Pick<Manner['screen'], 'lens'>): number | null =>
  typeof lens === 'number' ? lens : null;

/** The ways that differ from one whose lens was typed in the lens alone, the newest first. */
function followedBehind(all: readonly SolveRow[], manner: Manner, mediaHash: string): SolvedWay[] {
  const typed = typedLens(manner.screen);
  if (typed === null) return [];
  const ways = all.map((solve): SolvedWay => {
    const { lens: _lens, ...plain } = manner.screen;
    const own = { ...manner, screen: solve.lens === null ? plain : { ...plain, lens: solve.lens } };
    return { manner: own, identity: identityOf(own, mediaHash), solve };
  });
  return ways.filter((w) => w.identity === w.solve.identity && w.solve.lens !== typed);
}

/** The ways whose solves a recipe takes its frames from, each once. */
export function usedBy({ parts }: Pick<Solves, 'parts'>): SolvedWay[] {
  const ways = parts.flatMap(({ own, first }) => (first ? [own, first] : [own]));
  const solved = ways.flatMap((w) => [
    ...(w.solve ? [{ manner: w.manner, identity: w.identity, solve: w.solve }] : []),
    ...w.others,
  ]);
  return [...new Map(solved.map((w) => [w.solve.id, w])).values()];
}

/** A list of numbers as statements take it. */
export const listOf = (ids: readonly number[]): string => ids.join(',');

/** Where the results of a run go: by frame, and by whether the plate was held still. */
export interface Place {
  readonly from: number;
  readonly to: number;
  readonly own: number;
  readonly first: number | null;
}

/** The solves that a recipe needs on some frames; those that are not there yet begin. */
export async function placesFor(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  { parts, main }: Solves,
  [from, to]: readonly [number, number],
): Promise<Place[]> {
  const pin = main?.pin ?? areaOf(screen.recipe).quad;
  const begun = new Map<string, number>();
  const idOf = async ({ manner, identity, solve }: Way): Promise<number> => {
    const known = solve?.id ?? begun.get(identity);
    if (known !== undefined) return known;
    const row = [screen.id, identity, JSON.stringify(pin), screen.recipe.referenceFrame, typedLens(manner.screen)];
    const { insertId } = await c.db.run(solves.insertSolve, row);
    begun.set(identity, insertId);
    return insertId;
  };
  const places: Place[] = [];
  for (const p of parts)
    if (p.from <= to && p.to >= from)
      places.push({ from: p.from, to: p.to, own: await idOf(p.own), first: p.first && (await idOf(p.first)) });
  return places;
}

/** A frame as it was followed. */
export type FollowedFrame = FrameRow & {
  /** it was followed otherwise than the recipe says by now */
  readonly isStale: boolean;
};

/** What frames are followed with now, see `frame-inputs.ts`; null where they do not differ by that. */
export type InputsOf = ((frame: number) => FrameInputs) | null;

/** What the solves hold of a recipe's frames, in order. */
export async function followedFrames(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  { all, parts, main }: Solves,
  inputs: InputsOf,
): Promise<FollowedFrame[]> {
  const isOther = (r: FrameRow): boolean => inputs !== null && !isSameInput(r.inputs, inputs(r.frame));
  const by = new Map<number, FollowedFrame>();
  const read = async (id: number, from: number, to: number, isStale: boolean): Promise<void> => {
    for (const r of await c.db.all<FrameRow>(solves.listFrames, [id, from, to]))
      if (!by.has(r.frame)) by.set(r.frame, { ...r, isStale: isStale || isOther(r) });
  };
  const isWhole = (from: number, to: number): boolean => {
    if (to === LAST_FRAME) return false;
    for (let n = from; n <= to; n++) if (!by.has(n)) return false;
    return true;
  };
  /** What a way has found itself, then what is told by those that differ in the lens alone, then what they cannot tell. */
  const readWay = async ({ manner, solve, others }: Way, from: number, to: number, isStale: boolean): Promise<void> => {
    if (solve) await read(solve.id, from, to, isStale);
    if (others.length === 0 || isWhole(from, to)) return;
    const untold: FrameRow[] = [];
    for (const other of others)
      for (const r of await c.db.all<FrameRow>(solves.listFrames, [other.solve.id, from, to])) {
        if (by.has(r.frame)) continue;
        const moved = r.homography && behindLens(r.homography, r, other.solve.pin, typedLens(manner.screen)!);
        if (moved) by.set(r.frame, { ...r, homography: [...moved], isStale: isStale || isOther(r) });
        else untold.push(r);
      }
    for (const r of untold) if (!by.has(r.frame)) by.set(r.frame, { ...r, isStale: true });
  };
  for (const { from, to, own, first } of parts) {
    await readWay(own, from, to, false);
    if (first) await readWay(first, from, to, true);
  }
  // What was followed before an edit is shown until it is followed again.
  if (!main && all[0]) await read(all[0].id, 0, LAST_FRAME, true);
  if (main && screen.recipe.sections?.length)
    for (const r of await c.db.all<FrameRow>(solves.listNewest, [screen.id, screen.recipe.referenceFrame]))
      if (!by.has(r.frame)) by.set(r.frame, { ...r, isStale: true });
  return [...by.values()].sort((a, b) => a.frame - b.frame);
}
