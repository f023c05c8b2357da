/** What the runner and its worker threads say to each other. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { Outline } from '@yarlop/core/camera/left-out';
import type { Known } from '@yarlop/core/camera/solve-camera';
import type { FrameResult } from '@yarlop/core/solve/frame-result';
import type { FrameInputs } from '@yarlop/pipeline/frame-inputs';
import type { Track } from '@yarlop/core/track';
import type { Conventions } from '@yarlop/core/formats/conventions';
import type { Requests, ScreenFile, TemplateFile } from '@yarlop/contracts/validate';
import type { FrameRange } from '@yarlop/media/damage';
import type { MessagePort } from 'node:worker_threads';
import type { Direction } from '@yarlop/pipeline/follow';
import type { ReportParts } from '@yarlop/core/formats/report';
import type { Passing } from '@yarlop/core/follow/outline/outlines';
import type { Point } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Snapped } from '@yarlop/core/pin/snap-to-glass';
import type { ProposedScreen } from '@yarlop/core/propose/screens-seen';
import type { FlatArea } from '@yarlop/core/proof/flat-view';
import type { PlaneFrame, RightPlace } from '@yarlop/pipeline/prove';
import type { SteadiedStretch } from '@yarlop/pipeline/steadied';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import type { Proposal } from '@yarlop/core/dress/match';
import type { Place } from '@yarlop/pipeline/dress';
import type { PlaneLayer } from '@yarlop/pipeline/render-frame';
import type { Checkpoint, MediaRow } from './rows';
import type { FoundFill } from './found-fill';

/** Solved frames after which a run begins, newest first in its own order. */
export type Start = readonly { readonly frame: number; readonly corners: Quad }[];

export type { Direction } from '@yarlop/pipeline/follow';

export interface IngestTask {
  readonly kind: 'ingest';
  readonly media: MediaRow;
  readonly original: string;
  readonly folder: string;
}

export interface FollowTask {
  readonly kind: 'follow';
  readonly media: MediaRow;
  readonly folder: string;
  readonly recipe: ScreenFile;
  readonly from: number;
  readonly to: number;
  readonly keepLooking: boolean;
  readonly directions: readonly Direction[];
  /** where each direction is taken up; at the reference when left out */
  readonly begins: Readonly<Partial<Record<Direction, { readonly checkpoint?: Checkpoint; readonly start?: Start }>>>;
  /** what is followed once more on the plate as it is held still, and frames that were solved before and hold it so */
  readonly steadied: readonly SteadiedStretch[];
  readonly known: Start;
  /** carried outlines that are not to be followed where they pass in front */
  readonly passing: readonly Passing[];
}

/** A delivery's settings, as they were asked for. */
export type DeliverSettings = NonNullable<Requests['deliver']>;

export interface DeliverTask {
  readonly kind: 'deliver';
  readonly media: MediaRow;
  readonly folder: string;
  readonly out: string;
  readonly fileName: string;
  readonly settings: DeliverSettings;
  readonly track: Track;
  readonly conventions: Conventions;
  /** of the plate, for pictures of floats */
  readonly original: string;
  readonly fills: readonly (FoundFill & {
    readonly screen: ScreenFile;
    readonly shutter: number | null;
    readonly lens: number;
  })[];
  /** other Screens on whose planes holdouts ride */
  readonly planes: readonly PlaneLayer[];
  readonly range: readonly [number, number];
  /** by name, for outlines and device kinds */
  readonly recipes: readonly ScreenFile[];
  /** verdicts and settings, for reports */
  readonly report: ReportParts;
  /** what goes into a template, and where the originals of its media lie; null for other deliveries */
  readonly template: {
    readonly file: TemplateFile;
    readonly originals: readonly { readonly hash: string; readonly folder: string }[];
  } | null;
}

export interface SpotTask {
  readonly kind: 'spot';
  readonly media: MediaRow;
  readonly folder: string;
  readonly recipe: ScreenFile;
  readonly spot: number;
  readonly start: number;
  readonly end: number;
}

/** What is measured of a path against the plate: frames in order, with the plane as it was followed. */
export interface Measured {
  readonly media: MediaRow;
  readonly folder: string;
  readonly path: readonly PlaneFrame[];
  readonly pin: Quad;
  readonly referenceFrame: number;
  readonly likenesses: readonly RightPlace[];
}

export interface ProveTask extends Measured {
  readonly kind: 'prove';
  /** what the proof belongs to */
  readonly identity: string;
}

/** Slips on one frame of a path. */
export interface SlipTask extends Measured {
  readonly kind: 'slip';
  readonly frame: number;
}

export interface SnapTask {
  readonly kind: 'snap';
  readonly media: MediaRow;
  readonly folder: string;
  readonly frame: number;
  readonly corners: Quad;
  readonly exclude?: readonly boolean[] | undefined;
  readonly lens: number | null;
}

