/**
 * Corners as somebody else needs them: where the dressed fill's own corners lie, with offset and lift taken in, and
 * where they are when the shutter opens or closes, so that a receiving program can blur by itself.
 */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { valueAt } from '@yarlop/core/dress/base/keys';
import { cornersAt } from '@yarlop/core/dress/shape/motion-blur';
import type { Placement } from '@yarlop/core/dress/shape/placement';
import { lifted, slotAspect, slotToFill, slotToLaidFill } from '@yarlop/core/dress/shape/placement';
import { COMMON_SHUTTER } from '@yarlop/core/follow/timing/shutter';
import type { ContentSize } from '@yarlop/core/formats/css';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { referencePin } from '@yarlop/core/formats/track-json';
import { normaliseHomography, quadToQuad, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import { inverse, multiply } from '@yarlop/core/geometry/matrix3';
import type { Quad } from '@yarlop/core/geometry/quad';
import { isConvex, mapQuad, perspectiveCentre } from '@yarlop/core/geometry/quad';
import type { ScreenTrack, Track, TrackFrame } from '@yarlop/core/track';
import { InputError } from './pipeline-error';

export type Moment = 'open' | 'close';

export interface CornerOrder {
  /** the frame's middle when left out */
  readonly at?: Moment;
  /** with placement, offset and lift of the dress */
  readonly isDressed?: boolean;
  /** by the Screen's name */
  readonly recipes: ReadonlyMap<string, ScreenFile>;
  /** px of the fill, by Screen; of the slot's own shape where left out */
  readonly content?: ReadonlyMap<string, ContentSize>;
  /** share of a frame that the shutter is open, by Screen, where it was estimated */
  readonly shutters?: ReadonlyMap<string, number>;
}

/** Degrees that a shutter turns through in a frame's time. */
const WHOLE_TURN = 360;

/** Share of a frame's time: the dress's own, the plate's estimate, or a common one. */
function shutterOf(name: string, { recipes, shutters }: CornerOrder): number {
  const own = recipes.get(name)?.dress?.motionBlur?.shutter;
  return own === undefined ? (shutters?.get(name) ?? COMMON_SHUTTER) : own / WHOLE_TURN;
}

/** From the slot's square to px of the fill, as the dress lays it. */
function fillMap(
  p: Placement,
  frame: number,
  fill: ContentSize,
  pin: Quad,
  plate: { readonly width: number; readonly height: number },
): number[] {
  const { width, height } = fill;
  return p.lay === 'plate'
    ? slotToLaidFill(p, frame, { width, height }, pin, plate)
    : slotToFill(p, frame, width, height, slotAspect(pin, p));
}

/** Corners of the fill on the picture. */
function dressedCorners(f: TrackFrame, s: ScreenTrack, plate: Track['plate'], o: CornerOrder): Quad {
  const p = (o.recipes.get(s.name)?.dress?.placement ?? {}) as Placement;
  const pin = referencePin(s);
  const aspect = slotAspect(pin, p);
  const fill = o.content?.get(s.name) ?? { width: aspect, height: 1 };
  const above = lifted(f.corners, valueAt(p.lift, f.frame, 0), aspect, plate, p.focal);
  const toPicture = multiply(unitSquareToQuad(above), inverse(fillMap(p, f.frame, fill, pin, plate)));
  const { width, height } = fill;
  return mapQuad(toPicture, [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ]);
}

function moved(frames: readonly (TrackFrame & { readonly corners: Quad })[], at: number): Quad[] {
  const by = new Map(frames.map((f) => [f.frame, f.corners]));
  return frames.map((f) => cornersAt(by.get(f.frame - 1) ?? null, f.corners, by.get(f.frame + 1) ?? null, at));
}

/** A Screen with its corners as they are asked for, homographies and reference among them. */
function screenAs(s: ScreenTrack, plate: Track['plate'], o: CornerOrder): ScreenTrack {
  const laid = o.isDressed ? s.frames.map((f) => ({ ...f, corners: dressedCorners(f, s, plate, o) })) : s.frames;
  const share = shutterOf(s.name, o) / 2;
  const corners = o.at ? moved(laid, o.at === 'open' ? -share : share) : laid.map((f) => f.corners);
  const wrong = corners.findIndex((q) => !isConvex(q));
  if (wrong >= 0)
    throw new InputError(
      `The corners of "${s.name}" would cross on frame ${s.frames[wrong]!.frame}; change its placement there, or deliver the pin's own corners.`,
    );
  const pin = corners[s.frames.findIndex((f) => f.frame === s.referenceFrame)]!;
  const centre = perspectiveCentre(pin);
  return {
    ...s,
    frames: s.frames.map((f, i) => ({
      ...f,
      corners: corners[i]!,
      homography: normaliseHomography(quadToQuad(pin, corners[i]!), centre),
    })),
  };
}

/** A track whose corners, and with them its homographies, are as they are asked for. @throws InputError where they cross */
export function asDelivered(track: Track, o: CornerOrder): Track {
  if (!o.at && !o.isDressed) return track;
  return { ...track, screens: track.screens.map((s) => screenAs(s, track.plate, o)) };
}

/** Conventions that say so. */
export function saying(c: Conventions, track: Track, o: CornerOrder): Conventions {
  if (!o.at && !o.isDressed) return c;
  const shares = new Set(track.screens.map((s) => shutterOf(s.name, o)));
  const [share] = shares;
  return {
    ...c,
    ...(o.isDressed ? { dressed: true } : {}),
    ...(o.at ? { moment: o.at } : {}),
    ...(o.at && shares.size === 1 ? { shutter: share! } : {}),
  };
}
