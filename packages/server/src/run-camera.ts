/** Solves the camera of a shot's whole scene. */
import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { PointTrack } from '@yarlop/core/camera/point-tracks';
import { LUMA } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import { toldCamera } from '@yarlop/pipeline/camera-job';
import { plateInfo } from '@yarlop/pipeline/plate';
import { pointsOf, solvedInThread } from '@yarlop/pipeline/solve-camera';
import type { CameraTask, Line, Outcome } from './worker-protocol';

/** Grows when points are followed otherwise: what was kept of before is not used then. */
const POINTS_VERSION = 1;
/** Ms between two frames whose points are shown while they are found. By trial. */
const SHOWN_EVERY = 250;

/** NaN, a point that is hidden, is `null` in JSON. */
function parsed(text: string): PointTrack[] {
  const all = JSON.parse(text) as (Omit<PointTrack, 'places'> & { readonly places: readonly (number | null)[] })[];
  return all.map((t) => ({ ...t, places: t.places.map((v) => v ?? NaN) }));
}

/** The points of an earlier run over the same frames lie beside the plate. */
async function keptPoints(path: string): Promise<readonly PointTrack[] | null> {
  return readFile(path, 'utf8').then(parsed, () => null);
}

async function keepPoints(path: string, tracks: readonly PointTrack[]): Promise<void> {
  const part = `${path}.${process.pid}.part`;
  try {
    await writeFile(part, JSON.stringify(tracks));
    await rename(part, path);
  } finally {
    await rm(part, { force: true });
  }
}

/** Points of all frames, those of an earlier run where there was one. @returns null when it was cancelled */
async function points({ folder, media, from, to }: CameraTask, line: Line): Promise<readonly PointTrack[] | null> {
  const path = join(folder, `points-${POINTS_VERSION}-${from}-${to}.json`);
  const kept = await keptPoints(path);
  if (kept) return kept;
  const { width, height, bitDepth } = media.probe;
  const luma = await LumaFile.open(join(folder, LUMA), width, height, bitDepth);
  let shown = 0;
  try {
    const tracks = await pointsOf(
      { from, to, read: (frame) => luma.read(frame) },
      ({ frame, places }) => {
        const done = frame - from + 1;
        const isShown = Date.now() - shown > SHOWN_EVERY;
        if (isShown) shown = Date.now();
        line.say(isShown ? { type: 'points', done, frame, places: places() } : { type: 'progress', done });
      },
      line.cancelled,
    );
    if (tracks) await keepPoints(path, tracks);
    return tracks;
  } finally {
    await luma.close();
  }
}

export async function runCamera(task: CameraTask, line: Line): Promise<Outcome> {
  const { media, from, to, outlines, known, dropped } = task;
  const tracks = await points(task, line);
  if (!tracks) return { kind: 'cancelled' };
  const done = to - from + 1;
  line.say({ type: 'progress', done });
  const order = { plate: plateInfo({ ...media.probe, name: media.fileName }, media.frameCount), from, to, tracks };
  const program = new URL('./camera-thread.mjs', import.meta.url);
  const outcome = await solvedInThread(program, { ...order, outlines, known, dropped }, line.cancelled);
  if (!outcome) return { kind: 'cancelled' };
  const { file } = outcome;
  if (file.frames.length === 0) return { kind: 'failed', message: `No camera was found: ${file.stopped![0]!.reason}.` };
  return { kind: 'camera', file, told: toldCamera(outcome), done };
}
