/**
 * Pyramids of the frame that is being followed. Many things look at the same frame, each at a window of its own; a window
 * that lies in the one made last is served by it.
 */
import type { Lens } from '../geometry/lens';
import type { Bounds } from '../geometry/polygon';
import type { RawLuma } from './image';
import { kernels } from './kernels';
import type { Pyramid } from './pyramid';
import { buildPyramid } from './pyramid';

interface Made {
  readonly frame: RawLuma;
  readonly radial: number;
  /** that was asked for; null for the whole frame */
  readonly window: Bounds | null;
  readonly pyramid: Pyramid;
  /** of the kernels' memory, in which the pyramid lies until other pictures take their place */
  readonly tenancy: number;
}

/** Of this thread, as the kernels' memory is. */
let made: Made | null = null;

function holds(outer: Bounds | null, inner: Bounds | null): boolean {
  if (outer === null) return true;
  if (inner === null) return false;
  return inner.x0 >= outer.x0 && inner.y0 >= outer.y0 && inner.x1 <= outer.x1 && inner.y1 <= outer.y1;
}

const tenancyNow = (): number => kernels()?.tenancy ?? 0;

/**
 * The frame around a window, or more of it; good until another is asked for on this thread.
 * @param levels how many, at least 1
 * @param window in px of the frame (of the ideal picture behind a lens); the whole frame when null
 */
export function framePyramid(frame: RawLuma, levels: number, window: Bounds | null, lens: Lens): Pyramid {
  const last = made;
  const isThere =
    last?.frame === frame &&
    last.radial === lens.radial &&
    last.tenancy === tenancyNow() &&
    last.pyramid.length >= levels &&
    holds(last.window, window);
  if (isThere) return last.pyramid.slice(0, levels);
  const pyramid = buildPyramid(frame, levels, window ?? undefined, lens, true);
  made = { frame, radial: lens.radial, window, pyramid, tenancy: tenancyNow() };
  return pyramid;
}
