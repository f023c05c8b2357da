/** The last step of a layer: element over plate, blended, grained and turned into code values, pixel by pixel. */
import { clamp } from '../../clamp';
import type { Raster } from '../../image/image';
import { maxOf } from '../../image/image';
import { kernelsFor } from '../../image/kernels';
import type { BlendMode } from '../colour/blend';
import { BLEND } from '../colour/blend';
import type { MeasuredGrain, NoiseField } from '../light/grain';
import { grainSigma } from '../light/grain';
import type { Region } from '../base/region';
import type { EncodingTable, Transfer } from '../colour/transfer';
import { CURVES, ENCODING_STEPS, encode, shownCurve } from '../colour/transfer';
import { coloursOf, coverRow, setColours } from '../base/alpha-rows';
import { CODES_AT, STRENGTH_AT, holdCodes } from '../base/kernel-memory';

export interface ComposeTask {
  readonly region: Region;
  /** RGBA of the region, scene-linear, premultiplied */
  readonly element: Float32Array;
  /** RGB of the region, scene-linear: what the element is laid over */
  readonly under: Float32Array;
  /** pixels of `under` may differ from the target's own */
  readonly changed: boolean;
  readonly mode: BlendMode;
  readonly space: 'light' | 'display';
  readonly transfer: Transfer;
  readonly table: EncodingTable;
  /** noise, with its strength by channel and level */
  readonly grain: { readonly field: NoiseField; readonly amount: number; readonly measured: MeasuredGrain } | null;
}

/** Levels over which the grain's strength is laid out. By trial. */
const LEVELS = 64;

/** Strength of grain by channel and level, code units: a table, since it is asked for at every pixel. */
function strengths(g: NonNullable<ComposeTask['grain']>, max: number): Float32Array {
  return Float32Array.from(
    { length: 3 * (LEVELS + 1) },
    (_, i) => ((max * g.amount) / g.field.strength) * grainSigma(g.measured, i % 3, Math.floor(i / 3) / LEVELS),
  );
}

/** What {@link strengths} holds for a code value. */
function strengthAt(strength: Float32Array, v: number, max: number, channel: number): number {
  return strength[3 * clamp(((v * LEVELS) / max) | 0, 0, LEVELS) + channel]!;
}

const isPlain = (t: ComposeTask): boolean => t.mode === 'over' && t.space === 'light';

/** Where a row's noise begins in its field. */
function noiseAt(grain: ComposeTask['grain'], y: number): number {
  return grain ? grain.field.first + y * grain.field.row : 0;
}

/** One blended channel, scene-linear, of element `e` (premultiplied, alpha `a`) over `b`. */
function blended(t: ComposeTask, e: number, a: number, b: number): number {
  const { encode: shown, decode } = CURVES[shownCurve(t.transfer)];
  if (t.space === 'light') return t.mode === 'over' ? e + (1 - a) * b : (1 - a) * b + a * BLEND[t.mode](b, e / a);
  const sb = shown(b);
  return decode((1 - a) * sb + a * BLEND[t.mode](sb, shown(e / a)));
}

/** Light with grain that was measured on values as they are shown, for pictures of floats. */
function grained(t: ComposeTask, light: number, noise: number, strength: Float32Array, channel: number): number {
  const { encode: shown, decode } = CURVES[shownCurve(t.transfer)];
  const v = shown(light);
  return decode(v + noise * strengthAt(strength, v, 1, channel));
}

/** What one channel of px `i` becomes, as light: `n` is its place in the noise. */
function finished(
  t: ComposeTask,
  i: number,
  c: number,
  n: number,
  plain: boolean,
  strength: Float32Array | null,
): number {
  const a = t.element[i * 4 + 3]!;
  const b = t.under[i * 3 + c]!;
  const e = t.element[i * 4 + c]!;
  let light: number;
  if (a <= 0) light = b;
  else if (plain) light = e + (1 - a) * b;
  else light = blended(t, e, a, b);
  return strength && a > 0 ? grained(t, light, a * t.grain!.field.data[n + c]!, strength, c) : light;
}

