/** What the tables hold, as the statements in `sql/` name it. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { FollowerState } from '@yarlop/core/follow/memory/follower-state';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { Requests, ScreenFile } from '@yarlop/contracts/validate';
import type { FrameRange } from '@yarlop/media/damage';
import type { Probe } from '@yarlop/media/probe';
import type { FrameInputs } from '@yarlop/pipeline/frame-inputs';
import type { SetColour } from './use-cases/plate-colour';

export interface MediaRow {
  readonly hash: string;
  /** as the library calls it */
  readonly name: string;
  /** as it came */
  readonly fileName: string;
  readonly tags: readonly string[];
  readonly source: { readonly files: readonly string[]; readonly firstNumber: number | null };
  readonly probe: Probe;
  readonly notes: readonly string[];
  /** frames whose data could not be read as it was written */
  readonly damaged: readonly FrameRange[];
  readonly frameCount: number;
  readonly state: 'waiting' | 'ready' | 'failed';
  readonly problem: string | null;
}

export interface ShotRow {
  readonly id: number;
  readonly productionId: number;
  readonly name: string;
  readonly mediaHash: string;
  readonly rangeFrom: number;
  readonly rangeTo: number;
  /** set by hand, before the file's tags; `probe` holds it already where a shot was found */
  readonly colour: SetColour | null;
  readonly revision: number;
  /** for those who look at it */
  readonly standing: 'in work' | 'to be looked at' | 'once more' | 'approved';
  readonly mediaState: MediaRow['state'];
  readonly probe: Probe;
  readonly frameCount: number;
  readonly mediaName: string;
  /** the shot, or its production, lies in the bin */
  readonly isBinned: number;
}

export interface ScreenRow {
  readonly id: number;
  readonly shotId: number;
  readonly recipe: ScreenFile;
  readonly revision: number;
}

export interface Checkpoint {
  readonly frame: number;
  readonly state: FollowerState;
}

export interface SolveRow {
  readonly id: number;
  readonly screenId: number;
  readonly identity: string;
  readonly pin: Quad;
  readonly referenceFrame: number;
  /** radial term that was typed; null where the lens is found */
  readonly lens: number | null;
}

/** The follower's memory at the farthest frame of each direction. */
export interface MemoryRow {
  readonly id: number;
  readonly forwards: Checkpoint | null;
  readonly backwards: Checkpoint | null;
}

export interface FrameRow {
  readonly solveId: number;
  readonly frame: number;
  readonly homography: number[] | null;
  readonly sigma: number[];
  readonly trust: number;
  readonly evidence: Record<string, number>;
  readonly information: number[];
  readonly blur: number;
  readonly own: number[] | null;
  readonly lens: number | null;
  readonly bow: number[] | null;
  readonly inputs: FrameInputs | null;
  readonly reason: string | null;
}

export interface ProofRow {
  readonly identity: string;
  readonly frames: readonly ProofFrame[];
}

/** What is said of a camera before it is solved. */
export type CameraSettings = NonNullable<Requests['solveCamera']>;

export interface CameraRow {
  readonly settings: CameraSettings;
  /** of the plate that was solved; null before */
  readonly mediaHash: string | null;
  readonly solvedWith: CameraSettings | null;
  readonly solved: CameraFile | null;
  readonly told: string | null;
}

export interface JobRow {
  readonly id: number;
  readonly kind: 'ingest' | 'follow' | 'deliver' | 'prove' | 'camera';
  readonly mediaHash: string | null;
  readonly shotId: number | null;
  readonly screenId: number | null;
  readonly solveId: number | null;
  readonly deliveryId: number | null;
  readonly input: Record<string, unknown>;
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'paused';
  readonly framesDone: number;
  readonly framesTotal: number;
  readonly message: string | null;
  readonly attempt: number;
  readonly token: number;
}

/** A job's input can be large and is of no use to the page. */
export function withoutInput({ input, ...job }: JobRow): Omit<JobRow, 'input'> {
  return job;
}

/** Where a clip's bytes lie is the server's own business. */
export function withoutSource({ source, ...media }: MediaRow): Omit<MediaRow, 'source'> {
  return media;
}

/** A delivery that waits. */
export interface QueueRow {
  readonly id: number;
  readonly deliveryId: number;
  readonly shotId: number;
  readonly shotName: string;
  readonly fileName: string;
  readonly format: string;
  readonly place: number;
}

export interface DeliveryRow {
  readonly id: number;
  readonly shotId: number;
  readonly settings: Record<string, unknown>;
  readonly revision: number;
  readonly fileName: string;
  readonly bytes: number | null;
  readonly sha256: string | null;
}
