/** What was found to stand before a layer, told apart from the glass behind it. */
import type { Apart } from '../front/front-matte';
import { takeFrontApart } from '../front/front-matte';
import type { FoundHoldout, Holdout } from '../holdout/holdout';
import type { Region } from '../base/region';
import type { LayerPlan } from './layer-plan';

export type Fronts = ReadonlyMap<FoundHoldout, Apart>;

const isFound = (h: Holdout): h is FoundHoldout => h.kind === 'found' && !h.off;

/** @param light of the plate in the plan's region, scene-linear RGB */
export function frontsOf(light: Float32Array, { dress, region, layer, drawn, frame }: LayerPlan): Fronts {
  const task = { region, corners: layer.corners, lens: drawn.lens ?? null, frame };
  const fronts = new Map<FoundHoldout, Apart>();
  for (const h of dress.holdouts ?? []) {
    const apart = isFound(h) ? takeFrontApart(light, h.found, task) : null;
    if (isFound(h) && apart) fronts.set(h, apart);
  }
  return fronts;
}

/** Cover below which nothing stands before a pixel: a quarter of a level of 255. */
const NOTHING = 0.001;

/** Calls for every pixel before which something stands: its place in the region, and in the part that was told apart. */
function eachCovered(region: Region, { part, alpha }: Apart, call: (i: number, k: number) => void): void {
  for (let y = 0, k = 0; y < part.height; y++) {
    let i = (y + part.y - region.y) * region.width + part.x - region.x;
    for (let x = 0; x < part.width; x++, i++, k++) if (alpha[k]! > NOTHING) call(i, k);
  }
}

/** The light of the plate without what stands in front of it; the plate's own where nothing does. */
export function behindFronts(light: Float32Array, region: Region, fronts: Fronts): Float32Array {
  if (fronts.size === 0) return light;
  const out = light.slice();
  for (const apart of fronts.values())
    eachCovered(region, apart, (i, k) => {
      for (let c = 0; c < 3; c++) out[3 * i + c] = apart.behind[3 * k + c]!;
    });
  return out;
}

/**
 * Takes the glass behind out of the soft edges of what stands before it, in place: there only it shows beside the fill.
 * @param under RGB that the fill is laid over @param filled how far the fill would cover each pixel, 0 to 1
 * @returns whether anything was changed
 */
export function bringForward(under: Float32Array, region: Region, fronts: Fronts, filled: Float32Array): boolean {
  let any = false;
  for (const [h, apart] of fronts) {
    if (h.invert) continue;
    eachCovered(region, apart, (i, k) => {
      const cover = filled[i]!;
      const front = apart.alpha[k]! * cover;
      if (!(front > 0)) return;
      any = true;
      const rest = 1 - cover;
      for (let c = 0; c < 3; c++)
        under[3 * i + c] = (front * apart.front[3 * k + c]! + rest * under[3 * i + c]!) / (front + rest);
    });
  }
  return any;
}
