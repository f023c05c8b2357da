/** px between the strokes that mark frames. */
const STEP = 3;

/**
 * Hatches ranges of frames from top to bottom, in the colour that is set.
 * @param x where a frame begins, px
 * @param height px
 */
export function hatch(
  g: CanvasRenderingContext2D,
  ranges: readonly { readonly from: number; readonly to: number }[],
  x: (frame: number) => number,
  height: number,
): void {
  for (const { from, to } of ranges)
    for (let at = x(from); at < Math.max(x(from) + 1, x(to + 1)); at += STEP) g.fillRect(at, 0, 1, height);
}
