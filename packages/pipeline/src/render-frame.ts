/** One frame of a delivery: the plate's picture in, the picture that is written out. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { StillOn } from '@yarlop/core/dress/layer/layer';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { stillFrames } from '@yarlop/core/dress/layer/recipe';
import type { Layer, PlaneOn, Show } from '@yarlop/core/dress/render';
import { Renderer, isPass } from '@yarlop/core/dress/render';
import { CURVES, shownCurve, transferOf } from '@yarlop/core/dress/colour/transfer';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import type { Quad } from '@yarlop/core/geometry/quad';
import { premultiply, toCodes, toFloat } from '@yarlop/core/image/float-raster';
import type { Raster } from '@yarlop/core/image/image';
import { emptyLike } from '@yarlop/core/image/image';
import type { Probe } from '@yarlop/media/probe';
import type { FillOrder } from './fill';
import { Fill } from './fill';

/** Where a Screen is on a frame. */
export interface Place {
  readonly corners: Quad;
  /** reference frame to frame */
  readonly homography: Matrix3;
}

/** A Screen's plane, on which others' outlines may ride. */
export interface PlaneLayer {
  readonly screen: ScreenFile;
  /** by frame; a frame without a place shows the plate */
  readonly places: ReadonlyMap<number, Place>;
}

export interface ScreenLayer extends PlaneLayer {
  readonly fill: FillOrder;
  /** share of a frame's time that the shutter is open, where it was estimated */
  readonly shutter: number | null;
  /** radial term of the lens, on half the picture's width; 0 where it bows nothing */
  readonly lens: number;
}

/** All that rendering a frame needs but the plate's picture; crosses to another thread as it is. */
export interface RenderOrder {
  readonly probe: Probe;
  /** back to front */
  readonly layers: readonly ScreenLayer[];
  /** Screens that show nothing themselves */
  readonly planes: readonly PlaneLayer[];
  /** frames of the plate from which marks are painted out */
  readonly stills: Readonly<Record<number, Raster>>;
  /** `element` is the fills alone, with straight alpha */
  readonly show: Show;
  readonly premultiplied: boolean;
  /** what is written: code values of 8 or 16 bits, or 32 for scene-linear floats */
  readonly depth: 8 | 16 | 32;
}

export interface FrameRenderer {
  render(frame: number, picture: Raster): Promise<Raster>;
  close(): Promise<void>;
}

const planeOn = ({ screen, places }: PlaneLayer, frame: number): PlaneOn | null => {
  const here = places.get(frame);
  return here
    ? {
        corners: here.corners,
        before: places.get(frame - 1)?.corners ?? null,
        after: places.get(frame + 1)?.corners ?? null,
        pin: screen.pin,
        referenceFrame: screen.referenceFrame,
      }
    : null;
};

/** Renders on this thread. */
export class OwnThread implements FrameRenderer {
  private readonly renderer = new Renderer();

  private constructor(
    private readonly order: RenderOrder,
    private readonly fills: readonly Fill[],
  ) {}

  static async open(order: RenderOrder): Promise<OwnThread> {
    return new OwnThread(order, await Promise.all(order.layers.map((l) => Fill.open(l.fill, l.screen))));
  }

  async render(frame: number, plate: Raster): Promise<Raster> {
    const { show, premultiplied, depth, probe } = this.order;
    const own = transferOf(probe.colour.transfer);
    const light = depth === 32 || plate.data instanceof Float32Array;
    const picture = this.inDepth(plate);
    let target: Raster;
    if (show === 'element' || show === 'pass-element') target = emptyLike(picture, picture.width, picture.height, 4);
    else if (isPass(show)) target = emptyLike(picture, picture.width, picture.height, 3);
    else target = picture;
    const layers: Layer[] = [];
    for (const [i, layer] of this.order.layers.entries()) {
      const l = await this.layerOn(layer, this.fills[i]!, frame);
      if (l) layers.push(l);
    }
    const transfer = light ? 'linear' : own;
    this.renderer.render(picture, layers, target, { transfer, show });
    const written =
      depth !== 32 && target.data instanceof Float32Array
        ? toCodes(target, CURVES[shownCurve(transfer)].encode, depth)
        : target;
    return premultiplied && show === 'element' ? premultiply(written) : written;
  }

  /** Planes beside a Screen's own, by name. */
  private othersOn(layer: ScreenLayer, frame: number): Record<string, PlaneOn> {
    const all = [...this.order.planes, ...this.order.layers].filter((l) => l !== layer);
    return Object.fromEntries(
      all.flatMap((l) => {
        const on = planeOn(l, frame);
        return on ? [[l.screen.name, on]] : [];
      }),
    );
  }

  private stillsFor(layer: ScreenLayer): Record<number, StillOn> {
    const frames = stillFrames((layer.screen.dress ?? {}) as DressRecipe);
    return Object.fromEntries(
      frames.flatMap((f) => {
        const still = this.order.stills[f];
        if (!still) return [];
        return [[f, { picture: this.inDepth(still), own: planeOn(layer, f), others: this.othersOn(layer, f) }]];
      }),
    );
  }

  /** A picture of the plate as it is worked on: in light where floats are written. */
  private inDepth(plate: Raster): Raster {
    const { depth, probe } = this.order;
    return depth === 32 ? toFloat(plate, CURVES[transferOf(probe.colour.transfer)].decode) : plate;
  }

  /** One Screen on one frame as the renderer takes it; null where it is not. */
  private async layerOn(layer: ScreenLayer, fill: Fill, frame: number): Promise<Layer | null> {
    const { probe } = this.order;
    const on = planeOn(layer, frame);
    const { screen, shutter, lens } = layer;
    if (!on) return null;
    return {
      ...on,
      others: this.othersOn(layer, frame),
      stills: this.stillsFor(layer),
      fill: await fill.on(frame, probe),
      dress: (screen.dress ?? {}) as DressRecipe,
      frame,
      frameRate: probe.frameRate[0] / probe.frameRate[1],
      lens: lens === 0 ? null : { radial: lens, width: probe.width, height: probe.height },
      ...(shutter === null ? {} : { shutter }),
    };
  }

  async close(): Promise<void> {
    await Promise.all(this.fills.map((f) => f.close()));
  }
}
