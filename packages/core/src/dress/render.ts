/**
 * The renderer: lays dressed fills into the plate. The same code makes the viewer's picture and the delivery. It works
 * in scene-linear light, touches only the region that a Screen reaches, and leaves every pixel that nothing changes
 * bit-exact.
 */
import type { Quad } from '../geometry/quad';
import type { Raster } from '../image/image';
import { maxOf } from '../image/image';
import type { ComposeTask } from './layer/compose';
import { compose, composeElement, composePass } from './layer/compose';
import { sizesNeeded } from './element/element';
import type { FillPyramid } from './fill/fill-pyramid';
import { grainField, grainRoom } from './light/grain';
import type { Layer, RenderOptions } from './layer/layer';
import { isPass } from './layer/layer';
import { carryUnder, keptLight } from './layer/layer-edge';
import { bringForward } from './layer/layer-fronts';
import { fillMarks } from './layer/layer-holdouts';
import type { LayerPlan } from './layer/layer-plan';
import { planLayer } from './layer/layer-plan';
import { firstRetouches, lastRetouches, layRetouch, retouched } from './layer/layer-retouch';
import type { Region } from './base/region';
import { hullOf } from './base/region';
import { meanOf, tablesFor, valuesOfRegion } from './fill/region-light';
import { continueInwards } from './shape/rim';
import { blurReach } from './shape/softness';
import { takeSpill } from './light/spill';
import { CURVES } from './colour/transfer';
import { unmixEdge } from './light/unmix';
import type { Workroom } from './element/workroom';
import { workroom } from './element/workroom';
import { wrapLight } from './light/wrap-light';
import type { Laid, Work } from './layer/lay-fill';
import { layFill } from './layer/lay-fill';

export type { Layer, PlaneOn, RenderOptions, Show } from './layer/layer';
export { isPass } from './layer/layer';

/** Rectangle of whole pixels that a render may have changed. */
export type Touched = Region;

function roomFor(p: LayerPlan, isApart: boolean): Workroom {
  const { region, drawn, blur, grain, soften } = p;
  return workroom(region, drawn.fill, sizesNeeded(drawn), {
    under: isApart,
    field: grain ? grainRoom(region, grain.px) : 0,
    glare: p.glare !== null,
    reach: Math.max(
      blurReach(blur.sigma, 'gaussian'),
      blurReach(grain?.px ?? 0, 'gaussian'),
      blurReach(soften, 'gaussian'),
    ),
  });
}

function lightOf(picture: Raster, { region, transfer }: LayerPlan, out: Float32Array): Float32Array {
  return valuesOfRegion(picture, region, tablesFor(maxOf(picture), transfer).decode, CURVES[transfer].decode, out);
}

/**
 * Takes the old screen's marks, rim and hue out of the plate's light, in place.
 * @param marks drawn on a keyed screen are closed too
 * @returns whether there were any
 */
function clean(own: Float32Array, { p }: Work, laid: Laid, marks: boolean): boolean {
  const { apart, holding, matte, fronts, filled } = laid;
  const { region, spill, layer } = p;
  const closed = marks && holding !== null && fillMarks(own, p.dress.holdouts!, holding);
  const unmixed = apart !== null && unmixEdge(own, apart);
  const continued = p.rim > 0 && continueInwards(own, region, layer.corners, p.rim, matte);
  const taken =
    spill !== null &&
    takeSpill(
      own,
      region,
      layer.corners,
      spill.colour,
      spill.amount,
      spill.recolour,
      spill.reach,
      meanOf(layer.fill),
      spill,
    );
  const isForward = filled !== null && bringForward(own, region, fronts, filled);
  return taken || closed || unmixed || continued || isForward;
}

/** Turns the element and what it covers into the picture of a matte: white where the fill shows. */
function toMatte(element: Float32Array, under: Float32Array): void {
  for (let k = 0; k < element.length; k += 4) element.fill(element[k + 3]!, k, k + 3);
  under.fill(0);
}

/** The light that a layer is laid over, of its own picture where that is another than the plate. */
function underOf({ p, plate, target, room, seen }: Work): Float32Array {
  return target.data === plate.data || isPass(p.show) ? seen : lightOf(target, p, room.under);
}

