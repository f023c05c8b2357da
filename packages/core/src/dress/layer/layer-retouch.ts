/** Retouches at work on a picture, as `retouch/retouch.ts` lays them out: only pixels within their outlines change. */
import { mapPoint } from '../../geometry/homography';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { boundsOf } from '../../geometry/polygon';
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { membrane } from '../base/membrane';
import type { Region } from '../base/region';
import { regionOfBounds } from '../base/region';
import { sampleAt } from '../base/sample-region';
import { applyLevels, gammaAt, levelsAt } from '../colour/levels';
import { CURVES, shownCurve } from '../colour/transfer';
import type { Transfer } from '../colour/transfer';
import { tablesFor, valuesOfRegion } from '../fill/region-light';
import { compose } from './compose';
import type { MeasuredGrain } from '../light/grain';
import { grainField, measureGrain } from '../light/grain';
import { ridingCover } from '../shape/outline-matte';
import { gaussianBlur, gaussianMean } from '../shape/softness';
import type { Graded, RetouchTask } from '../retouch/retouch';
import type { Layer, RenderOptions, Show } from './layer';
import { retouchesOf } from './layer-plan';

/** Cover above which a px is taken for part of the mark. By trial. */
const MARKED = 1 / 512;
/** Seed of the noise that is put back. */
const SEED = 11;

/** The light of a region, RGB. */
function lightOf(picture: Raster, region: Region, transfer: Transfer): Float32Array {
  return valuesOfRegion(picture, region, tablesFor(maxOf(picture), transfer).decode, CURVES[transfer].decode);
}

/** RGBA, wholly covered. */
function covered(light: Float32Array): Float32Array {
  const out = new Float32Array((light.length / 3) * 4);
  for (let i = 0, k = 0; i < light.length; i += 3, k += 4) {
    out[k] = light[i]!;
    out[k + 1] = light[i + 1]!;
    out[k + 2] = light[i + 2]!;
    out[k + 3] = 1;
  }
  return out;
}

/** Blurred within the region as if the picture went on beyond it as it is near its border. */
function blurred(element: Float32Array, { width, height }: Region, sigma: number): void {
  if (sigma <= 0) return;
  gaussianBlur(element, width, height, 4, sigma);
  for (let k = 0; k < element.length; k += 4) {
    const a = element[k + 3]!;
    for (let c = 0; c < 4; c++) element[k + c] = a > 0 ? element[k + c]! / a : 0;
  }
}

/** Gamma acts on values as they are shown. */
function bend(element: Float32Array, gamma: readonly number[], transfer: Transfer): void {
  if (gamma.every((g) => g === 1)) return;
  const { encode, decode } = CURVES[shownCurve(transfer)];
  for (let k = 0; k < element.length; k += 4)
    for (let c = 0; c < 3; c++) element[k + c] = decode(Math.max(0, encode(element[k + c]!)) ** (1 / gamma[c]!));
}

function graded(light: Float32Array, r: Graded, t: RetouchTask): Float32Array {
  const element = covered(light);
  blurred(element, t.region, t.blur);
  if (!r.levels) return element;
  bend(element, gammaAt(r.levels, t.frame), t.transfer);
  applyLevels(element, levelsAt(r.levels, t.frame, t.frameRate));
  return element;
}

/** px beside a place that its cubic sampling reads. */
const SAMPLED = 3;

/** The part of another picture that a region is sampled from; null where that lies outside. */
function sourceRegion(source: Matrix3, { x, y, width, height }: Region, picture: Raster): Region | null {
  const corners: Point[] = [
    [x, y],
    [x + width, y],
    [x + width, y + height],
    [x, y + height],
  ];
  return regionOfBounds(boundsOf(corners.map((p) => mapPoint(source, p))), SAMPLED, picture);
}

/** The light that is shown at each px of the region instead of its own; null where there is none. */
function taken(own: Float32Array, t: RetouchTask): Float32Array | null {
  const { region, transfer, source, still } = t;
  if (!source) return null;
  if (!still) return sampleAt(source, region, { light: own, region });
  const there = sourceRegion(source, region, still);
  return there && sampleAt(source, region, { light: lightOf(still, there, transfer), region: there });
}

