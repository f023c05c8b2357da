/**
 * The renderer: lays dressed fills into the plate. The same code makes the viewer's picture and the delivery. It works
 * in scene-linear light, touches only the region that a Screen reaches, and leaves every pixel that nothing changes
 * bit-exact.
 */
import { scaling } from '../geometry/matrix3';
import { mapQuad } from '../geometry/quad';
import type { Quad } from '../geometry/quad';
import { quadToQuad } from '../geometry/homography';
import type { Raster } from '../image/image';
import { maxOf } from '../image/image';
import { addLights } from './light/added-light';
import type { ComposeTask } from './layer/compose';
import { compose, composeElement, composePass } from './layer/compose';
import { applyLook, lookAt } from './light/display-look';
import { drawElement, sizesNeeded } from './element/element';
import type { FillPyramid } from './fill/fill-pyramid';
import { addGlare, glareOn, glassWith } from './light/glare';
import { grainField, grainRoom } from './light/grain';
import type { HoldoutTask } from './holdout/holdout';
import { matteOf } from './holdout/holdout';
import type { Layer, RenderOptions } from './layer/layer';
import { isPass } from './layer/layer';
import { alphaOf, carryEdge, coverOf, keptLight, shownOf } from './layer/layer-edge';
import { fillMarks, holdoutTask } from './layer/layer-holdouts';
import type { LayerPlan } from './layer/layer-plan';
import { planLayer } from './layer/layer-plan';
import { firstRetouches, lastRetouches, layRetouch, retouched } from './layer/layer-retouch';
import { applyLevels, levelsAt } from './colour/levels';
import { smear } from './shape/motion-blur';
import { slotAspect } from './shape/placement';
import type { Region } from './base/region';
import { hullOf } from './base/region';
import { meanLight, meanOf, tablesFor, valuesOfRegion } from './fill/region-light';
import { continueInwards } from './shape/rim';
import { blurReach, defocus } from './shape/softness';
import { takeSpill } from './light/spill';
import { CURVES } from './colour/transfer';
import type { UnmixTask } from './light/unmix';
import { glassAlone, unmixEdge } from './light/unmix';
import { outlineCover } from './shape/outline-matte';
import type { Workroom } from './element/workroom';
import { workroom } from './element/workroom';
import { wrapLight } from './light/wrap-light';

export type { Layer, PlaneOn, RenderOptions, Show } from './layer/layer';
export { isPass } from './layer/layer';

/** Rectangle of whole pixels that a render may have changed. */
export type Touched = Region;

/** A layer at work: its plan, the pictures it reads and writes, and the light of the plate where it lies. */
interface Work {
  readonly p: LayerPlan;
  readonly plate: Raster;
  readonly target: Raster;
  readonly room: Workroom;
  /** RGB of the region, scene-linear */
  readonly seen: Float32Array;
}

/** The fill in its plane with the glass's light on it, and what the steps after it have to know. */
interface Laid {
  /** RGBA of the region, scene-linear, premultiplied */
  readonly element: Float32Array;
  /** before the glass's light came on it, where a pass is asked for */
  readonly dry: Float32Array | null;
  /** how the plate's edge is unmixed; null where it is left mixed */
  readonly apart: UnmixTask | null;
  readonly holding: HoldoutTask | null;
  readonly matte: Float32Array | null;
}

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

/** The fill as the display shows it, as soft and smeared as the plate. */
function drawnElement({ p, plate, room, seen }: Work): Float32Array {
  const { region, drawn, dress, blur, laid } = p;
  drawElement(drawn, region, room.element);
  const look = lookAt(dress.look, p.frame, p.frameRate);
  if (look) applyLook(room.element, region, laid.corners, look, plate, drawn.aspect, meanLight(seen));
  defocus(room.element, region.width, region.height, 4, blur.sigma, blur.shape);
  return smear(room.element, region, laid.corners, p.path, room.spare);
}

