/** The strip's own picture: how far each frame is trusted, and what it rests on. */
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import { EVIDENCE_KINDS } from '../shared/format';
import type { ScreenTrackState } from '../stores/tracks';
import type { SolvedFrame } from '../types';
import { hatch } from './hatch';

/** px; height of the trust. */
export const HEIGHT = 26;
/** px; height of the band below it that tells what each frame rests on. */
export const BAND = 7;
/** px; frames that are wider stand apart. */
const APART = 4;
/** Doubt from which a frame is weak. */
const WEAK = 0.25;

export interface Strip {
  readonly damaged: readonly FrameSpan[];
  readonly track: ScreenTrackState | undefined;
  /** where a frame begins, px; one beyond the last too */
  readonly x: (frame: number) => number;
  /** px */
  readonly width: number;
  readonly css: CSSStyleDeclaration;
}

/** Weak frames stand tall and bright, sure ones are a thin quiet line: the eye goes to trouble. */
export function drawTrust(g: CanvasRenderingContext2D, { damaged, track, x, width, css }: Strip): void {
  g.fillStyle = css.getPropertyValue('--line');
  g.fillRect(0, HEIGHT - 3, width, 1);
  g.fillStyle = css.getPropertyValue('--weak');
  // Damaged frames, whatever was followed over them.
  hatch(g, damaged, x, HEIGHT - 3);
  g.fillStyle = css.getPropertyValue('--text-dim');
  // Frames that were followed otherwise than the recipe says by now.
  hatch(g, track?.stale ?? [], x, HEIGHT - 3);
  const w = x(1) - x(0);
  const wide = Math.max(1, w - (w > APART ? 1 : 0));
  for (const f of track?.frames.values() ?? []) drawFrame(g, f, x(f.frame), wide, css);
}

function drawFrame(
  g: CanvasRenderingContext2D,
  { trust, evidence }: SolvedFrame,
  left: number,
  wide: number,
  css: CSSStyleDeclaration,
): void {
  const doubt = 1 - trust;
  const isBridged = Object.keys(evidence).length === 0;
  const colour = doubt > WEAK ? '--weak' : '--brass';
  g.fillStyle = css.getPropertyValue(isBridged ? '--line' : colour);
  const h = isBridged ? 14 : 3 + doubt * (HEIGHT - 6);
  g.fillRect(left, HEIGHT - 1 - h, wide, h);
  let top = HEIGHT + 1;
  for (const kind of EVIDENCE_KINDS) {
    const high = (evidence[kind] ?? 0) * (BAND - 1);
    if (high === 0) continue;
    g.fillStyle = css.getPropertyValue(`--rests-${kind}`);
    g.fillRect(left, top, wide, high);
    top += high;
  }
}