/** A float picture has no code values to be cut or rounded to: light beyond white, and below black, goes through. */
function composeFloatRow(t: ComposeTask, target: Raster, y: number, strength: Float32Array | null): void {
  const { region, element, changed, grain } = t;
  const { channels, data } = target;
  const { encode: code } = CURVES[t.transfer];
  const plain = isPlain(t);
  for (
    let x = 0, i = y * region.width, at = ((y + region.y) * target.width + region.x) * channels, n = noiseAt(grain, y);
    x < region.width;
    x++, i++, at += channels, n += 3
  ) {
    const a = element[i * 4 + 3]!;
    if (a <= 0 && !changed) continue;
    for (let c = 0; c < 3; c++) data[at + c] = code(finished(t, i, c, n, plain, strength));
    if (channels === 4) data[at + 3] = a + (1 - a) * data[at + 3]!;
  }
}

function composeRow(t: ComposeTask, target: Raster, y: number, strength: Float32Array | null): void {
  const { region, element, under, changed, table, grain } = t;
  const { channels, data } = target;
  const max = table.max;
  const plain = isPlain(t);
  for (
    let x = 0, i = y * region.width, at = ((y + region.y) * target.width + region.x) * channels, n = noiseAt(grain, y);
    x < region.width;
    x++, i++, at += channels, n += 3
  ) {
    const a = element[i * 4 + 3]!;
    if (a <= 0 && !changed) continue;
    for (let c = 0; c < 3; c++) {
      const b = under[i * 3 + c]!;
      let light: number;
      if (a <= 0) light = b;
      else if (plain) light = element[i * 4 + c]! + (1 - a) * b;
      else light = blended(t, element[i * 4 + c]!, a, b);
      let v = encode(table, light);
      if (strength && a > 0) v += a * grain!.field.data[n + c]! * strengthAt(strength, v, max, c);
      // Rounded here: a clamped array rounds by itself and would round twice.
      if (v <= 0) data[at + c] = 0;
      else if (v >= max) data[at + c] = max;
      else data[at + c] = (v + 0.5) | 0;
    }
    if (channels === 4) data[at + 3] = Math.round(max * (a + ((1 - a) * data[at + 3]!) / max));
  }
}

/** As {@link composeRow} for all rows, by the kernels; false where they cannot. */
function composeByKernels(t: ComposeTask, target: Raster, strength: Float32Array | null): boolean {
  const { data, channels } = target;
  const { region, element, under, grain, table } = t;
  const wasm = kernelsFor(element);
  const wide = region.width * 3;
  const bytes = data.BYTES_PER_ELEMENT;
  if (
    !wasm ||
    data instanceof Float32Array ||
    !isPlain(t) ||
    !wasm.holds(under) ||
    (grain && !wasm.holds(grain.field.data))
  )
    return false;
  const at = wasm.scratch(wide * bytes);
  if (at === null) return false;
  holdCodes(wasm, table.codes);
  if (strength) wasm.memory.set(strength, STRENGTH_AT / 4);
  const row =
    bytes === 1 ? new Uint8Array(wasm.memory.buffer, at, wide) : new Uint16Array(wasm.memory.buffer, at, wide);
  for (let y = 0; y < region.height; y++) {
    const from = ((y + region.y) * target.width + region.x) * channels;
    const i = y * region.width;
    const field = grain ? grain.field.data.byteOffset + 4 * noiseAt(grain, y) : 0;
    if (channels === 3) row.set(data.subarray(from, from + wide));
    else coloursOf(data, from, region.width, row);
    wasm.run.composeRow(
      element.byteOffset + 16 * i,
      under.byteOffset + 12 * i,
      field,
      STRENGTH_AT,
      LEVELS,
      CODES_AT,
      ENCODING_STEPS,
      table.top,
      table.max,
      region.width,
      t.changed ? 1 : 0,
      bytes,
      at,
    );
    if (channels === 3) data.set(row, from);
    else {
      setColours(data, from, region.width, row);
      coverRow(data, from, { element, at: 4 * i, n: region.width, changed: t.changed, max: table.max });
    }
  }
  return true;
}

/** Lays the element into the target's region. */
export function compose(t: ComposeTask, target: Raster): void {
  const strength = t.grain ? strengths(t.grain, maxOf(target)) : null;
  if (composeByKernels(t, target, strength)) return;
  const row = target.data instanceof Float32Array ? composeFloatRow : composeRow;
  for (let y = 0; y < t.region.height; y++) row(t, target, y, strength);
}

