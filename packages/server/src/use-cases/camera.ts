/** The camera of a shot's whole scene: what is known of it, its run, and what came of that. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { Known } from '@yarlop/core/camera/solve-camera';
import type { JobInput } from '@yarlop/contracts/validate';
import { outlinesOfScreens } from '@yarlop/pipeline/camera-job';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { Executor } from '../database';
import type { CameraRow, CameraSettings, JobRow, MediaRow, ScreenRow, ShotRow } from '../rows';
import * as cameras from '../sql/cameras';
import * as jobs from '../sql/jobs';
import * as screens from '../sql/screens';
import type { CameraTask, Outcome } from '../worker-protocol';
import { addJob } from './add-job';
import { findShot } from './create-shot';
import { inputOf } from './job-input';
import { readyPlate } from './ready-plate';

export interface CameraView {
  /** null before anything was said */
  readonly settings: CameraSettings | null;
  readonly solved: {
    readonly file: CameraFile;
    /** how good it is, in a sentence */
    readonly told: string;
    readonly with: CameraSettings;
    /** of another plate than the shot has now */
    readonly isOfOtherPlate: boolean;
  } | null;
}

export async function readCamera(c: Pick<Context, 'db'>, shot: ShotRow): Promise<CameraView> {
  const row = await c.db.one<CameraRow>(cameras.findCamera, [shot.id]);
  if (!row) return { settings: null, solved: null };
  const { settings, solved: file, told, solvedWith, mediaHash } = row;
  if (!file) return { settings, solved: null };
  return {
    settings,
    solved: { file, told: told!, with: solvedWith!, isOfOtherPlate: mediaHash !== shot.mediaHash },
  };
}

export async function saveCamera(c: Context, shotId: number, settings: CameraSettings): Promise<CameraSettings> {
  const shot = await findShot(c, shotId);
  await c.db.run(cameras.putSettings, [shot.id, JSON.stringify(settings)]);
  return settings;
}

/** @throws ApiError while one is solved already, and while the plate is being read in */
export function startCamera(c: Context, shotId: number, settings: CameraSettings): Promise<JobRow> {
  return c.alone.acquire(`camera ${shotId}`, () => startAlone(c, shotId, settings));
}

async function startAlone(c: Context, shotId: number, settings: CameraSettings): Promise<JobRow> {
  const shot = await findShot(c, shotId);
  await readyPlate(c, shotId);
  if (await c.db.one(jobs.activeCamera, [shotId]))
    throw new ApiError(409, 'busy', "This shot's camera is being solved already; stop that run first.");
  await saveCamera(c, shotId, settings);
  const input: JobInput<'camera'> = { settings, from: shot.rangeFrom, to: shot.rangeTo };
  await outlinesOf(c, shotId, input);
  const id = await addJob(c.db, {
    kind: 'camera',
    mediaHash: shot.mediaHash,
    shotId,
    input,
    framesTotal: shot.rangeTo - shot.rangeFrom + 1,
  });
  c.wake();
  return (await c.db.one<JobRow>(jobs.findJob, [id]))!;
}

/** Outlines of what is left out. @throws ApiError for one that is drawn outside the frames that are solved */
async function outlinesOf(
  c: Pick<Context, 'db'>,
  shotId: number,
  { settings, from, to }: JobInput<'camera'>,
): Promise<CameraTask['outlines']> {
  const all = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  const left = all.filter((s) => settings.leftOut.includes(s.id)).map((s) => s.recipe);
  try {
    return outlinesOfScreens(left, [from, to]);
  } catch (e) {
    const { message } = e as Error;
    if (!(e instanceof InputError)) throw e;
    throw new ApiError(422, 'out-of-range', message.replace('change --from or --to.', 'widen the working range.'));
  }
}

/** Px. */
function focalOf({ known }: CameraSettings, width: number): number | null {
  if (known.as === 'mm') return (known.focal / known.sensor) * width;
  return known.as === 'angle' ? width / 2 / Math.tan((known.degrees * Math.PI) / 360) : null;
}

function knownOf(settings: CameraSettings, width: number): Known {
  const focal = focalOf(settings, width);
  return {
    ...(focal === null ? {} : { focal }),
    ...(settings.kind === 'find' ? {} : { kind: settings.kind }),
    ...(settings.lens ? { lens: settings.lens } : {}),
  };
}

/** What a run works on. */
export async function cameraTask(
  c: Pick<Context, 'db'>,
  job: JobRow,
  media: MediaRow,
  folder: string,
): Promise<CameraTask> {
  const input = inputOf('camera', job);
  const { settings, from, to } = input;
  return {
    kind: 'camera',
    media,
    folder,
    from,
    to,
    outlines: await outlinesOf(c, job.shotId!, input),
    known: knownOf(settings, media.probe.width),
    dropped: settings.dropped,
  };
}

/** Under the job's lease. */
export async function storeCamera(
  t: Executor,
  job: JobRow,
  { file, told }: Extract<Outcome, { kind: 'camera' }>,
): Promise<void> {
  const settings = JSON.stringify(inputOf('camera', job).settings);
  await t.run(cameras.putSolved, [job.shotId, settings, job.mediaHash, settings, JSON.stringify(file), told]);
}
