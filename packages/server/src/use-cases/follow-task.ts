/** What a run of following works on, as the tables have it when it begins or is taken up again. */
import { frameInputs, isSameInput } from '@yarlop/pipeline/frame-inputs';
import { areaOf } from '@yarlop/pipeline/screen-file';
import { startAfter, steadiedStretches } from '@yarlop/pipeline/steadied';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Context } from '../context';
import type { Checkpoint, FrameRow, JobRow, MediaRow, MemoryRow } from '../rows';
import * as solves from '../sql/solves';
import type { Direction, FollowTask, Start } from '../worker-protocol';
import { inputOf } from './job-input';
import type { InputsOf, Place } from './parts';
import { LAST_FRAME, listOf } from './parts';
import { passingBefore } from './passing';

interface Solved {
  readonly frame: number;
  readonly corners: Quad | null;
}

/** What of a run was followed before: what it is followed with, by frame, and its area. */
interface Before {
  readonly quad: Quad;
  readonly inputs: InputsOf;
}

export function placesOf(job: Pick<JobRow, 'input' | 'solveId'>): readonly Place[] {
  const { places } = inputOf('follow', job);
  return places ?? [{ from: 0, to: LAST_FRAME, own: job.solveId!, first: null }];
}

/** The solve that holds a frame of a run. @param isSteadied it was looked at on the steadied plate */
export function solveAt(places: readonly Place[], frame: number, isSteadied: boolean): number {
  const at = places.find((p) => frame <= p.to) ?? places.at(-1)!;
  return isSteadied ? at.own : (at.first ?? at.own);
}

/** Frames of solves that were followed with what they would be now, as corners of the area that is followed. */
async function solved(
  c: Pick<Context, 'db'>,
  places: readonly Place[],
  { quad, inputs }: Before,
  pick: (p: Place) => number,
): Promise<Map<number, Solved>> {
  const by = new Map<number, Solved>();
  for (const p of places)
    for (const { frame, homography, inputs: was } of await c.db.all<Pick<FrameRow, 'frame' | 'homography' | 'inputs'>>(
      solves.framesIn,
      [pick(p), p.from, p.to],
    ))
      if (!inputs || isSameInput(was, inputs(frame)))
        by.set(frame, { frame, corners: homography && mapQuad(homography, quad) });
  return by;
}

/**
 * Where a direction goes on: from a memory, after solved frames, or at the reference.
 * @param isTakenUp it was cut off: it goes on from its memory, though frames beyond that may be left of a run before
 */
function beginOf(
  direction: Direction,
  reference: number,
  by: ReadonlyMap<number, Solved>,
  memories: readonly Checkpoint[],
  isTakenUp: boolean,
): { readonly checkpoint?: Checkpoint; readonly start?: Start } {
  const step = direction === 'forwards' ? 1 : -1;
  const away = (frame: number): number => (frame - reference) * step;
  let open = reference + step;
  while (by.has(open)) open += step;
  let last = open - step;
  while (last !== reference && !by.get(last)?.corners) last -= step;
  const checkpoint = memories
    .filter((m) => away(m.frame) < away(open) && (isTakenUp || away(m.frame) >= away(last)))
    .sort((a, b) => away(b.frame) - away(a.frame))[0];
  if (checkpoint && away(checkpoint.frame) > 0) return { checkpoint };
  if (last === reference) return {};
  return { start: startAfter(last, step, (n) => (away(n) >= 0 ? by.get(n)?.corners : null)) };
}

/** @param job of following @param media its plate */
export async function followTask(
  c: Pick<Context, 'db' | 'readers'>,
  job: JobRow,
  media: MediaRow,
  folder: string,
): Promise<FollowTask> {
  const input = inputOf('follow', job);
  const { recipe, from, to } = input;
  const { referenceFrame } = recipe;
  const places = placesOf(job);
  const ids = { id: job.screenId!, shotId: job.shotId!, recipe };
  const passing = await passingBefore(c, ids, (s) => c.readers.track(s, job.mediaHash!));
  const before = { quad: areaOf(recipe).quad, inputs: frameInputs(recipe, passing) };
  const first = await solved(c, places, before, (p) => p.first ?? p.own);
  const used = [...new Set(places.map((p) => p.first ?? p.own))];
  const memories = await c.db.all<MemoryRow>(solves.memoriesOf, [job.screenId, listOf(used)]);
  const directions = input.directions ?? ['forwards', 'backwards'];
  const begins = directions.map((d) => {
    const asked = input.starts?.[d];
    // A memory counts for the frames of its own part alone.
    const valid = memories.flatMap((m) => {
      const own = m[d];
      return own && solveAt(places, own.frame, false) === m.id ? [own] : [];
    });
    return [d, asked ? { start: asked } : beginOf(d, referenceFrame, first, valid, job.attempt > 1)] as const;
  });
  const again = steadiedStretches(recipe, referenceFrame, [from, to]).filter((s) => directions.includes(s.direction));
  const own = again.length > 0 ? await solved(c, places, before, (p) => p.own) : new Map<number, Solved>();
  const isWhole = (s: (typeof again)[number]): boolean => {
    const step = s.direction === 'forwards' ? 1 : -1;
    for (let n = s.first; n !== s.last + step; n += step) if (!own.has(n)) return false;
    return true;
  };
  return {
    kind: 'follow',
    media,
    folder,
    recipe,
    from,
    to,
    keepLooking: input.keepLooking ?? false,
    directions,
    begins: Object.fromEntries(begins),
    passing,
    steadied: again.filter((s) => !isWhole(s)),
    known:
      again.length > 0 ? [...first.values()].flatMap((f) => (f.corners ? [{ ...f, corners: f.corners }] : [])) : [],
  };
}
