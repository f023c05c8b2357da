/** What the server's answers hold. */
import type { Quad } from '@yarlop/core/geometry/quad';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { Requests, ScreenFile } from '@yarlop/contracts/validate';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { TrackFrame } from '@yarlop/core/track';

export interface Production {
  readonly id: number;
  readonly name: string;
  readonly shots: number;
}

export interface Probe {
  readonly width: number;
  readonly height: number;
  readonly frameRate: readonly [number, number];
  readonly firstFrame: number;
  readonly timecode: string | null;
  readonly pixelFormat: string;
  readonly bitDepth: number;
  readonly codec: string;
  readonly colour: {
    readonly transfer: string | null;
    readonly primaries: string | null;
    readonly matrix: string | null;
    readonly range: string;
  };
}

export interface Shot {
  readonly id: number;
  readonly productionId: number;
  readonly name: string;
  readonly mediaHash: string;
  readonly mediaName: string;
  readonly mediaState: 'waiting' | 'ready' | 'failed';
  readonly mediaProblem: string | null;
  readonly rangeFrom: number;
  readonly rangeTo: number;
  readonly revision: number;
  readonly frameCount: number;
  readonly probe: Probe;
  /** set by hand, before the file's tags */
  readonly colour: { readonly transfer?: string; readonly primaries?: string } | null;
  readonly notes: readonly string[];
  /** frames whose data could not be read as it was written */
  readonly damaged: readonly { readonly from: number; readonly to: number }[];
}

export interface ShotSummary extends Shot {
  readonly screens: number;
  readonly deliveries: number;
  readonly solvedFrames: number;
}

export type Recipe = ScreenFile;

export interface Screen {
  readonly id: number;
  readonly shotId: number;
  readonly recipe: Recipe;
  readonly revision: number;
}

export type SolvedFrame = TrackFrame & { readonly blur: number; readonly reason: string | null };

/** What a frame was followed by: places as x, y, side (0 on an edge), trust 0 to 100; spots as x, y, likeness. */
export interface Seen {
  readonly cells: readonly number[];
  readonly spots: readonly (readonly [number, number, number] | null)[];
}

/** One frame of a spot's own run. */
export interface SpotWord {
  readonly frame: number;
  readonly at: readonly [number, number] | null;
  readonly sigma: number;
  readonly reason: string | null;
}

export interface ProofView {
  readonly frames: readonly ProofFrame[];
  readonly outdated: boolean;
}

export interface Revision {
  readonly revision: number;
  readonly step: string | null;
  readonly saved: string;
}

export interface TrackView {
  readonly solveId: number | null;
  readonly outdated: boolean;
  /** frames that were followed otherwise than the recipe says by now */
  readonly stale: readonly { readonly from: number; readonly to: number }[];
  /** four corners on the reference frame that were followed */
  readonly area: Quad | null;
  readonly frames: readonly SolvedFrame[];
  readonly lens: number;
  readonly shutter: { readonly share: number; readonly frames: number } | null;
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
  /** of a Screen that rests on the shot's camera: what is to be said of that, and its corners in the scene */
  readonly scene: {
    readonly note: string | null;
    readonly corners: readonly (readonly [number, number, number])[] | null;
  } | null;
}

export type CameraSettings = NonNullable<Requests['solveCamera']>;

/** What is known of a shot's camera, and what was solved with it. */
export interface CameraView {
  readonly settings: CameraSettings | null;
  readonly solved: {
    readonly file: CameraFile;
    readonly told: string;
    readonly with: CameraSettings;
    readonly isOfOtherPlate: boolean;
  } | null;
}

export interface Job {
  readonly id: number;
  readonly kind: 'ingest' | 'follow' | 'deliver' | 'prove' | 'camera';
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'paused';
  readonly mediaHash: string | null;
  readonly shotId: number | null;
  readonly screenId: number | null;
  readonly deliveryId: number | null;
  readonly framesDone: number;
  readonly framesTotal: number;
  readonly message: string | null;
}

export interface Media {
  readonly hash: string;
  readonly name: string;
  readonly frameCount: number;
  readonly state: 'waiting' | 'ready' | 'failed';
  readonly problem: string | null;
  readonly probe: Probe;
}

export interface Delivery {
  readonly id: number;
  readonly settings: { readonly as: string; readonly show?: string };
  readonly revision: number;
  readonly fileName: string;
  readonly bytes: number | null;
  readonly sha256: string | null;
  readonly state: Job['state'] | null;
  readonly jobId: number | null;
  readonly framesDone: number;
  readonly framesTotal: number;
  readonly message: string | null;
  readonly created: string;
}
