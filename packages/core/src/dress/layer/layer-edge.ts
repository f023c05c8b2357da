/** A layer's edge: how much of each px the glass covers, and what of it the unmixed plate is to show. */
import { clamp } from '../../clamp';
import { IDENTITY } from '../../geometry/matrix3';
import { drawElement } from '../element/element';
import type { FillPyramid } from '../fill/fill-pyramid';
import type { LayerPlan } from './layer-plan';
import { smear } from '../shape/motion-blur';
import { defocus } from '../shape/softness';

/** A fill without any picture, which only says how much is covered. */
const BLANK: FillPyramid = [{ width: 1, height: 1, data: Float32Array.of(1, 1, 1, 1) }];

/** Alpha of RGBA, at most 1. */
export function alphaOf(rgba: Float32Array): Float32Array {
  const out = new Float32Array(rgba.length / 4);
  for (let i = 0; i < out.length; i++) out[i] = Math.min(1, rgba[4 * i + 3]!);
  return out;
}

/** Share of each px that the glass covers, as soft and smeared as the fill is; the fill may cover less of it. */
export function coverOf({ drawn, region, blur, path }: LayerPlan, element: Float32Array): Float32Array {
  const { inset, feather } = drawn.edge;
  if (!drawn.ends && [...inset, ...feather].every((v) => v === 0)) return alphaOf(element);
  const whole = new Float32Array(element.length);
  const edge = { ...drawn.edge, inset: [0, 0, 0, 0], feather: [0, 0, 0, 0] };
  drawElement({ ...drawn, fill: BLANK, toFill: IDENTITY, ends: false, edge }, region, whole);
  defocus(whole, region.width, region.height, 4, blur.sigma, blur.shape);
  return alphaOf(smear(whole, region, drawn.corners, path));
}

/**
 * How much of what the unmixed edge says is to stand under the fill: all of it where the fill covers what the glass
 * does, none where it covers nothing; and as much as the holdouts let it show.
 */
export function shownOf(cover: Float32Array, fill: Float32Array, matte: Float32Array | null): Float32Array {
  const out = new Float32Array(cover.length);
  for (let i = 0; i < out.length; i++) {
    const a = cover[i]!;
    const f = fill[i]!;
    const share = f === a || f >= 1 ? 1 : clamp((f * (1 - a)) / Math.max(1e-9, a * (1 - f)), 0, 1);
    out[i] = share * (matte ? clamp(matte[i]!, 0, 1) : 1);
  }
  return out;
}

/**
 * Gives the element what is changed of the plate under it, so that it comes out right over the plate as it came.
 * @param clean the plate's light as it is to lie under the element
 */
export function carryUnder(element: Float32Array, seen: Float32Array, clean: Float32Array): void {
  for (let i = 0, k = 0; k < element.length; i += 3, k += 4)
    if (element[k + 3]! > 0)
      for (let c = 0; c < 3; c++) element[k + c]! += (1 - element[k + 3]!) * (clean[i + c]! - seen[i + c]!);
}

/** What the element holds beyond what it held before the glass's light was added, as much of it as was left since. */
export function keptLight(element: Float32Array, dry: Float32Array): Float32Array {
  const out = new Float32Array((element.length / 4) * 3);
  for (let i = 0, k = 0; i < out.length; k += 4) {
    const left = dry[k + 3]! > 0 ? element[k + 3]! / dry[k + 3]! : 0;
    for (let c = 0; c < 3; c++) out[i++] = element[k + c]! - left * dry[k + c]!;
  }
  return out;
}
