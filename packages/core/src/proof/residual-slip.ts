/**
 * What is left of a slip once corrections are laid over the path: slips are measured on the path as it was followed, so
 * that a repair's effect is known before, and without, measuring again.
 */
import type { Matrix3 } from '../geometry/matrix3';
import { mapPoint } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { mapQuad } from '../geometry/quad';
import type { Corrections } from '../solve/touch-up';
import { correctedPin } from '../solve/touch-up';
import { believedSlip } from './believed-slip';
import type { SlipFrame } from './ranking';

/** A frame on which slips were measured; `homography` is that of the path as it was followed. */
export interface MeasuredFrame extends SlipFrame {
  readonly homography: Matrix3;
  /** of the slips, px; nothing is known of it when left out */
  readonly sigma?: readonly number[];
}

/** Px of the frame by which each corner still lies off, as measured. */
export function residualSlip(f: MeasuredFrame, pin: Quad, c: Corrections): SlipFrame {
  const own = correctedPin(pin, c, f.frame);
  if (own === pin) return f;
  return {
    frame: f.frame,
    by: f.by.map((by, i): Point | null => {
      if (!by) return null;
      const a = mapPoint(f.homography, pin[i]!);
      const b = mapPoint(f.homography, own[i]!);
      return [by[0] - (b[0] - a[0]), by[1] - (b[1] - a[1])];
    }),
  };
}

/** What is believed of it, frame by frame; see `believed-slip.ts`. @param width of the picture, px */
export function slipsLeft(frames: readonly MeasuredFrame[], pin: Quad, c: Corrections, width: number): SlipFrame[] {
  return frames.map((f) => ({
    frame: f.frame,
    by: believedSlip(residualSlip(f, pin, c).by, mapQuad(f.homography, pin), width, f.sigma).told,
  }));
}