/** Filled as values are shown, in which a change of the lamps adds about as much to dark parts as to bright ones. */
function paintedOut(light: Float32Array, cover: Float32Array, t: RetouchTask): Float32Array {
  const { width, height } = t.region;
  const { encode, decode } = CURVES[shownCurve(t.transfer)];
  const known = cover.map((v) => (v > MARKED ? 0 : 1));
  const from = taken(light, t)?.map(encode);
  const filled = from ? light.map((v, i) => encode(v) - from[i]!) : light.map(encode);
  membrane(filled, known, width, height);
  return covered(filled.map((v, i) => decode(v + (from?.[i] ?? 0))));
}

/** Noise for what is filled smoothly: as it was measured in the plate, else as it is around the mark. */
function noiseFor({ retouch, grain, region, transfer }: RetouchTask, light: Float32Array): MeasuredGrain | null {
  if (retouch.kind === 'grade' || retouch.from !== 'around') return null;
  if (grain) return grain;
  const shown = CURVES[shownCurve(transfer)].encode;
  const own = measureGrain(light.map(shown), region.width, region.height);
  return own.levels.length > 0 ? own : null;
}

/** Retouches the picture in place. */
export function layRetouch(picture: Raster, t: RetouchTask): void {
  const { retouch, region, frame, at, transfer, softness, pixel } = t;
  const light = lightOf(picture, region, transfer);
  const cover = ridingCover(region, retouch, frame, at);
  gaussianMean(cover, region.width, region.height, softness / 2);
  const element = retouch.kind === 'grade' ? graded(light, retouch, t) : paintedOut(light, cover, t);
  for (let i = 0, k = 0; k < element.length; i++, k += 4) for (let c = 0; c < 4; c++) element[k + c]! *= cover[i]!;
  const measured = noiseFor(t, light);
  compose(
    {
      region,
      element,
      under: light,
      changed: false,
      mode: 'over',
      space: 'light',
      transfer,
      table: tablesFor(maxOf(picture), transfer).table,
      grain: measured && { field: grainField(region, frame, SEED, measured.size * pixel), amount: 1, measured },
    },
    picture,
  );
}

interface Size {
  readonly width: number;
  readonly height: number;
}

/** What is retouched of the plate before anything is laid over it. */
export function firstRetouches(layers: readonly Layer[], picture: Size, options: RenderOptions): RetouchTask[] {
  return layers.flatMap((l) => retouchesOf(l, picture, options, false));
}

/** What is retouched over the dressed picture; elements, mattes and passes are without it. */
export function lastRetouches(layers: readonly Layer[], picture: Size, options: RenderOptions): RetouchTask[] {
  if ((options.show ?? 'dressed') !== 'dressed') return [];
  return layers.flatMap((l) => retouchesOf(l, picture, options, true));
}

/**
 * The plate with its retouches: the plate itself where it is drawn on anyway, else a copy.
 * @param target is retouched too where it is a picture of the plate; where the pass of what changes the plate is asked
 * for, it takes the retouches' part of that
 */
export function retouched(
  plate: Raster,
  target: Raster,
  tasks: readonly RetouchTask[],
  show: Show = 'dressed',
): Raster {
  if (tasks.length === 0) return plate;
  const ground = target.data === plate.data ? plate : { ...plate, data: plate.data.slice() };
  for (const t of tasks) layRetouch(ground, t);
  if (show === 'pass-spill') addChange(plate, ground, target);
  if (ground !== plate && (show === 'dressed' || show === 'clean')) for (const t of tasks) layRetouch(target, t);
  return ground;
}

/** Adds what was changed of the plate, as light, to a picture of floats. */
function addChange(plate: Raster, ground: Raster, target: Raster): void {
  for (let i = 0, a = 0, o = 0; i < plate.width * plate.height; i++, a += plate.channels, o += target.channels)
    for (let c = 0; c < 3; c++) target.data[o + c]! += ground.data[a + c]! - plate.data[a + c]!;
}
