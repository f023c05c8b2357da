/**
 * A new version of the plate (regraded, of another size, longer, cut elsewhere) takes the place of the old one:
 * recipes, tracks and touch-ups stay.
 */
import { scaling, multiply } from '@yarlop/core/geometry/matrix3';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { ClipOffset } from '@yarlop/core/image/clip-offset';
import { clipOffset } from '@yarlop/core/image/clip-offset';
import type { PlateChange } from '@yarlop/pipeline/moved-recipe';
import { movedRecipe } from '@yarlop/pipeline/moved-recipe';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { Executor } from '../database';
import type { Checkpoint, FrameRow, MediaRow, MemoryRow, ScreenRow, ShotRow } from '../rows';
import * as jobs from '../sql/jobs';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import * as shots from '../sql/shots';
import * as solves from '../sql/solves';
import { findShot } from './create-shot';
import { frameValues } from './frame-values';
import { sameShape } from './same-shape';
import { SMALL_WIDTH, smallFramesOf } from './small-frames-of';
import type { SolvedWay } from './parts';
import { LAST_FRAME, identityOf, listOf, solvesOf, usedBy } from './parts';

export interface FoundPlate extends ClipOffset {
  readonly scale: number;
  readonly frameCount: number;
  /** frames of the working range that the new plate has */
  readonly kept: number;
}

async function versions(
  c: Context,
  shotId: number,
  hash: string,
): Promise<{ shot: ShotRow; row: MediaRow; scale: number }> {
  const shot = await findShot(c, shotId);
  const row = await c.db.one<MediaRow>(media.findMedia, [hash]);
  const { width, height } = shot.probe;
  if (!row) throw new ApiError(404, 'not-found', 'The new plate does not exist in the library; bring it in again.');
  if (row.state !== 'ready')
    throw new ApiError(409, 'not-ready', row.problem ?? 'The new plate is still being read in.');
  if (hash === shot.mediaHash) throw new ApiError(422, 'invalid', 'That is the plate that the shot has.');
  if (!sameShape(shot.probe, row.probe))
    throw new ApiError(
      422,
      'invalid',
      `The new plate is ${row.probe.width}x${row.probe.height}, the old one ${width}x${height}: their shapes differ, so that nothing can be scaled. Use the same framing.`,
    );
  return { shot, row, scale: row.probe.width / width };
}

/** Where the old plate lies in the new one. @throws ApiError */
export async function lookForPlate(c: Context, shotId: number, hash: string): Promise<FoundPlate> {
  const { shot, row, scale } = await versions(c, shotId, hash);
  const found = clipOffset(await smallFramesOf(c, shot.mediaHash), await smallFramesOf(c, hash), SMALL_WIDTH);
  if (!found) throw new ApiError(422, 'invalid', 'The two plates share too few frames to be laid over each other.');
  return {
    ...found,
    scale,
    frameCount: row.frameCount,
    kept: Math.max(
      0,
      Math.min(row.frameCount - 1, shot.rangeTo + found.offset) - Math.max(0, shot.rangeFrom + found.offset) + 1,
    ),
  };
}

const movedMatrix = (m: readonly number[], scale: number): number[] =>
  multiply(scaling(scale), multiply(m, scaling(1 / scale)));

/**
 * What a run would go on from, and what it learnt of the camera; null where it followed spots, whose pictures are of
 * the old size.
 */
function movedCheckpoint({ frame, state }: Checkpoint, offset: number, scale: number): Checkpoint | null {
  if (scale !== 1 && state.spots.length > 0) return null;
  const corners = (q: Quad): Quad => mapQuad(scaling(scale), q);
  return {
    frame: frame + offset,
    state: {
      ...state,
      found: state.found.map((f) => ({ frame: f.frame + offset, corners: corners(f.corners) })),
      gap: state.gap === null ? null : state.gap + offset,
      last: null,
      stretch: null,
      looks: scale === 1 ? state.looks : null,
      softness: state.softness * scale,
      views: state.views.map((v) => ({
        corners: corners(v.corners),
        information: v.information.map((x) => x / (scale * scale)),
      })),
      keys: state.keys.map((k) => ({
        frame: k.frame + offset,
        homography: movedMatrix(k.homography, scale),
        sigma: k.sigma.map((x) => x * scale),
        velocity: k.velocity.map(([x, y]) => [x * scale, y * scale] as const),
        response: k.response?.map((x) => x * scale) ?? null,
      })),
    },
  };
}