/** Levels and lights of the dress on the element, in place. */
function lit({ region, dress, frame, frameRate, layer, pin, pixel }: LayerPlan, element: Float32Array): void {
  if (dress.levels) applyLevels(element, levelsAt(dress.levels, frame, frameRate));
  if (!dress.lights) return;
  const aspect = slotAspect(pin, dress.placement);
  addLights(element, region, dress.lights, frame, layer.corners, mapQuad(scaling(pixel), pin), aspect);
}

/** Ends a fill that is laid on the plate at its outline, in place. */
function cutOff({ dress, region, path, laid, scale }: LayerPlan, element: Float32Array): void {
  const { lay, cut } = dress.placement ?? {};
  if (lay !== 'plate' || !cut) return;
  const planes = path.map((q) => quadToQuad(laid.pin, q));
  const cover = outlineCover(region, cut, null, planes, scale);
  for (let i = 0; i < cover.length; i++) for (let c = 0; c < 4; c++) element[i * 4 + c]! *= Math.min(1, cover[i]!);
}

/** Lays the glass's light on the element, in place. @returns what the glass shows by itself, for what is unmixed there */
function lightGlass({ p, seen, room }: Work, element: Float32Array, cover: Float32Array | null): UnmixTask['glass'] {
  if (!p.glare || !cover) return null;
  const { region, layer, soften } = p;
  const { own, keep } = p.glare;
  const { corners } = layer;
  const glare = glareOn(seen, { region, corners, own, sigma: soften, cover }, room.glare);
  addGlare(element, glare, keep);
  return glassWith(glare, { corners, own });
}

/** @param edges how the plate is unmixed, where it is, so that a keyed screen is looked at without its bezel */
function holdoutsOf({ p, plate, seen }: Work, edges: UnmixTask | null): HoldoutTask | null {
  if (!p.dress.holdouts?.length) return null;
  const alone = edges?.isEven ? seen.slice() : null;
  if (alone) glassAlone(alone, edges!);
  return holdoutTask(plate, p, alone);
}

const isKeyed = ({ holdouts }: LayerPlan['dress']): boolean =>
  holdouts?.some((h) => h.kind === 'key' && !h.off) ?? false;

/** Draws the fill, gives it the glass's light, and holds out what stays in front. */
function layFill(w: Work): Laid {
  const { p } = w;
  const { region, dress } = p;
  const element = drawnElement(w);
  // Before anything makes the fill let the old screen through.
  const cover = dress.rim?.on || p.glare ? coverOf(p, element) : null;
  lit(p, element);
  const dry = isPass(p.show) ? element.slice() : null;
  const filled = cover && alphaOf(element);
  const glass = lightGlass(w, element, cover);
  const edges: UnmixTask | null = cover && { region, cover, glass, isEven: isKeyed(dress), shows: null };
  const holding = holdoutsOf(w, edges);
  const matte = holding && matteOf(dress.holdouts!, holding);
  cutOff(p, element);
  const apart = edges && { ...edges, shows: shownOf(edges.cover, filled!, matte) };
  if (matte) for (let i = 0; i < matte.length; i++) for (let c = 0; c < 4; c++) element[i * 4 + c]! *= matte[i]!;
  return { element, dry, apart, holding, matte };
}

/**
 * Takes the old screen's marks, rim and hue out of the plate's light, in place.
 * @param marks drawn on a keyed screen are closed too
 * @returns whether there were any
 */
function clean(own: Float32Array, { p }: Work, { apart, holding, matte }: Laid, marks: boolean): boolean {
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
  return taken || closed || unmixed || continued;
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

/** Lays the element over the plate, as it is asked for, into the target. */
function layOver(w: Work, laid: Laid): void {
  const { p, target, seen } = w;
  const { show } = p;
  const { element, dry, apart, matte } = laid;
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
    if (apart) carryEdge(element, seen, apart);
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
