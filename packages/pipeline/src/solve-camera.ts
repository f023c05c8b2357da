/**
 * The camera of a shot, from its frames to the file: points are followed frame by frame, then everything is solved at
 * once. The command line and the server run this same code.
 */
import type { SolvedCamera, Known } from '@yarlop/core/camera/solve-camera';
import { solveCamera } from '@yarlop/core/camera/solve-camera';
import { cameraReport } from '@yarlop/core/camera/camera-report';
import { disagreement, gapsOf, heldFrames, whyNot } from '@yarlop/core/camera/held';
import type { Outline } from '@yarlop/core/camera/left-out';
import { withoutOutlined } from '@yarlop/core/camera/left-out';
import { Worker } from 'node:worker_threads';
import type { PointTrack } from '@yarlop/core/camera/point-tracks';
import { PointTracker } from '@yarlop/core/camera/point-tracks';
import { Sightings } from '@yarlop/core/camera/sightings';
import type { View } from '@yarlop/core/camera/view-model';
import { ROWS_AT, flipped, isRolling } from '@yarlop/core/camera/view-model';
import type { CameraFile, CameraFileFrame } from '@yarlop/core/camera/camera-file';
import { CAMERA_COORDINATES } from '@yarlop/core/camera/camera-file';
import type { RawLuma } from '@yarlop/core/image/image';
import type { PlateInfo, Stop } from '@yarlop/core/track';

export interface CameraJob {
  readonly plate: PlateInfo;
  readonly from: number;
  /** inclusive */
  readonly to: number;
  readonly read: (frame: number) => Promise<RawLuma>;
  readonly outlines: readonly Outline[];
  readonly known: Known;
  /** points that are not to be used, by number */
  readonly dropped?: readonly number[];
}

/** What is heard of a job while it runs. */
export interface CameraStep {
  readonly frame: number;
  /** points that are followed on it */
  readonly points: number;
  /** where they are, x and y of each, px */
  readonly places: () => number[];
}

/** A file without a camera, and why. */
const without = (job: CameraOrder, why: Stop): CameraFile => ({
  ...head(job, 'moving'),
  lens: lensOf(job.plate, [0, 0]),
  frames: [],
  points: [],
  stopped: [why],
});

const lensOf = ({ width, height }: PlateInfo, radial: readonly [number, number]): CameraFile['lens'] => ({
  principal: [width / 2, height / 2],
  radial,
  by: 'half diagonal',
});

const head = (
  job: CameraOrder,
  kind: CameraFile['kind'],
): Pick<CameraFile, 'format' | 'version' | 'plate' | 'kind' | 'coordinates' | 'planes'> => ({
  format: 'yarlop-camera',
  version: 1,
  plate: job.plate,
  kind,
  coordinates: CAMERA_COORDINATES,
  planes: [],
});

/** Rows turn about x, y down and z ahead inside; about x, y up and z back outside. */
function rowsOf(v: View): Pick<CameraFileFrame, 'rowTurn' | 'rowBend'> {
  if (!isRolling(v)) return {};
  const [turn, bend] = [ROWS_AT, ROWS_AT + 3].map((at) => flipped([v[at]!, v[at + 1]!, v[at + 2]!]));
  return { rowTurn: turn!, ...(bend!.some((b) => b !== 0) ? { rowBend: bend! } : {}) };
}

function fileOf(job: CameraOrder, solved: SolvedCamera): CameraFile {
  const { scene, frames, points } = cameraReport(solved);
  const held = heldFrames(solved, frames);
  const gaps = gapsOf(solved, held, job.from);
  return {
    ...head(job, solved.kind),
    lens: lensOf(job.plate, [scene.optics.k1, scene.optics.k2]),
    frames: held.map((f) => ({ ...f, frame: f.frame + job.from, ...rowsOf(scene.views.get(f.frame)!.view) })),
    points,
    stopped: gaps.length > 0 ? gaps : null,
  };
}

/** What else was told of a camera. */
export interface CameraTraits {
  readonly isZoom: boolean;
  readonly isRolling: boolean;
  /** share of the focal length; null where it could not be told */
  readonly focalSigma: number | null;
}

export interface CameraOutcome {
  readonly file: CameraFile;
  /** null where nothing could be solved */
  readonly traits: CameraTraits | null;
}

/** What is solved once all frames were seen. */
export interface CameraOrder extends Omit<CameraJob, 'read'> {
  readonly tracks: readonly PointTrack[];
}

/** Solves a camera from points; takes seconds. */
export function solvedOf(order: CameraOrder): CameraOutcome {
  const { plate, from, to, known } = order;
  const frames = to - from + 1;
  const outlines = order.outlines.map((o) => ({ ...o, frame: o.frame - from }));
  const dropped = new Set(order.dropped ?? []);
  const kept = order.tracks.filter((t) => !dropped.has(t.id));
  const tracks = withoutOutlined(kept, outlines, frames);
  const solved = solveCamera(tracks, plate, frames, known);
  if (!solved) return { file: without(order, whyNot(new Sightings(tracks, plate, frames), from)), traits: null };
  const { isZoom, isRolling, uncertainty } = solved;
  const file = fileOf(order, solved);
  const reason = disagreement(file.frames, plate.width);
  if (reason) return { file: without(order, { frame: from, direction: 'forwards', reason }), traits: null };
  return { file, traits: { isZoom, isRolling, focalSigma: uncertainty?.focal ?? null } };
}

/** How often it is asked whether a camera that is being solved is still wanted, ms. */
const ASKED_EVERY = 100;

/** Solves it in a thread of its own. @returns null when it was stopped */
export function solvedInThread(
  program: URL,
  order: CameraOrder,
  isStopped: () => boolean,
): Promise<CameraOutcome | null> {
  const worker = new Worker(program, { workerData: order });
  return new Promise((resolve, reject) => {
    const end = (outcome: CameraOutcome | null): void => {
      clearInterval(asking);
      void worker.terminate();
      resolve(outcome);
    };
    const asking = setInterval(() => {
      if (isStopped()) end(null);
    }, ASKED_EVERY);
    worker.once('message', end).once('error', (e) => {
      clearInterval(asking);
      reject(e);
    });
  });
}

/**
 * Follows points through a job's frames.
 * @param hear is told of each frame
 * @param isStopped asked between frames
 * @returns null when it was stopped
 */
export async function pointsOf(
  { from, to, read }: Pick<CameraJob, 'from' | 'to' | 'read'>,
  hear: (step: CameraStep) => void,
  isStopped: () => boolean,
): Promise<readonly PointTrack[] | null> {
  const tracker = new PointTracker();
  for (let frame = from; frame <= to; frame++) {
    tracker.add(await read(frame));
    hear({ frame, points: tracker.seen, places: () => tracker.placesNow() });
    if (isStopped()) return null;
  }
  return tracker.tracks;
}

/**
 * @param program of the thread that solves it
 * @param hear is told of each frame
 * @param isStopped asked between frames, and while it is solved
 * @returns null when it was stopped
 */
export async function cameraOf(
  job: CameraJob,
  program: URL,
  hear: (step: CameraStep) => void,
  isStopped: () => boolean,
): Promise<CameraOutcome | null> {
  const tracks = await pointsOf(job, hear, isStopped);
  const { read: _, ...order } = job;
  return tracks && solvedInThread(program, { ...order, tracks }, isStopped);
}