/** What was followed, in frames and px of the new plate. */
function movedFrame(f: FrameRow, offset: number, scale: number): FrameRow & { readonly seen: object } {
  const map = (m: number[] | null): number[] | null => m && movedMatrix(m, scale);
  return {
    ...f,
    frame: f.frame + offset,
    homography: map(f.homography),
    sigma: f.sigma.map((s) => s * scale),
    information: f.information.map((v) => v / (scale * scale)),
    blur: f.blur * scale,
    seen: {},
    own: map(f.own),
    bow: f.bow?.map((v) => v * scale) ?? null,
    inputs: null,
  };
}

/** All that a solve holds. */
interface Content {
  readonly way: SolvedWay;
  readonly memory: MemoryRow | undefined;
  readonly frames: readonly FrameRow[];
}

async function contentOf(c: Context, way: SolvedWay): Promise<Content> {
  const { id, screenId } = way.solve;
  const [memory] = await c.db.all<MemoryRow>(solves.memoriesOf, [screenId, listOf([id])]);
  return { way, memory, frames: await c.db.all<FrameRow>(solves.listFrames, [id, 0, LAST_FRAME]) };
}

/** A solve of the old plate as one of the new plate. */
async function moveSolve(
  t: Executor,
  { way, memory, frames }: Content,
  { hash, ...change }: PlateChange & { readonly hash: string },
): Promise<void> {
  const { offset, scale, frameCount } = change;
  const { screen, first } = way.manner;
  const { screenId, pin, referenceFrame, lens } = way.solve;
  const { insertId } = await t.run(solves.insertSolve, [
    screenId,
    identityOf({ screen: movedRecipe(screen, change), first: first && movedRecipe(first, change) }, hash),
    JSON.stringify(mapQuad(scaling(scale), pin)),
    referenceFrame + offset,
    lens,
  ]);
  for (const side of ['forwards', 'backwards'] as const) {
    const own = memory?.[side];
    const moved = own && movedCheckpoint(own, offset, scale);
    if (moved) await t.run(solves.checkpoint[side], [JSON.stringify(moved), insertId]);
  }
  for (const f of frames)
    if (f.frame + offset >= 0 && f.frame + offset < frameCount)
      await t.run(solves.putFrame, frameValues(insertId, movedFrame(f, offset, scale)));
}

/** @throws ApiError 422 when a Screen would lose its reference frame; nothing is changed then */
export async function relink(c: Context, shotId: number, hash: string, offset: number): Promise<ShotRow> {
  const { shot, row, scale } = await versions(c, shotId, hash);
  const { frameCount } = row;
  const all = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  if (
    (await c.db.all<{ shotId: number | null; state: string }>(jobs.listJobs)).some(
      (j) => j.shotId === shotId && ['running', 'waiting', 'paused'].includes(j.state),
    )
  )
    throw new ApiError(
      409,
      'busy',
      'Jobs of this shot are at work; let them finish, or cancel them, before its plate changes.',
    );
  const [from, to] = [Math.max(0, shot.rangeFrom + offset), Math.min(frameCount - 1, shot.rangeTo + offset)];
  if (from > to)
    throw new ApiError(
      422,
      'out-of-range',
      `With an offset of ${offset} the new plate has no frame of the working range; look for the offset again.`,
    );
  let moved: { screen: ScreenRow; recipe: ScreenRow['recipe'] }[];
  try {
    moved = all.map((screen) => ({
      screen,
      recipe: parseScreen(movedRecipe(screen.recipe, { offset, scale, frameCount })),
    }));
  } catch (e) {
    throw e instanceof InputError ? new ApiError(422, 'out-of-range', e.message) : e;
  }
  const kept = await Promise.all(
    moved.map(async ({ screen }) =>
      Promise.all(usedBy(await solvesOf(c, screen, shot.mediaHash)).map((way) => contentOf(c, way))),
    ),
  );
  await c.db.transaction(async (t) => {
    await t.run(shots.relinkShot, [hash, from, to, shotId]);
    for (const [i, { screen, recipe }] of moved.entries()) {
      const { affectedRows } = await t.run(screens.saveScreen, [JSON.stringify(recipe), screen.id, screen.revision]);
      if (affectedRows === 0)
        throw new ApiError(
          409,
          'stale',
          `"${screen.recipe.name}" was saved elsewhere in between; nothing was changed. Try again.`,
        );
      await t.run(screens.insertRevision, [
        screen.id,
        screen.revision + 1,
        JSON.stringify(recipe),
        'New version of the plate',
      ]);
      for (const content of kept[i]!) await moveSolve(t, content, { hash, offset, scale, frameCount });
    }
  });
  for (const { screen } of moved) c.events.emit('screen', { id: screen.id, revision: screen.revision + 1 });
  return findShot(c, shotId);
}
