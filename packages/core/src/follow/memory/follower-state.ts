/** What goes into following and what comes out of it, as plain data. */
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Density } from '../picture/cells';
import type { Levels } from '../picture/consensus';
import type { TermMemory } from '../evidence/camera-evidence';
import type { Motion } from '../../geometry/motion';
import type { Evidence, FrameResult } from '../../solve/frame-result';
import type { Passing, Patch } from '../outline/outlines';
import type { ShutterMemory } from '../timing/shutter';
import type { SideLooks } from '../edges/side-looks';
import type { Spot, SpotState } from '../spots/spots';
import type { Span } from './remembered';
import type { Stretch } from './stretch';

/** The pin as somebody placed it on a frame. */
export interface HandKey {
  readonly frame: number;
  readonly corners: Quad;
}

/** Where a first run has the Screen on a frame, corners as the picture shows them, px. */
export interface Earlier {
  readonly frame: number;
  readonly corners: Quad;
  /** 0 to 1; full where it is not told */
  readonly trust?: number;
}

export interface FollowSetup {
  readonly pin: Quad;
  readonly patches: readonly Patch[];
  readonly motion: Motion;
  readonly density: Density;
  /** how brightness may change; each cell for itself when left out */
  readonly levels?: Levels;
  readonly evidence: readonly Evidence[];
  /** remembered beside the reference as soon as they are found */
  readonly keyFrames?: readonly number[];
  readonly hand?: readonly HandKey[];
  readonly spots?: readonly Spot[];
  /** frames on which the Screen is in the shot, inclusive; all when left out or empty */
  readonly presence?: readonly { readonly from: number; readonly to: number }[];
  /** the lens's radial term; found from the screen's own edges when left out */
  readonly lens?: number;
  /**
   * share of a frame between the first and the last row's reading; found from the screen's own distortion when left out
   */
  readonly readout?: number;
  /** what a first run told of the shutter; found on the way when left out */
  readonly shutter?: ShutterMemory;
  /** what the pictures are read from, for whoever reads them; the shot's own reading when left out */
  readonly reading?: string;
  /** the run halts at the first frame that cannot be vouched for: nothing is held on to beyond it */
  readonly halts?: boolean;
  /** corners as a first run found them: how fast things move is taken from the frames on both sides */
  readonly way?: readonly Earlier[];
  /** each frame is looked at where that way has it, as if it held the plate still: just what is left is followed */
  readonly isSteadied?: boolean;
  /** what passes in front of the Screen and is not to be followed */
  readonly passing?: readonly Passing[];
  /** frames that are followed otherwise */
  readonly sections?: readonly FollowSection[];
}

/** What may differ from frame to frame. Outlines, motion model, density of cells, evidence, brightness, lens, reading. */
export type Ways = Partial<
  Pick<FollowSetup, 'patches' | 'motion' | 'density' | 'evidence' | 'levels' | 'lens' | 'reading'>
>;

export interface FollowSection {
  /** inclusive */
  readonly from: number;
  readonly to: number;
  /** what differs here; all else is the shot's */
  readonly ways: Ways;
  /** with what it is followed first: the section's own run looks at the plate as that one holds it still */
  readonly over?: Ways;
}

/** Whether the Screen is in the shot on a frame; always where no presence is told. */
export function isPresent(setup: Pick<FollowSetup, 'presence'>, frame: number): boolean {
  return !setup.presence || setup.presence.length === 0 || setup.presence.some((p) => frame >= p.from && frame <= p.to);
}

/** A follower's whole memory; a run taken up from it goes on exactly as it would have. */
export interface FollowerState {
  /** the last three frames found, newest first */
  readonly found: readonly { readonly frame: number; readonly corners: Quad }[];
  readonly lost: number;
  /**
   * the last frame found before frames were lost that are still to be looked at again, from where the screen was found;
   * null when there are none
   */
  readonly gap: number | null;
  /** doubtful frames that are to be looked at again once what lies beyond them is known; null for none */
  readonly stretch: Stretch | null;
  /** earlier ones of which that is known, and that were not looked at yet; none when left out */
  readonly waiting?: readonly Stretch[];
  readonly surprise: number;
  /** the last frame showed the same picture as the one before it */
  readonly repeated: boolean;
  /** frames were repeated before, so that how fast things move is known badly */
  readonly hasRepeats: boolean;
  /** what came of the last frame that was looked at; null when it was not on this plate */
  readonly last: FrameResult | null;
  readonly open: boolean;
  readonly pictured: number;
  readonly support: number;
  readonly softness: number;
  readonly trust: readonly number[];
  /**
   * per place of the trust grid: frames on which a cell on probation kept to the plane, and the farthest travel on
   * them, px
   */
  readonly proof: readonly number[];
  readonly railSpread: readonly number[];
  readonly shutter: ShutterMemory;
  readonly views: readonly { readonly corners: Quad; readonly information: readonly number[] }[];
  /** what lies across the sides, see `side-looks.ts`; null to begin with what the reference frame shows */
  readonly looks: SideLooks | null;
  /** what the Screen showed last, see `shown-picture.ts`; missing in states of before it was told */
  readonly glass?: { readonly glass: readonly (number | null)[] | null; readonly cut: number | null };
  readonly spans?: readonly Span[];
  readonly lens: TermMemory & { readonly radial: number };
  readonly readout: TermMemory;
  readonly spots: readonly SpotState[];
  /** the reference first */
  readonly keys: readonly {
    readonly frame: number;
    /** missing in states of before it was told */
    readonly picture?: number;
    readonly homography: readonly number[];
    readonly made?: readonly number[];
    readonly sigma: readonly number[];
    readonly velocity: readonly Point[];
    /** missing in states of before it was told */
    readonly response?: readonly number[] | null;
  }[];
}
