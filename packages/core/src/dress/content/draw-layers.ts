/** Lays the layers of made-up content over one another, scene-linear. */
import { LRUCache } from 'lru-cache';
import { clamp } from '../../clamp';
import { mapPoint } from '../../geometry/homography';
import { inverse, multiply, scaling } from '../../geometry/matrix3';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import { extend } from '../base/extend';
import { valueAt } from '../base/keys';
import type { Region } from '../base/region';
import { regionOfBounds } from '../base/region';
import type { Rgb } from '../colour/levels';
import { filterFill } from '../fill/fill-filter';
import type { FillPyramid, LinearPicture } from '../fill/fill-pyramid';
import { keyStrength } from '../holdout/holdout';
import { gaussianMean } from '../shape/softness';
import type { Contours } from './contours';
import { mapped } from './contours';
import { coverOf } from './cover';
import { drawnLayer, layerCorners, layerMatrix } from './layer-parts';
import type { ContentLayer, PictureKey, PictureLayer } from './layers';
import { isLayerShown, seatOf } from './layers';
import type { LetterOutlines } from './letters';

/** A layer that is drawn from outlines. */
type DrawnLayer = Exclude<ContentLayer, PictureLayer>;

/** What layers are drawn with. */
export interface Drawing {
  readonly letters: LetterOutlines;
  /** code value to light, and back */
  readonly decode: (v: number) => number;
  readonly encode: (v: number) => number;
  /** pictures of the layers, each in its layer's place; null for one that shows none */
  readonly pictures: readonly (FillPyramid | null)[];
}

/** Lays premultiplied RGBA, which begins at `i`, over what begins at `k`. */
function over(out: Float32Array, k: number, light: ArrayLike<number>, i: number, opacity: number): void {
  const through = 1 - opacity * light[i + 3]!;
  for (let c = 0; c < 4; c++) out[k + c] = opacity * light[i + c]! + through * out[k + c]!;
}

/** How much of each px of a part of a picture lies within outlines. */
interface Covered {
  readonly region: Region;
  /** by rows of the region, 0 to 1 */
  readonly cover: Float32Array;
}

/** @returns null where the outlines lie beside the picture */
function coveredBy(out: LinearPicture, outlines: Contours): Covered | null {
  const region = regionOfBounds(boundsOf(outlines.flat()), 0, out);
  return region && { region, cover: coverOf(outlines, region) };
}

function layCovered(out: LinearPicture, { region, cover }: Covered, light: readonly number[], opacity: number): void {
  for (let y = 0, i = 0; y < region.height; y++) {
    let k = 4 * ((region.y + y) * out.width + region.x);
    for (let x = 0; x < region.width; x++, i++, k += 4)
      if (cover[i]! > 0) over(out.data, k, light, 0, opacity * Math.min(1, cover[i]!));
  }
}

/** Lays one colour over a picture within outlines, px of it. */
export function layColour(
  out: LinearPicture,
  outlines: Contours,
  colour: Rgb,
  opacity: number,
  decode: (v: number) => number,
): void {
  const covered = coveredBy(out, outlines);
  if (covered) layCovered(out, covered, [...colour.map(decode), 1], opacity);
}

/** Part of a picture, premultiplied light, as it comes to lie in the content. */
interface LaidPicture extends Region {
  readonly data: Float32Array;
}

/** A picture mapped into the content, with its sides drawn softly; null where it lies beside it. @param m from its own px to those of the content */
function laidPicture(
  out: LinearPicture,
  picture: FillPyramid,
  m: Matrix3,
  corners: readonly Point[],
): LaidPicture | null {
  const region = regionOfBounds(boundsOf(corners), 0, out);
  if (!region) return null;
  const { x, y, width, height } = region;
  const data = new Float32Array(width * height * 4);
  const inside = coverOf([corners], region);
  const back = inverse(m);
  const [dudx, dudy, dvdx, dvdy] = [back[0]!, back[1]!, back[3]!, back[4]!];
  const sum = new Float64Array(4);
  for (let i = 0; i < inside.length; i++) {
    if (inside[i] === 0) continue;
    const at = mapPoint(back, [x + (i % width) + 0.5, y + Math.floor(i / width) + 0.5]);
    filterFill(picture, at[0], at[1], dudx, dvdx, dudy, dvdy, sum);
    for (let c = 0; c < 4; c++) data[4 * i + c] = Math.min(1, inside[i]!) * sum[c]!;
  }
  return { x, y, width, height, data };
}

/** The channel in which a colour is strongest. */
function strongest(colour: Rgb): 0 | 1 | 2 {
  return ([0, 1, 2] as const).reduce((best, c) => (colour[c] > colour[best] ? c : best), 0);
}