/**
 * The element alone with straight alpha: over whatever the target's region holds, of which only its own alpha counts.
 */
export function composeElement(t: ComposeTask, target: Raster): void {
  const { region, element, table, grain } = t;
  const { data } = target;
  const max = table.max;
  const float = data instanceof Float32Array;
  const strength = grain ? strengths(grain, max) : null;
  const { decode, encode: exact } = CURVES[t.transfer];
  const code = (light: number): number => (float ? exact(light) : encode(table, light));
  for (let y = 0; y < region.height; y++)
    for (
      let x = 0, i = y * region.width, at = ((y + region.y) * target.width + region.x) * 4, n = noiseAt(grain, y);
      x < region.width;
      x++, i++, at += 4, n += 3
    ) {
      const a = Math.min(1, element[i * 4 + 3]!);
      const below = data[at + 3]! / max;
      const whole = a + (1 - a) * below;
      if (whole <= 0) continue;
      for (let c = 0; c < 3; c++) {
        const own = a > 0 ? element[i * 4 + c]! / a : 0;
        const noise = strength && a > 0 ? grain!.field.data[n + c]! : 0;
        let v = a > 0 ? code(own) : 0;
        if (noise !== 0)
          v = float ? exact(grained(t, own, noise, strength!, c)) : v + noise * strengthAt(strength!, v, max, c);
        // Layers mix by light; where one alone covers, its code value goes through untouched.
        const mixed =
          below <= 0 || a >= 1
            ? v
            : code((element[i * 4 + c]! + (1 - a) * below * decode(data[at + c]! / max)) / whole);
        data[at + c] = float ? mixed : clamp(Math.round(mixed), 0, max);
      }
      data[at + 3] = float ? whole : Math.round(max * whole);
    }
}

/**
 * Parts of the finished picture, as light: over the clean plate, `clean * (1 - alpha) + element + light` is the
 * finished picture, with the alpha of the element's pass; the clean plate is the plate and the change of the spill's
 * pass; the pass of the holdouts is 1 where all of the fill is held out.
 */
export const PASSES = ['pass-element', 'pass-light', 'pass-spill', 'pass-holdout'] as const;
export type Pass = (typeof PASSES)[number];

export interface PassParts {
  readonly pass: Pass;
  /** RGB of the region, as light: the plate as it came, and as it was cleaned */
  readonly plate: Float32Array;
  readonly clean: Float32Array;
  /** light kept from the glass in the element, RGB; null where there is none */
  readonly light: Float32Array | null;
  /** how much of the fill the holdouts let show; null where there are none */
  readonly matte: Float32Array | null;
}

/**
 * One part of the picture into the target, a picture of floats that begins as nothing: what no Screen reaches stays as
 * it is.
 */
export function composePass(t: ComposeTask, parts: PassParts, target: Raster): void {
  const { region, element, grain } = t;
  const { channels, data } = target;
  const { pass, plate, clean, light, matte } = parts;
  const strength = grain ? strengths(grain, maxOf(target)) : null;
  const plain = isPlain(t);
  for (let y = 0; y < region.height; y++)
    for (
      let x = 0,
        i = y * region.width,
        at = ((y + region.y) * target.width + region.x) * channels,
        n = noiseAt(grain, y);
      x < region.width;
      x++, i++, at += channels, n += 3
    ) {
      const a = element[i * 4 + 3]!;
      for (let c = 0; c < 3; c++) {
        const kept = light ? light[i * 3 + c]! : 0;
        const change = clean[i * 3 + c]! - plate[i * 3 + c]!;
        if (pass === 'pass-element')
          data[at + c] =
            (1 - a) * data[at + c]! +
            (a > 0 ? finished(t, i, c, n, plain, strength) - (1 - a) * clean[i * 3 + c]! - kept : 0);
        else if (pass === 'pass-light') data[at + c] = (1 - a) * data[at + c]! + kept;
        else if (pass === 'pass-spill') data[at + c]! += change;
        else data[at + c] = Math.max(data[at + c]!, matte ? 1 - matte[i]! : 0);
      }
      if (channels === 4) data[at + 3] = a + (1 - a) * data[at + 3]!;
    }
}