/** What the last step of a layer takes. */
function composeTask({ p, plate, room }: Work, element: Float32Array, under: Float32Array): ComposeTask {
  const { region, dress, frame, grain, transfer } = p;
  return {
    region,
    element,
    under,
    changed: true,
    transfer,
    table: tablesFor(maxOf(plate), transfer).table,
    mode: dress.blend?.mode ?? 'over',
    space: dress.blend?.space ?? 'light',
    grain: grain && {
      field: grainField(region, frame, grain.seed, grain.px, room.field),
      amount: grain.amount,
      measured: grain.measured,
    },
  };
}

/** An element that is delivered alone comes out right over the plate as it came: it carries what is changed under it. */
function carryClean({ p, seen }: Work, { element, apart, fronts, filled }: Laid): void {
  const own = seen.slice();
  const isUnmixed = apart !== null && unmixEdge(own, apart);
  const isForward = filled !== null && bringForward(own, p.region, fronts, filled);
  if (isUnmixed || isForward) carryUnder(element, seen, own);
}

/** Lays the element over the plate, as it is asked for, into the target. */
function layOver(w: Work, laid: Laid): void {
  const { p, target } = w;
  const { show } = p;
  const { element, dry, matte } = laid;
  const { wrap, wrapReach } = p.drawn.edge;
  const under = underOf(w);
  const came = isPass(show) ? under.slice() : null;
  const task = composeTask(w, element, under);
  const isClean = clean(under, w, laid, show === 'clean' || task.mode !== 'over');
  if (wrap > 0) wrapLight(element, under, p.region, wrap, wrapReach);
  if (show === 'clean') element.fill(0);
  if (show === 'matte') toMatte(element, under);
  if (isPass(show) && came && dry) {
    const own = came.slice();
    clean(own, w, laid, true);
    const light = p.glare ? keptLight(element, dry) : null;
    composePass(task, { pass: show, plate: came, clean: own, light, matte }, target);
  } else if (show === 'element') {
    carryClean(w, laid);
    composeElement(task, target);
  } else compose({ ...task, changed: isClean || show === 'matte' }, target);
}

/** Renders dressed frames; its room is kept from frame to frame, so one is for one thread. */
export class Renderer {
  /**
   * Lays `fill` over `plate` into the pin as it is, without any dress.
   * @param out receives the result: a copy of the plate's data, or the plate's own
   */
  over(plate: Raster, fill: FillPyramid, corners: Quad, out: Raster['data'] = plate.data): Touched | null {
    return this.render(plate, [{ fill, corners }], { ...plate, data: out });
  }

  /**
   * Retouches the plate, and dresses the layers, back to front.
   * @param plate is measured (keys, glare, spill) and never changed unless `target` is it
   * @param target a copy of the plate, the plate itself, or for `element` and passes an empty picture, of floats for
   * passes and with alpha for elements
   * @returns the rectangle that may have changed, null when no layer reaches the picture
   * @throws CoreError `degenerate` for a pin that no rectangle can look like
   */
  render(plate: Raster, layers: readonly Layer[], target: Raster = plate, options: RenderOptions = {}): Touched | null {
    const first = firstRetouches(layers, plate, options);
    const ground = retouched(plate, target, first, options.show);
    const pristine =
      layers.length > 1 && target.data === ground.data ? { ...ground, data: ground.data.slice() } : ground;
    const touched = first.map((t) => t.region);
    for (const layer of layers) {
      const plan = planLayer(layer, plate, options);
      if (!plan) continue;
      this.layer(pristine, plan, target);
      touched.push(plan.region);
    }
    for (const t of lastRetouches(layers, plate, options)) {
      layRetouch(target, t);
      touched.push(t.region);
    }
    return hullOf(touched);
  }

  private layer(plate: Raster, p: LayerPlan, target: Raster): void {
    const room = roomFor(p, target.data !== plate.data);
    const w: Work = { p, plate, target, room, seen: lightOf(plate, p, room.seen) };
    layOver(w, layFill(w));
  }
}

/** The rectangle of a picture that its layers may change; null where none reaches it. @throws as {@link Renderer.render} does */
export function reachOf(
  picture: { readonly width: number; readonly height: number },
  layers: readonly Layer[],
  options: RenderOptions = {},
): Region | null {
  const laid = layers.flatMap((l) => planLayer(l, picture, options)?.region ?? []);
  const tasks = [...firstRetouches(layers, picture, options), ...lastRetouches(layers, picture, options)];
  return hullOf([...laid, ...tasks.map((t) => t.region)]);
}
