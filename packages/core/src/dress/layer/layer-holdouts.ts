/** What stays in front of a layer: its holdouts as they lie on the frame, and the marks of a keyed screen. */
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { fillIn } from '../base/fill-in';
import type { Holdout, HoldoutTask } from '../holdout/holdout';
import { awayFromMarks } from '../holdout/holdout';
import type { Fronts } from './layer-fronts';
import type { LayerPlan } from './layer-plan';
import { planesOf } from './layer';
import { tablesFor, valuesOfRegion } from '../fill/region-light';
import { CURVES, shownCurve } from '../colour/transfer';

/** @param alone light of the glass alone, RGB of the region, where the screen is keyed; null to look at the plate */
export function holdoutTask(plate: Raster, p: LayerPlan, alone: Float32Array | null, fronts: Fronts): HoldoutTask {
  const { layer, region, frame, transfer, share, pin } = p;
  const { corners, referenceFrame = 0 } = layer;
  const shown = CURVES[shownCurve(transfer)].encode;
  return {
    region,
    codes: alone ? alone.map(shown) : valuesOfRegion(plate, region, tablesFor(maxOf(plate), transfer).shares, shown),
    corners,
    frame,
    referenceFrame,
    planeOf: planesOf(layer, pin, share),
    shown,
    glass: p.dress.glare?.measured,
    fronts,
    pixel: p.pixel,
  };
}

/** Marks drawn on the old screen are closed from the screen around them. @returns whether there were any */
export function fillMarks(under: Float32Array, holdouts: readonly Holdout[], t: HoldoutTask): boolean {
  let any = false;
  for (const h of holdouts)
    if (h.kind === 'key' && !h.off && (h.crosses ?? 0) > 0) {
      const known = awayFromMarks(h, t);
      if (!known.includes(0)) continue;
      fillIn(under, known, t.region.width, t.region.height);
      any = true;
    }
  return any;
}
