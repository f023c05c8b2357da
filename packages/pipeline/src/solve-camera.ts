/**
 * The camera of a shot, from its frames to the file: points are followed frame by frame, then everything is solved at
 * once. The command line and the server run this same code.
 */
import type { SolvedCamera, Known } from '@yarlop/core/camera/solve-camera';
import { solveCamera } from '@yarlop/core/camera/solve-camera';
import { cameraReport } from '@yarlop/core/camera/camera-report';
import { gapsOf, heldFrames, whyNot } from '@yarlop/core/camera/held';
import type { Outline } from '@yarlop/core/camera/left-out';
import { withoutOutlined } from '@yarlop/core/camera/left-out';
import { PointTracker } from '@yarlop/core/camera/point-tracks';
import { Sightings } from '@yarlop/core/camera/sightings';
import type { View } from '@yarlop/core/camera/view-model';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { CAMERA_COORDINATES } from '@yarlop/core/camera/camera-file';
import type { RawLuma } from '@yarlop/core/image/image';
import type { PlateInfo } from '@yarlop/core/track';

export interface CameraJob {
  readonly plate: PlateInfo;
  readonly from: number;
  /** inclusive */
  readonly to: number;
  readonly read: (frame: number) => Promise<RawLuma>;
  readonly outlines: readonly Outline[];
  readonly known: Known;
}

/** What is heard of a job while it runs. */
export interface CameraStep {
  readonly frame: number;
  /** points that are followed on it */
  readonly points: number;
}

/** A file without a camera, and why. */
const without = (job: CameraJob, s: Sightings): CameraFile => ({
  ...head(job, 'moving'),
  lens: lensOf(job.plate, [0, 0]),
  frames: [],
  points: [],
  stopped: [whyNot(s, job.from)],
});

const lensOf = ({ width, height }: PlateInfo, radial: readonly [number, number]): CameraFile['lens'] => ({
  principal: [width / 2, height / 2],
  radial,
  by: 'half diagonal',
});

const head = (
  job: CameraJob,
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
const rowTurnOf = (v: View): { rowTurn?: readonly [number, number, number] } =>
  v[12] === 0 && v[13] === 0 && v[14] === 0 ? {} : { rowTurn: [v[12]!, -v[13]!, -v[14]!] };

function fileOf(job: CameraJob, solved: SolvedCamera): CameraFile {
  const { scene, frames, points } = cameraReport(solved, solved.uncertainty);
  const held = heldFrames(solved, frames);
  const gaps = gapsOf(solved, held, job.from);
  return {
    ...head(job, solved.kind),
    lens: lensOf(job.plate, [scene.optics.k1, scene.optics.k2]),
    frames: held.map((f) => ({ ...f, frame: f.frame + job.from, ...rowTurnOf(scene.views.get(f.frame)!.view) })),
    points,
    stopped: gaps.length > 0 ? gaps : null,
  };
}

export interface CameraOutcome {
  readonly file: CameraFile;
  /** null where nothing could be solved */
  readonly solved: SolvedCamera | null;
}

/** @param hear is told of each frame; false stops the job @returns null when it was stopped */
export async function cameraOf(job: CameraJob, hear: (step: CameraStep) => boolean): Promise<CameraOutcome | null> {
  const tracker = new PointTracker();
  for (let frame = job.from; frame <= job.to; frame++) {
    tracker.add(await job.read(frame));
    if (!hear({ frame, points: tracker.seen })) return null;
  }
  const frames = job.to - job.from + 1;
  const outlines = job.outlines.map((o) => ({ ...o, frame: o.frame - job.from }));
  const tracks = withoutOutlined(tracker.tracks, outlines, frames);
  const solved = solveCamera(tracks, job.plate, frames, job.known);
  const file = solved ? fileOf(job, solved) : without(job, new Sightings(tracks, job.plate, frames));
  return { file, solved };
}
