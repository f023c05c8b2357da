/** What a layer takes on its frame, before any pixel is touched: its numbers, its shapes, and how far it reaches. */
import type { Lens } from '../../geometry/lens';
import { distort, undistort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { assertPin, signedArea } from '../../geometry/quad';
import type { BentSides } from '../shape/bend';
import { bentBy, bentSides } from '../shape/bend';
import { edgeAt } from '../shape/edge';
import type { ElementTask } from '../element/element';
import type { GlassLight } from '../light/glare';
import { grainAt } from '../light/grain';
import { valueAt } from '../base/keys';
import type { Layer, PlaneOn, RenderOptions, Show } from './layer';
import { laidOn, planesOf, stillsOf } from './layer';
import type { RetouchTask } from '../retouch/retouch';
import { planRetouches } from '../retouch/retouch';
import { moments } from '../shape/motion-blur';
import { slotAspect, slotToFill, slotToLaidFill } from '../shape/placement';
import type { DressRecipe } from './recipe';
import type { Region } from '../base/region';
import { regionAround } from '../base/region';
import { rimReach } from '../shape/rim';
import type { BlurShape } from '../shape/softness';
import { blurReach, softnessAt } from '../shape/softness';
import type { Transfer } from '../colour/transfer';

/** Taking the old screen's hue out of what is around it. */
export interface SpillPlan {
  readonly colour: Rgb3;
  readonly amount: number;
  readonly recolour: number;
  readonly shift: number;
  readonly desaturate: number;
  /** px beyond the pin; Infinity for the whole picture */
  readonly reach: number;
}

type Rgb3 = NonNullable<DressRecipe['spill']>['colour'];

export interface LayerPlan {
  readonly layer: Layer;
  readonly dress: DressRecipe;
  readonly frame: number;
  readonly frameRate: number;
  /** on the reference frame, plate px */
  readonly pin: Quad;
  /** picture px a plate px */
  readonly pixel: number;
  readonly transfer: Transfer;
  readonly show: Show;
  /** the plane in which the fill lies */
  readonly laid: PlaneOn;
  /** px on this frame a px of the pin */
  readonly scale: number;
  readonly drawn: ElementTask;
  readonly blur: { readonly sigma: number; readonly shape: BlurShape };
  /** share of the frame's time that the shutter is open; 0 without smear */
  readonly share: number;
  /** of the corners while the shutter is open */
  readonly path: readonly Quad[];
  readonly spill: SpillPlan | null;
  /** px inside the glass over which its rim is replaced; 0 for none */
  readonly rim: number;
  readonly grain: (NonNullable<ReturnType<typeof grainAt>> & { readonly px: number }) | null;
  /** light that stays on the glass; null where none is kept */
  readonly glare: { readonly own: GlassLight; readonly keep: number } | null;
  /** px by which the light on the glass is blurred */
  readonly soften: number;
  readonly region: Region;
}

/** Share of a frame's time that a shutter is open when nobody knows better: 180 degrees. Common practice, no source. */
const USUAL_SHUTTER = 0.5;
/** Frames a second of a layer that does not say. */
const USUAL_RATE = 24;
const BARE: DressRecipe = {};

/** How far a bend moves anything, px. */
function bendReach(sides: BentSides | null, corners: Quad): number {
  if (!sides) return 0;
  let most = 0;
  for (let i = 0; i <= 16; i++)
    for (const [s, t] of [
      [i / 16, 0],
      [i / 16, 1],
      [0, i / 16],
      [1, i / 16],
    ] as const)
      most = Math.max(most, Math.abs(bentBy(sides, s, t, 0)), Math.abs(bentBy(sides, s, t, 1)));
  return most * Math.max(...corners.map((c, i) => distance(c, corners[(i + 1) % 4]!))) * 1.5;
}

/** How far behind a lens the sides lie beside the straight lines between their corners, px. */
function lensReach(lens: Lens | null, corners: Quad): number {
  if (!lens) return 0;
  const flat = corners.map((c) => undistort(lens, c));
  const between = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  return (
    1 +
    1.2 *
      Math.max(
        ...flat.map((p, i) =>
          distance(distort(lens, between(p, flat[(i + 1) % 4]!)), between(corners[i]!, corners[(i + 1) % 4]!)),
        ),
      )
  );
}

/** Whether the fill reaches all four sides of the slot, so that its own border is nowhere to be seen. */
function fillsSlot(toFill: Matrix3, width: number, height: number): boolean {
  return (
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ] as const
  ).every(([s, t]) => {
    const w = toFill[6]! * s + toFill[7]! * t + toFill[8]!;
    const u = (toFill[0]! * s + toFill[1]! * t + toFill[2]!) / w;
    const v = (toFill[3]! * s + toFill[4]! * t + toFill[5]!) / w;
    return w > 0 && u > -1e-6 * width && v > -1e-6 * height && u < width * (1 + 1e-6) && v < height * (1 + 1e-6);
  });
}

