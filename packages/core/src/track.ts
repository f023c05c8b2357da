/** A Screen's solved path through a shot: the shapes that every package passes around. */
import type { Quad } from './geometry/quad';

export interface PlateInfo {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  /** frames per second as an exact fraction */
  readonly frameRate: readonly [numerator: number, denominator: number];
  /** label of frame 0, for display; never added to a frame's number */
  readonly firstFrame: number;
  readonly frameCount: number;
}

export interface TrackFrame {
  readonly frame: number;
  readonly corners: Quad;
  readonly homography: readonly number[];
  readonly sigma: readonly number[];
  readonly trust: number;
  readonly evidence: Readonly<Record<string, number>>;
}

export interface Stop {
  readonly frame: number;
  readonly direction: 'forwards' | 'backwards';
  readonly reason: string;
}

export interface ScreenTrack {
  readonly name: string;
  readonly referenceFrame: number;
  readonly stopped: readonly Stop[] | null;
  /** radial term of the lens that bows the picture, on half its width; corners are as the picture shows them */
  readonly lens?: number;
  readonly frames: readonly TrackFrame[];
}

export interface Track {
  readonly plate: PlateInfo;
  readonly screens: readonly ScreenTrack[];
}
