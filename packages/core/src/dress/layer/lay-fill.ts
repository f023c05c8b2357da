/** The fill of a layer, as it comes to lie in the plate before it is composed: drawn, lit, and held out. */
import { scaling } from '../../geometry/matrix3';
import { mapQuad } from '../../geometry/quad';
import { quadToQuad } from '../../geometry/homography';
import type { Raster } from '../../image/image';
import { addLights } from '../light/added-light';
import { applyLook, lookAt } from '../light/display-look';
import { drawElement } from '../element/element';
import { addGlare, glareOn, glassWith } from '../light/glare';
import type { HoldoutTask } from '../holdout/holdout';
import { matteOf } from '../holdout/holdout';
import { isPass } from './layer';
import { alphaOf, coverOf, shownOf } from './layer-edge';
import type { Fronts } from './layer-fronts';
import { behindFronts, frontsOf } from './layer-fronts';
import { holdoutTask } from './layer-holdouts';
import type { LayerPlan } from './layer-plan';
import { applyLevels, levelsAt } from '../colour/levels';
import { smear } from '../shape/motion-blur';
import { slotAspect } from '../shape/placement';
import { meanLight } from '../fill/region-light';
import { defocus } from '../shape/softness';
import type { UnmixTask } from '../light/unmix';
import { glassAlone } from '../light/unmix';
import { outlineCover } from '../shape/outline-matte';
import type { Workroom } from '../element/workroom';

/** A layer at work: its plan, the pictures it reads and writes, and the light of the plate where it lies. */
export interface Work {
  readonly p: LayerPlan;
  readonly plate: Raster;
  readonly target: Raster;
  readonly room: Workroom;
  /** RGB of the region, scene-linear */
  readonly seen: Float32Array;
}

/** The fill in its plane with the glass's light on it, and what the steps after it have to know. */
export interface Laid {
  /** RGBA of the region, scene-linear, premultiplied */
  readonly element: Float32Array;
  /** before the glass's light came on it, where a pass is asked for */
  readonly dry: Float32Array | null;
  /** how the plate's edge is unmixed; null where it is left mixed */
  readonly apart: UnmixTask | null;
  readonly holding: HoldoutTask | null;
  readonly matte: Float32Array | null;
  readonly fronts: Fronts;
  /** how far the fill would cover each px without holdouts; null where nothing was found in front */
  readonly filled: Float32Array | null;
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
function lightGlass(
  { p, seen, room }: Work,
  element: Float32Array,
  cover: Float32Array | null,
  fronts: Fronts,
): UnmixTask['glass'] {
  if (!p.glare || !cover) return null;
  const { region, layer, soften } = p;
  const { own, keep } = p.glare;
  const { corners } = layer;
  const glare = glareOn(behindFronts(seen, region, fronts), { region, corners, own, sigma: soften, cover }, room.glare);
  addGlare(element, glare, keep);
  return glassWith(glare, { corners, own });
}

/** @param edges how the plate is unmixed, where it is, so that a keyed screen is looked at without its bezel */
function holdoutsOf({ p, plate, seen }: Work, edges: UnmixTask | null, fronts: Fronts): HoldoutTask | null {
  if (!p.dress.holdouts?.length) return null;
  const alone = edges?.isEven ? seen.slice() : null;
  if (alone) glassAlone(alone, edges!);
  return holdoutTask(plate, p, alone, fronts);
}

const isKeyed = ({ holdouts }: LayerPlan['dress']): boolean =>
  holdouts?.some((h) => h.kind === 'key' && !h.off) ?? false;

/** Draws the fill, gives it the glass's light, and holds out what stays in front. */
export function layFill(w: Work): Laid {
  const { p } = w;
  const { region, dress } = p;
  const element = drawnElement(w);
  // Before anything makes the fill let the old screen through.
  const cover = dress.rim?.on || p.glare ? coverOf(p, element) : null;
  lit(p, element);
  const dry = isPass(p.show) ? element.slice() : null;
  const fronts = frontsOf(w.seen, p);
  const filled = cover || fronts.size > 0 ? alphaOf(element) : null;
  const glass = lightGlass(w, element, cover, fronts);
  const edges: UnmixTask | null = cover && { region, cover, glass, isEven: isKeyed(dress), shows: null };
  const holding = holdoutsOf(w, edges, fronts);
  const matte = holding && matteOf(dress.holdouts!, holding);
  cutOff(p, element);
  const apart = edges && { ...edges, shows: shownOf(edges.cover, filled!, matte) };
  if (matte) for (let i = 0; i < matte.length; i++) for (let c = 0; c < 4; c++) element[i * 4 + c]! *= matte[i]!;
  return { element, dry, apart, holding, matte, fronts, filled };
}