/** Share of a frame's time over which the fill is smeared. */
function shutterOf(dress: DressRecipe, layer: Layer): number {
  if (!dress.motionBlur?.on) return 0;
  const { shutter } = dress.motionBlur;
  return shutter === undefined ? (layer.shutter ?? USUAL_SHUTTER) : shutter / 360;
}

/** @returns null where no spill is taken on the frame */
function spillOf({ spill }: DressRecipe, frame: number, scale: number): SpillPlan | null {
  if (!spill) return null;
  const amount = valueAt(spill.amount, frame, 1);
  const shift = valueAt(spill.shift, frame, 0);
  const desaturate = valueAt(spill.desaturate, frame, 0);
  if (amount <= 0 && shift === 0 && desaturate <= 0) return null;
  return {
    colour: spill.colour,
    amount,
    recolour: valueAt(spill.recolour, frame, 0),
    shift,
    desaturate,
    reach: spill.reach === undefined ? Infinity : spill.reach * scale,
  };
}

type Shapes = Pick<LayerPlan, 'layer' | 'laid' | 'drawn' | 'blur' | 'path' | 'spill' | 'rim'>;

/** The rectangle of the picture that a layer may change; null where it lies outside. */
function regionOf(s: Shapes, picture: { readonly width: number; readonly height: number }): Region | null {
  if (s.spill?.reach === Infinity) return { x: 0, y: 0, width: picture.width, height: picture.height };
  const margin =
    2 +
    s.rim +
    blurReach(s.blur.sigma, s.blur.shape) +
    Math.max(0, ...s.drawn.edge.inset.map((v) => -v)) +
    bendReach(s.drawn.bend, s.laid.corners) +
    lensReach(s.drawn.lens ?? null, s.laid.corners) +
    (s.spill?.reach ?? 0);
  const quads = [s.layer.corners, s.laid.corners, s.path[0]!, s.path.at(-1)!];
  return regionAround(quads, margin, picture);
}

/** The fill as it is drawn into its plane. */
function drawnOf(
  layer: Layer,
  { laid, scale, pixel }: Pick<LayerPlan, 'laid' | 'scale' | 'pixel'>,
  picture: { readonly width: number; readonly height: number },
): ElementTask {
  const { fill, dress = BARE, frame = 0 } = layer;
  const base = fill[0]!;
  const placement = dress.placement ?? {};
  // A laid fill ends at an outline with proportions of its own.
  const aspect = slotAspect(laid.pin, placement.lay === 'plate' ? {} : placement);
  const plate = { width: picture.width / pixel, height: picture.height / pixel };
  const toFill =
    placement.lay === 'plate'
      ? slotToLaidFill(placement, frame, base, laid.pin, plate)
      : slotToFill(placement, frame, base.width, base.height, aspect);
  return {
    fill,
    corners: laid.corners,
    toFill,
    ends: dress.placement !== undefined && !fillsSlot(toFill, base.width, base.height),
    bend: bentSides(dress.bend, frame),
    edge: edgeAt(dress.edge ?? {}, frame, scale, aspect),
    aspect,
    lens: layer.lens?.radial ? layer.lens : null,
  };
}