/** Takes a key's hue out of what stays: its strongest channel is held down to the mean of the others (common practice, no source). */
function withoutSpill(data: Float32Array, k: number, key: PictureKey): void {
  const c = strongest(key.colour);
  const others = (data[k + ((c + 1) % 3)]! + data[k + ((c + 2) % 3)]!) / 2;
  data[k + c]! -= (key.spill ?? 0) * Math.max(0, data[k + c]! - others);
}

/** Takes a colour out of a picture, in place. @param px of the content a thousandth of its height */
function takeKey(laid: LaidPicture, key: PictureKey, px: number, { encode }: Drawing): void {
  const { data, width, height } = laid;
  const keep = new Float32Array(width * height);
  for (let i = 0; i < keep.length; i++) {
    const a = data[4 * i + 3]!;
    if (a <= 0) continue;
    const [r, g, b] = [0, 1, 2].map((c) => encode(data[4 * i + c]! / a)) as [number, number, number];
    const strength = keyStrength(key.colour, r, g, b);
    keep[i] = 1 - clamp((strength - key.gone) / Math.max(1e-6, key.solid - key.gone), 0, 1);
  }
  const grow = px * (key.grow ?? 0);
  extend(keep, width, height, Math.abs(grow), grow > 0);
  gaussianMean(keep, width, height, (px * (key.softness ?? 0)) / 2);
  for (let i = 0; i < keep.length; i++) {
    if (key.spill) withoutSpill(data, 4 * i, key);
    for (let c = 0; c < 4; c++) data[4 * i + c]! *= keep[i]!;
  }
}

function layPicture(out: LinearPicture, l: PictureLayer, frame: number, picture: FillPyramid, d: Drawing): void {
  const opacity = valueAt(l.opacity, frame, 1);
  const base = picture[0]!;
  const size = drawnLayer(l, frame, d.letters, base.width / base.height);
  const toContent = multiply(scaling(out.height, out.height), layerMatrix(seatOf(l, frame), out.width / out.height));
  const [kx, ky] = [size.width / base.width, size.height / base.height];
  const m = multiply(toContent, [kx, 0, -size.width / 2, 0, ky, -size.height / 2, 0, 0, 1]);
  const laid = laidPicture(out, picture, m, layerCorners(size, toContent));
  if (!laid) return;
  if (l.key) takeKey(laid, l.key, out.height / 1000, d);
  for (let i = 0; i < laid.width * laid.height; i++) {
    if (laid.data[4 * i + 3]! <= 0) continue;
    const k = 4 * ((laid.y + Math.floor(i / laid.width)) * out.width + laid.x + (i % laid.width));
    over(out.data, k, laid.data, 4 * i, opacity);
  }
}

/** What a part covers on a picture, with its colour. */
interface CoveredPart extends Covered {
  readonly colour: Rgb;
  readonly opacity: number;
}

/** px of covers that are kept, of one set of letters: some twenty layers on a picture of 900 px. */
const KEPT_PX = 6e6;
const kept = new WeakMap<LetterOutlines, LRUCache<string, readonly CoveredPart[]>>();

function keptFor(letters: LetterOutlines): LRUCache<string, readonly CoveredPart[]> {
  const known = kept.get(letters);
  if (known) return known;
  const made = new LRUCache<string, readonly CoveredPart[]>({
    maxSize: KEPT_PX,
    sizeCalculation: (parts) => parts.reduce((s, p) => s + p.cover.length, 1),
  });
  kept.set(letters, made);
  return made;
}

/**
 * What a layer's parts cover. While one layer of many is dragged about, all others are asked for again and again as they are:
 * those that were made last are kept.
 */
function partsOf(out: LinearPicture, l: DrawnLayer, frame: number, { letters }: Drawing): readonly CoveredPart[] {
  const last = keptFor(letters);
  const key = `${frame} ${out.width} ${out.height} ${JSON.stringify(l)}`;
  const known = last.get(key);
  if (known) return known;
  const m = multiply(scaling(out.height, out.height), layerMatrix(seatOf(l, frame), out.width / out.height));
  const made = drawnLayer(l, frame, letters, 1).parts.flatMap(({ contours, colour, opacity }) => {
    const covered = coveredBy(out, mapped(contours, m));
    return covered ? [{ ...covered, colour, opacity }] : [];
  });
  last.set(key, made);
  return made;
}

/** Lays layers over what is there, the first farthest back, in place. */
export function drawLayers(out: LinearPicture, layers: readonly ContentLayer[], frame: number, d: Drawing): void {
  for (const [i, l] of layers.entries()) {
    const opacity = valueAt(l.opacity, frame, 1);
    if (!isLayerShown(l, frame) || opacity <= 0) continue;
    const picture = d.pictures[i];
    if (l.kind === 'picture') {
      if (picture) layPicture(out, l, frame, picture, d);
      continue;
    }
    for (const p of partsOf(out, l, frame, d)) layCovered(out, p, [...p.colour.map(d.decode), 1], opacity * p.opacity);
  }
}
