/**
 * Where on the reference frame the picture is followed: the follow patches minus the ignore patches, or the pin and a
 * narrow margin around it when no follow patch is drawn.
 */
import { CoreError } from '../../errors';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Lens } from '../../geometry/lens';
import { idealBounds, undistort } from '../../geometry/lens';
import type { Bounds } from '../../geometry/polygon';
import type { MaskWindow } from '../../geometry/polygon';
import { boundsOf, clipToRectangle, fillOutline } from '../../geometry/polygon';
import type { Quad } from '../../geometry/quad';
import { signedArea } from '../../geometry/quad';
import type { Patch } from './outlines';
import { allShapes } from './outlines';

export interface Region {
  /** every shape that is ever followed */
  readonly follow: readonly (readonly Point[])[];
  /** outlines that never change */
  readonly ignore: readonly (readonly Point[])[];
  /** of everything, inside the picture */
  readonly bounds: Bounds;
  /** of what is followed from the beginning, inside the picture */
  readonly core: Bounds;
  /** px of each level by which the outlines are widened; only for a region that is a pin */
  readonly rim: number;
  /** what lies around the pin, tried for moving with it; null when patches were drawn */
  readonly surroundings: readonly Point[] | null;
}

/** Of the pin's shorter diagonal; how far around the pin cells are tried. By trial. */
const AROUND = 0.3;

/**
 * How far beyond the pin the picture is followed when no patch is drawn, px of each pyramid level: enough for a cell to
 * straddle the glass edge, too little to reach what lies behind the device and moves otherwise.
 */
const AUTOMATIC_RIM = 8;

/** The pin with every side moved outwards by `px`. */
function grown(pin: Quad, px: number): Point[] {
  const turn = signedArea(pin) > 0 ? 1 : -1;
  const sides = pin.map((a, i) => {
    const b = pin[(i + 1) % 4]!;
    const l = distance(a, b);
    const nx = (turn * (b[1] - a[1])) / l;
    const ny = (-turn * (b[0] - a[0])) / l;
    return { nx, ny, c: nx * a[0] + ny * a[1] + px };
  });
  return pin.map((_, i): Point => {
    const s = sides[(i + 3) % 4]!;
    const t = sides[i]!;
    const d = s.nx * t.ny - s.ny * t.nx;
    return [(s.c * t.ny - t.c * s.ny) / d, (s.nx * t.c - t.nx * s.c) / d];
  });
}

/**
 * Pin and patches as drawn on the picture; the region is that of the ideal picture behind the lens.
 * @throws CoreError `invalid` when a patch has no area or nothing of the region lies inside the picture
 */
export function followRegion(realPin: Quad, realPatches: readonly Patch[], lens: Lens): Region {
  const straight = (p: Point): Point => undistort(lens, p);
  const pin = realPin.map(straight) as unknown as Quad;
  const patches = realPatches.map((p) => ({
    kind: p.kind,
    changes: (p.keys?.length ?? 0) > 0,
    shapes: allShapes(p).map((l) => l.map(straight)),
  }));
  for (const [i, patch] of realPatches.entries()) {
    if (patch.points.length < 3)
      throw new CoreError(
        'invalid',
        `Patch ${i + 1} has ${patch.points.length} points; an outline needs at least three.`,
      );
    for (const k of patch.keys ?? [])
      if (k.points.length !== patch.points.length)
        throw new CoreError(
          'invalid',
          `Patch ${i + 1} has ${patch.points.length} points, but ${k.points.length} on frame ${k.frame}; every shape needs as many.`,
        );
    const b = boundsOf(patch.points);
    if (Math.abs(signedArea(patch.points)) < 64 && patch.kind === 'follow')
      throw new CoreError(
        'invalid',
        `Patch ${i + 1} is smaller than 8x8 px (${(b.x1 - b.x0).toFixed(1)} x ${(b.y1 - b.y0).toFixed(1)}); draw it larger.`,
      );
  }
  const drawn = patches.filter((p) => p.kind === 'follow').flatMap((p) => p.shapes);
  const frame = idealBounds(lens);
  const rim = drawn.length > 0 ? 0 : AUTOMATIC_RIM;
  const follow = drawn.length > 0 ? drawn : [pin];
  const surroundings =
    drawn.length > 0 ? null : grown(pin, AROUND * Math.min(distance(pin[0], pin[2]), distance(pin[1], pin[3])));
  const inside = follow.flatMap((p) => clipToRectangle(rim > 0 ? grown(pin, rim) : p, frame));
  if (inside.length === 0)
    throw new CoreError(
      'invalid',
      'The outline to follow lies wholly outside the picture on the reference frame; move it over the picture.',
    );
  const core = boundsOf(inside);
  const all = surroundings ? boundsOf([...inside, ...clipToRectangle(surroundings, frame)]) : core;
  return {
    follow,
    ignore: patches.filter((p) => p.kind === 'ignore' && !p.changes).flatMap((p) => p.shapes),
    bounds: all,
    core,
    rim,
    surroundings,
  };
}

/** 1 where a pixel's centre is followed. */
export function rasterise(region: Region, window: MaskWindow): Uint8Array {
  const mask = new Uint8Array(window.width * window.height);
  const outline = (f: readonly Point[]): readonly Point[] =>
    region.rim > 0 ? grown(f as unknown as Quad, region.rim * window.scale) : f;
  for (const f of region.follow) fillOutline(mask, window, outline(f), 1);
  for (const f of region.ignore) fillOutline(mask, window, f, 0);
  return mask;
}

/**
 * 1 where a pixel's centre lies in the surroundings and not in `own`, what is followed anyway; null when there are
 * none.
 */
export function rasteriseSurroundings(region: Region, own: Uint8Array, window: MaskWindow): Uint8Array | null {
  if (!region.surroundings) return null;
  const mask = new Uint8Array(window.width * window.height);
  fillOutline(mask, window, region.surroundings, 1);
  for (let i = 0; i < mask.length; i++) if (own[i] === 1) mask[i] = 0;
  for (const f of region.ignore) fillOutline(mask, window, f, 0);
  return mask;
}