/** Retouches of a layer on its frame, of the plate or `after` it is dressed. */
export function retouchesOf(
  layer: Layer,
  picture: { readonly width: number; readonly height: number },
  { transfer = 'srgb', pixel = 1 }: RenderOptions,
  after: boolean,
): RetouchTask[] {
  const { dress, frame, frameRate, pin } = partsOf(layer);
  if (!dress.retouches?.length) return [];
  const { referenceFrame = 0, stills } = layer;
  const share = shutterOf(dress, layer);
  const planeOf = planesOf(layer, pin, share);
  const grain = dress.grain?.measured ?? null;
  const place = { frame, frameRate, referenceFrame, planeOf, transfer, grain, pixel, picture };
  return planRetouches(dress.retouches, after, { ...place, stills: stills && stillsOf(stills) });
}

/** A layer's own parts, where they are left out as they are meant then. */
function partsOf(layer: Layer): Pick<LayerPlan, 'dress' | 'frame' | 'frameRate' | 'pin'> {
  const { corners, dress = BARE, frame = 0, frameRate = USUAL_RATE, pin = corners } = layer;
  return { dress, frame, frameRate, pin };
}

/** How soft the fill is made, and how far the old screen's rim is replaced. */
function softnessOf(dress: DressRecipe, frame: number, scale: number, pixel: number): LayerPlan['blur'] {
  const softness = dress.softness ?? {};
  return { sigma: pixel * softnessAt(softness, frame, scale / pixel), shape: softness.shape ?? 'gaussian' };
}

function rimOf({ rim }: DressRecipe, scale: number, sigma: number, path: readonly Quad[]): number {
  const more = rim?.on ? (rim.more ?? 0) * scale : 0;
  return more > 0 ? rimReach(sigma, path, more) : 0;
}

function glareOf({ glare }: DressRecipe, frame: number): LayerPlan['glare'] {
  const keep = valueAt(glare?.keep, frame, 1);
  return glare?.measured && keep > 0 ? { own: glare.measured, keep } : null;
}

function grainOf(dress: DressRecipe, frame: number, pixel: number): LayerPlan['grain'] {
  const grain = grainAt(dress.grain, frame);
  return grain && { ...grain, px: grain.size * pixel };
}

/**
 * @param picture that it is laid into
 * @returns null where the layer reaches no px of it
 * @throws CoreError `degenerate` for a pin that no rectangle can look like
 */
export function planLayer(
  layer: Layer,
  picture: { readonly width: number; readonly height: number },
  { transfer = 'srgb', pixel = 1, show = 'dressed' }: RenderOptions,
): LayerPlan | null {
  const own = partsOf(layer);
  const { dress, frame, pin } = own;
  assertPin(layer.corners);
  const scale = Math.sqrt(Math.abs(signedArea(layer.corners) / signedArea(pin)));
  const laid = laidOn(layer, picture);
  const share = shutterOf(dress, layer);
  const path = share > 0 ? moments(laid.before ?? null, laid.corners, laid.after ?? null, share) : [laid.corners];
  const blur = softnessOf(dress, frame, scale, pixel);
  const shapes: Shapes = {
    layer,
    laid,
    drawn: drawnOf(layer, { laid, scale, pixel }, picture),
    blur,
    path,
    spill: spillOf(dress, frame, scale),
    rim: rimOf(dress, scale, blur.sigma, path),
  };
  const region = regionOf(shapes, picture);
  if (!region) return null;
  return {
    ...own,
    ...shapes,
    pixel,
    transfer,
    show,
    scale,
    share,
    grain: show === 'matte' ? null : grainOf(dress, frame, pixel),
    glare: glareOf(dress, frame),
    soften: (dress.glare?.soften ?? 1) * scale,
    region,
  };
}
