/**
 * Proving: slips of a Screen's corners, measured by a job on the path as it was followed, without corrections; what is
 * left of them with touch-ups and settles follows from that. A proof belongs to what it was measured on, by a hash.
 */
import { createHash } from 'node:crypto';
import type { Response } from 'express';
import type { Requests } from '@yarlop/contracts/validate';
import type { Quad } from '@yarlop/core/geometry/quad';
import { rankSlips } from '@yarlop/core/proof/ranking';
import { slipsLeft } from '@yarlop/core/proof/residual-slip';
import type { Verdict } from '@yarlop/core/proof/verdict';
import { WEAK_TRUST, judge } from '@yarlop/core/proof/verdict';
import type { RightPlace } from '@yarlop/pipeline/prove';
import { correctionsOf } from '@yarlop/pipeline/screen-file';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { JobRow, ProofRow, ScreenRow, ShotRow } from '../rows';
import * as jobs from '../sql/jobs';
import * as proofs from '../sql/proofs';
import type { Measured } from '../worker-protocol';
import { findShot } from './create-shot';
import { readyPlate } from './ready-plate';
import { findScreen } from './save-screen';
import type { TrackView } from '../track-view';
import { readTrack } from './solve';
import { addJob } from './add-job';
import { inputOf } from './job-input';
import { sendPictures } from './send-pictures';

export interface ProofView {
  readonly frames: readonly ProofFrame[];
  /** the path, the pin or the likenesses changed since it was measured */
  readonly outdated: boolean;
}

const placesOf = ({ recipe }: ScreenRow): readonly RightPlace[] => recipe.likenesses ?? [];

function identityOf(screen: ScreenRow, track: TrackView): string {
  return createHash('sha256')
    .update(JSON.stringify([track.frames.map((f) => [f.frame, f.homography]), screen.recipe.pin, placesOf(screen)]))
    .digest('hex');
}

/** @throws ApiError where nothing is followed yet */
async function measured(
  c: Context,
  screen: ScreenRow,
  ...frames: readonly number[]
): Promise<Measured & { readonly identity: string }> {
  const plate = await readyPlate(c, screen.shotId, ...frames);
  const track = await c.readers.track(screen, plate.media.hash);
  const { pin, referenceFrame } = screen.recipe;
  if (track.frames.length < 2)
    throw new ApiError(422, 'not-followed', 'Nothing is followed yet that could be proved; follow the Screen first.');
  return {
    ...plate,
    path: track.frames.map(({ frame, homography }) => ({ frame, homography })),
    pin,
    referenceFrame,
    likenesses: placesOf(screen),
    identity: identityOf(screen, track),
  };
}

export function startProof(c: Context, screenId: number): Promise<JobRow> {
  return c.alone.acquire(`prove ${screenId}`, () => startAlone(c, screenId));
}

async function startAlone(c: Context, screenId: number): Promise<JobRow> {
  const screen = await findScreen(c, screenId);
  const { path } = await measured(c, screen);
  const shot = await findShot(c, screen.shotId);
  if (await c.db.one(jobs.activeProof, [screenId]))
    throw new ApiError(409, 'busy', 'This Screen is being proved already.');
  const id = await addJob(c.db, {
    kind: 'prove',
    mediaHash: shot.mediaHash,
    shotId: shot.id,
    screenId,
    input: { recipe: screen.recipe },
    framesTotal: path.length,
  });
  c.wake();
  return (await c.db.one<JobRow>(jobs.findJob, [id]))!;
}

/** What a job of proving works on: the recipe as it was when it was asked for. */
export async function proofTask(
  c: Context,
  job: JobRow,
): Promise<Measured & { readonly kind: 'prove'; readonly identity: string }> {
  const screen = await findScreen(c, job.screenId!);
  const { recipe } = inputOf('prove', job);
  return { kind: 'prove', ...(await measured(c, { ...screen, recipe })) };
}

export async function readProof(
  c: Pick<Context, 'db'>,
  screen: ScreenRow,
  track: TrackView,
): Promise<ProofView | null> {
  const row = await c.db.one<ProofRow>(proofs.findProof, [screen.id]);
  return row && { frames: row.frames, outdated: row.identity !== identityOf(screen, track) };
}

/** What is said of every Screen of a shot. */
export function readVerdicts(
  c: Pick<Context, 'db'>,
  shot: ShotRow,
  all: readonly ScreenRow[],
): Promise<(Verdict & { readonly id: number; readonly name: string })[]> {
  return Promise.all(
    all.map(async (s) => {
      const track = await readTrack(c, s, shot.mediaHash);
      return { id: s.id, name: s.recipe.name, ...verdictOn(s, track, await readProof(c, s, track), shot) };
    }),
  );
}

/** Slips on one frame, at once. */
export async function slipsAt(c: Context, screenId: number, frame: number): Promise<ProofFrame> {
  const { identity, ...what } = await measured(c, await findScreen(c, screenId), frame);
  void identity;
  if (!what.path.some((f) => f.frame === frame))
    throw new ApiError(422, 'not-followed', `Frame ${frame} is not followed yet.`);
  const outcome = await c.desk.ask({ kind: 'slip', ...what, frame });
  return (outcome as Extract<typeof outcome, { kind: 'slip' }>).frame;
}

/** Streams flat pictures of a range of frames, one after the other, a byte a pixel, row-major. */
export async function sendFlat(
  c: Context,
  screenId: number,
  { from, to, area }: NonNullable<Requests['flat']>,
  res: Response,
): Promise<void> {
  const screen = await findScreen(c, screenId);
  const plate = await readyPlate(c, screen.shotId, from, to);
  const track = await c.readers.track(screen, plate.media.hash);
  const by = new Map(track.frames.map((f) => [f.frame, f.corners]));
  if (to < from) throw new ApiError(422, 'out-of-range', `The range ${from} to ${to} must rise.`);
  const corners = Array.from(
    { length: to - from + 1 },
    (_, i): Quad | null => by.get(from + i) ?? (from + i === screen.recipe.referenceFrame ? screen.recipe.pin : null),
  );
  const size = corners.length * area.width * area.height;
  await sendPictures(c, { kind: 'flat', ...plate, area, from, corners }, size, res);
}

/** @param track as {@link readTrack} gives it */
export function verdictOn(
  { recipe }: ScreenRow,
  track: TrackView,
  proof: ProofView | null,
  shot: Pick<ShotRow, 'probe' | 'rangeFrom' | 'rangeTo'>,
): Verdict {
  const by = new Map(track.frames.map((f) => [f.frame, f.homography]));
  const corrections = correctionsOf(recipe);
  const left =
    proof && !proof.outdated
      ? slipsLeft(
          proof.frames.flatMap((f) =>
            by.has(f.frame)
              ? [{ frame: f.frame, by: f.by, homography: by.get(f.frame)!, sigma: f.sigma.map((s) => s ?? 0) }]
              : [],
          ),
          recipe.pin,
          corrections,
          shot.probe.width,
        )
      : null;
  return judge({
    frames: track.frames.length,
    bridged: track.frames.filter((f) => Object.keys(f.evidence).length === 0).length,
    weak: track.frames.filter((f) => f.trust < WEAK_TRUST).length,
    halted: track.halted,
    missing: Array.from({ length: shot.rangeTo - shot.rangeFrom + 1 }, (_, i) => shot.rangeFrom + i).filter(
      (n) => !by.has(n),
    ).length,
    ranking: left && rankSlips(left, shot.probe.width),
  });
}