/** Flat pictures of frames; null where there are no corners. */
export interface FlatTask {
  readonly kind: 'flat';
  readonly media: MediaRow;
  readonly folder: string;
  readonly area: FlatArea;
  readonly from: number;
  readonly corners: readonly (Quad | null)[];
}

/** What the plate tells of how a fill must look. */
export interface MatchTask {
  readonly kind: 'match';
  readonly media: MediaRow;
  readonly folder: string;
  readonly recipe: ScreenFile;
  readonly places: readonly (Place & { readonly frame: number })[];
  readonly shutter: number | null;
  /** radial term of the lens */
  readonly lens: number;
  readonly from: number;
  readonly to: number;
}

/** One picture of a clip, to be looked at. */
export interface StillTask {
  readonly kind: 'still';
  readonly media: MediaRow;
  readonly original: string;
  readonly folder: string;
  readonly frame: number;
}

/** Screens that are seen on a picture. */
export interface ProposeTask extends Omit<StillTask, 'kind'> {
  readonly kind: 'propose';
  /** as many are told */
  readonly most: number;
}

/** Rectangles of one size of consecutive frames, `each` of every frame, where they are wanted, px. */
export interface CutOutsTask {
  readonly kind: 'cut-outs';
  readonly media: MediaRow;
  readonly folder: string;
  readonly from: number;
  readonly width: number;
  readonly height: number;
  readonly each: number;
  readonly at: readonly { readonly x: number; readonly y: number }[];
}

/** The camera of the whole scene. */
export interface CameraTask {
  readonly kind: 'camera';
  readonly media: MediaRow;
  readonly folder: string;
  readonly from: number;
  /** inclusive */
  readonly to: number;
  readonly outlines: readonly Outline[];
  readonly known: Known;
  readonly dropped: readonly number[];
}

export type DeskTask = StillTask | ProposeTask | CutOutsTask | SpotTask | SlipTask | SnapTask | FlatTask | MatchTask;
export type Task = IngestTask | FollowTask | DeliverTask | ProveTask | CameraTask | DeskTask;

export interface Call {
  readonly task: Task;
  readonly port: MessagePort;
  /** one Int32: 1 asks the worker to stop before the next frame */
  readonly cancel: SharedArrayBuffer;
}

/** One frame of a spot's own run; the last one may tell why it ends. */
export interface SpotWord {
  readonly frame: number;
  readonly at: Point | null;
  readonly sigma: number;
  readonly reason: string | null;
}

export type Report =
  | { readonly type: 'spot'; readonly done: number; readonly word: SpotWord }
  | { readonly type: 'progress'; readonly done: number }
  /** of a camera's run: x and y of each point on a frame, px */
  | { readonly type: 'points'; readonly done: number; readonly frame: number; readonly places: readonly number[] }
  /** of a flat picture or a cut-out */
  | {
      readonly type: 'pixels';
      readonly done: number;
      readonly data: Uint8Array<ArrayBuffer> | Uint8ClampedArray<ArrayBuffer>;
    }
  | {
      readonly type: 'frames';
      readonly direction: Direction;
      readonly results: readonly FollowedResult[];
      /** they were looked at on the steadied plate */
      readonly isSteadied: boolean;
      readonly checkpoint: Checkpoint | null;
      /** the frames are followed again from the reference: memories of them are no longer true */
      readonly isAnew: boolean;
      readonly done: number;
    }
  /** nothing more is said: what was said before has arrived */
  | { readonly type: 'end' };

/** A frame, and what it was followed with; null where frames do not differ by that. */
export type FollowedResult = FrameResult & { readonly inputs: FrameInputs | null };

export type Outcome =
  | {
      readonly kind: 'ingest';
      readonly frameCount: number;
      readonly damaged: readonly FrameRange[];
      readonly notes: readonly string[];
    }
  | { readonly kind: 'follow'; readonly done: number; readonly message: string | null }
  | { readonly kind: 'deliver'; readonly bytes: number; readonly sha256: string; readonly done: number }
  | { readonly kind: 'camera'; readonly file: CameraFile; readonly told: string; readonly done: number }
  | { readonly kind: 'spot' }
  | { readonly kind: 'still'; readonly png: Uint8Array }
  | { readonly kind: 'propose'; readonly proposals: readonly ProposedScreen[] }
  | { readonly kind: 'prove'; readonly frames: readonly ProofFrame[]; readonly done: number }
  | { readonly kind: 'slip'; readonly frame: ProofFrame }
  | { readonly kind: 'snap'; readonly snapped: Snapped }
  | { readonly kind: 'flat' }
  | { readonly kind: 'cut-outs' }
  | { readonly kind: 'match'; readonly proposals: readonly Proposal[] }
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string; readonly code?: string };

/** The line from a job to the runner. */
export interface Line {
  say(report: Report): void;
  cancelled(): boolean;
}
