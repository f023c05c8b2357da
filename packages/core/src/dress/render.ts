/**
 * The renderer: lays dressed fills into the plate. The same code makes the viewer's picture and the delivery. It works
 * in scene-linear light, touches only the region that a Screen reaches, and leaves every pixel that nothing changes
 * bit-exact.
 */
import type { Matrix3 } from '../geometry/matrix3';
import { IDENTITY, scaling } from '../geometry/matrix3';
import { clamp } from '../clamp';
import type { Lens } from '../geometry/lens';
import { distort, undistort } from '../geometry/lens';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { assertPin, mapQuad, signedArea } from '../geometry/quad';
import { quadToQuad } from '../geometry/homography';
import type { Raster } from '../image/image';
import { maxOf } from '../image/image';
import { kernelsFor } from '../image/kernels';
import { addLights } from './added-light';
import type { BentSides } from './bend';
import { bentBy, bentSides } from './bend';
import type { ComposeTask, Pass } from './compose';
import { PASSES, compose, composeElement, composePass } from './compose';
import { applyLook, lookAt } from './display-look';
import { edgeAt } from './edge';
import type { ElementTask } from './element';
import { drawElement, sizesNeeded } from './element';
import type { FillPyramid } from './fill-pyramid';
import { addGlare, glareOn, glassWith } from './glare';
import { grainAt, grainField, grainRoom } from './grain';
import { fillIn } from './fill-in';
import type { Holdout, HoldoutTask, PlaneMoments } from './holdout';
import { awayFromMarks, matteOf } from './holdout';
import { DECODE_AT, holdDecoding } from './kernel-memory';
import { valueAt } from './keys';
import type { Rgb } from './levels';
import { applyLevels, levelsAt } from './levels';
import { moments, smear } from './motion-blur';
import { boxOf, lifted, slotAspect, slotToFill, slotToLaidFill } from './placement';
import type { DressRecipe } from './recipe';
import type { Region } from './region';
import { hull, regionAround } from './region';
import { continueInwards, rimReach } from './rim';
import type { BlurShape } from './softness';
import { blurReach, defocus, gaussianBlur, softnessAt } from './softness';
import { takeSpill } from './spill';
import type { UnmixTask } from './unmix';
import { glassAlone, unmixEdge } from './unmix';
import type { EncodingTable, Transfer } from './transfer';
import { CURVES, decodingTable, encodingTable, shownCurve } from './transfer';
import { outlineCover } from './outline-matte';
import { workroom } from './workroom';

/** Rectangle of whole pixels that a render may have changed. */
export type Touched = Region;

/** Where a Screen's plane is on a frame; neighbours null where they are not known. */
export interface PlaneOn {
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  /** the pin on the reference frame, plate px */
  readonly pin: Quad;
  readonly referenceFrame: number;
}

/** One Screen on one frame. */
export interface Layer {
  readonly fill: FillPyramid;
  /** of the pin on this frame and its neighbours, picture px; neighbours null where they are not known */
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  /** the pin on the reference frame, plate px: lengths of the recipe are measured by it */
  readonly pin?: Quad;
  readonly referenceFrame?: number;
  /** other Screens of the shot by name, on whose planes outlines may ride */
  readonly others?: Readonly<Record<string, PlaneOn>>;
  readonly dress?: DressRecipe;
  readonly frame?: number;
  readonly frameRate?: number;
  /** share of a frame's time that the plate's shutter is open, where it was estimated */
  readonly shutter?: number;
  /** the lens that bows the picture, its size in picture px */
  readonly lens?: Lens | null;
}

/**
 * What is shown: the whole, the element with straight alpha, how much of the fill shows, the plate as cleaned of spill,
 * or one of the passes that add up to the whole.
 */
export type Show = 'dressed' | 'element' | 'matte' | 'clean' | Pass;

/** Whether a name is that of a pass that can be delivered alone. */
export function isPass(show: string): show is Pass {
  return (PASSES as readonly string[]).includes(show);
}

export interface RenderOptions {
  readonly transfer?: Transfer;
  /** picture px a plate px: below 1 for proxies */
  readonly pixel?: number;
  readonly show?: Show;
}

interface Tables {
  readonly decode: Float32Array;
  /** code values as shares of the range */
  readonly shares: Float32Array;
  readonly table: EncodingTable;
}

/** Share of a frame's time that a shutter is open when nobody knows better: 180 degrees. Common practice, no source. */
const USUAL_SHUTTER = 0.5;
const BARE: DressRecipe = {};

/** How far a bend moves anything, px. */
function bendReach(sides: BentSides | null, corners: Quad): number {
  if (!sides) return 0;
  let most = 0;
  for (let i = 0; i <= 16; i++)
    for (const [s, t] of [
      [i / 16, 0],
      [i / 16, 1],
      [0, i / 16],
      [1, i / 16],
    ] as const)
      most = Math.max(most, Math.abs(bentBy(sides, s, t, 0)), Math.abs(bentBy(sides, s, t, 1)));
  return most * Math.max(...corners.map((c, i) => distance(c, corners[(i + 1) % 4]!))) * 1.5;
}

/** How far behind a lens the sides lie beside the straight lines between their corners, px. */
function lensReach(lens: Lens | null, corners: Quad): number {
  if (!lens) return 0;
  const flat = corners.map((c) => undistort(lens, c));
  const between = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  return (
    1 +
    1.2 *
      Math.max(
        ...flat.map((p, i) =>
          distance(distort(lens, between(p, flat[(i + 1) % 4]!)), between(corners[i]!, corners[(i + 1) % 4]!)),
        ),
      )
  );
}

/** RGB of a region, each value through a table by its code, or through a curve where the picture holds floats. */
function valuesOfRegion(
  picture: Raster,
  region: Region,
  table: Float32Array,
  curve: (v: number) => number,
  out: Float32Array = new Float32Array(region.width * region.height * 3),
): Float32Array {
  const { channels, data, width } = picture;
  const float = data instanceof Float32Array;
  const n = region.width * channels;
  const wasm = float ? null : kernelsFor(out);
  const at = channels === 3 ? (wasm?.scratch(n * data.BYTES_PER_ELEMENT) ?? null) : null;
  if (wasm && at !== null) {
    const row =
      data instanceof Uint16Array
        ? new Uint16Array(wasm.memory.buffer, at, n)
        : new Uint8Array(wasm.memory.buffer, at, n);
    holdDecoding(wasm, table);
    for (let y = 0; y < region.height; y++) {
      const from = ((y + region.y) * width + region.x) * channels;
      row.set(data.subarray(from, from + n));
      wasm.run.decodeRow(at, data.BYTES_PER_ELEMENT, n, DECODE_AT, out.byteOffset + 4 * y * n);
    }
    return out;
  }
  for (let y = 0, o = 0; y < region.height; y++)
    for (let x = 0, k = ((y + region.y) * width + region.x) * channels; x < region.width; x++, k += channels)
      for (let c = 0; c < 3; c++) out[o++] = float ? curve(data[k + c]!) : table[data[k + c]!]!;
  return out;
}

/**
 * The plate's light creeps over the element's edge: what is near the edge mixes with what is blurred from beyond it.
 */
function wrapLight(element: Float32Array, under: Float32Array, region: Region, amount: number, reach: number): void {
  const n = region.width * region.height;
  const around = new Float32Array(n * 4);
  for (let i = 0; i < n; i++) {
    const free = 1 - Math.min(1, element[i * 4 + 3]!);
    for (let c = 0; c < 3; c++) around[i * 4 + c] = free * under[i * 3 + c]!;
    around[i * 4 + 3] = free;
  }
  gaussianBlur(around, region.width, region.height, 4, reach / 2);
  for (let i = 0; i < n; i++)
    for (let c = 0; c < 3; c++) element[i * 4 + c]! += amount * element[i * 4 + 3]! * around[i * 4 + c]!;
}

/** Mean of a region's light. */
function meanLight(light: Float32Array): Rgb {
  const sum = [0, 0, 0];
  for (let i = 0; i < light.length; i++) sum[i % 3]! += (3 * light[i]!) / light.length;
  return sum as unknown as Rgb;
}

/** Mean of the fill, scene-linear, by its coarsest size. */
function meanOf(fill: FillPyramid): Rgb {
  const { width, height, data } = fill.at(-1)!;
  const sum = [0, 0, 0];
  for (let k = 0; k < data.length; k += 4) for (let c = 0; c < 3; c++) sum[c]! += data[k + c]! / (width * height);
  return sum as unknown as Rgb;
}

/** Tables of every kind of picture met so far: a few, and never changed. */
const allTables = new Map<string, Tables>();

function tablesFor(max: number, transfer: Transfer): Tables {
  const key = `${max} ${transfer}`;
  const known = allTables.get(key);
  if (known) return known;
  const made = {
    decode: decodingTable(max, transfer),
    shares: Float32Array.from({ length: max + 1 }, (_, i) => i / max),
    table: encodingTable(max, transfer),
  };
  allTables.set(key, made);
  return made;
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
   * Dresses the layers, back to front.
   * @param plate is measured (keys, glare, spill) and never changed unless `target` is it
   * @param target a copy of the plate, the plate itself, or for `element` and passes an empty picture, of floats for
   * passes and with alpha for elements
   * @returns the rectangle that may have changed, null when no layer reaches the picture
   * @throws CoreError `degenerate` for a pin that no rectangle can look like
   */
  render(plate: Raster, layers: readonly Layer[], target: Raster = plate, options: RenderOptions = {}): Touched | null {
    const pristine = layers.length > 1 && target.data === plate.data ? { ...plate, data: plate.data.slice() } : plate;
    let touched: Touched | null = null;
    for (const layer of layers) {
      const region = this.layer(pristine, layer, target, options);
      if (region) touched = touched ? hull(touched, region) : region;
    }
    return touched;
  }

  private layer(
    plate: Raster,
    l: Layer,
    target: Raster,
    { transfer = 'srgb', pixel = 1, show = 'dressed' }: RenderOptions,
  ): Touched | null {
    const { corners, fill, dress = BARE, frame = 0, pin = corners } = l;
    const base = fill[0]!;
    const placement = dress.placement ?? {};
    assertPin(corners);
    const scale = Math.sqrt(Math.abs(signedArea(corners) / signedArea(pin)));
    const { decode, table } = tablesFor(maxOf(plate), transfer);
    const laid = laidOn(l, plate);
    const aspect = slotAspect(laid.pin);
    const edge = edgeAt(dress.edge ?? {}, frame, scale, aspect);
    const bend = bentSides(dress.bend, frame);
    const shape = dress.softness?.shape ?? 'gaussian';
    const sigma = pixel * softnessAt(dress.softness ?? {}, frame, scale / pixel);
    const lens = l.lens?.radial ? l.lens : null;
    let share: number;
    if (dress.motionBlur?.on)
      share = dress.motionBlur.shutter !== undefined ? dress.motionBlur.shutter / 360 : (l.shutter ?? USUAL_SHUTTER);
    else share = 0;
    const path = share > 0 ? moments(laid.before ?? null, laid.corners, laid.after ?? null, share) : [laid.corners];
    const spill = dress.spill;
    const spillShare = valueAt(spill?.amount, frame, 1);
    const spills =
      spill !== undefined &&
      (spillShare > 0 || valueAt(spill.shift, frame, 0) !== 0 || valueAt(spill.desaturate, frame, 0) > 0);
    let reach: number;
    if (spill) reach = spill.reach === undefined ? Infinity : spill.reach * scale;
    else reach = 0;
    const inside = spills && reach < Infinity ? reach : 0;
    const more = dress.rim?.on ? (dress.rim.more ?? 0) * scale : 0;
    const rim = more > 0 ? rimReach(sigma, path, more) : 0;
    const margin =
      2 +
      rim +
      blurReach(sigma, shape) +
      Math.max(0, -edge.inset) +
      bendReach(bend, laid.corners) +
      lensReach(lens, laid.corners) +
      inside;
    const region =
      spills && reach === Infinity
        ? { x: 0, y: 0, width: plate.width, height: plate.height }
        : regionAround([corners, laid.corners, path[0]!, path.at(-1)!], margin, plate.width, plate.height);
    if (!region) return null;

    const size = { width: plate.width / pixel, height: plate.height / pixel };
    const toFill =
      placement.lay === 'plate'
        ? slotToLaidFill(placement, frame, base.width, base.height, laid.pin, size)
        : slotToFill(placement, frame, base.width, base.height, aspect);
    const ends = dress.placement !== undefined && !fillsSlot(toFill, base.width, base.height);
    const drawn: ElementTask = { fill, corners: laid.corners, toFill, ends, bend, edge, aspect, lens };
    const { low, high } = sizesNeeded(drawn);
    const g = show === 'matte' ? null : grainAt(dress.grain, frame);
    const grainSize = g ? g.size * pixel : 0;
    const keep = valueAt(dress.glare?.keep, frame, 1);
    const glass = dress.glare?.measured;
    const soften = (dress.glare?.soften ?? 1) * scale;
    const room = workroom(region, fill, low, high, {
      under: target.data !== plate.data,
      field: g ? grainRoom(region, grainSize) : 0,
      glare: glass !== undefined && keep > 0,
      reach: Math.max(blurReach(sigma, 'gaussian'), blurReach(grainSize, 'gaussian'), blurReach(soften, 'gaussian')),
    });
    let element = room.element;
    drawElement(drawn, region, element);
    const lightOf = (picture: Raster, out: Float32Array): Float32Array =>
      valuesOfRegion(picture, region, decode, CURVES[transfer].decode, out);
    const seen = lightOf(plate, room.seen);
    const look = lookAt(dress.look, frame, l.frameRate ?? 24);
    if (look) applyLook(element, region, laid.corners, look, plate, aspect, meanLight(seen));
    defocus(element, region.width, region.height, 4, sigma, shape);
    element = smear(element, region, laid.corners, path, room.spare);
    // Before anything makes the fill let the old screen through.
    const unmixes = dress.rim?.on === true || (glass !== undefined && keep > 0);
    const cover = unmixes ? this.coverOf(drawn, element, { region, sigma, shape, path }) : null;
    if (dress.levels) applyLevels(element, levelsAt(dress.levels, frame, l.frameRate ?? 24));
    if (dress.lights)
      addLights(element, region, dress.lights, frame, corners, mapQuad(scaling(pixel), pin), slotAspect(pin));

    const pass = isPass(show) ? show : null;
    const dry = pass && element.slice();
    const glare =
      glass && keep > 0 && cover
        ? glareOn(seen, { region, corners, own: glass, sigma: soften, cover }, room.glare)
        : null;
    const ofGlass = glass && glare ? glassWith(glare, { corners, own: glass }) : null;
    const filled = cover && alphaOf(element);
    if (glare) addGlare(element, glare, keep);
    const isKeyed = dress.holdouts?.some((h) => h.kind === 'key' && !h.off) ?? false;
    const edges: UnmixTask | null = cover && { region, cover, glass: ofGlass, isEven: isKeyed, shows: null };
    const alone = edges && isKeyed ? seen.slice() : null;
    if (alone) glassAlone(alone, edges!);
    const holding = dress.holdouts?.length
      ? this.holdoutTask(plate, region, l, glass, transfer, pixel, share, alone)
      : null;
    const matte = holding && matteOf(dress.holdouts!, holding);
    if (placement.lay === 'plate' && placement.cut)
      keepInside(
        element,
        outlineCover(
          region,
          placement.cut,
          null,
          path.map((q) => quadToQuad(laid.pin, q)),
          scale,
        ),
      );
    const apart = edges && { ...edges, shows: shownOf(edges.cover, filled!, matte) };
    if (matte) for (let i = 0; i < matte.length; i++) for (let c = 0; c < 4; c++) element[i * 4 + c]! *= matte[i]!;

    const under = target.data === plate.data || pass ? seen : lightOf(target, room.under);
    const mode = dress.blend?.mode ?? 'over';
    /** Takes the old screen's marks, rim and hue out of the plate's light. @returns whether there were any */
    const cleanOf = (own: Float32Array, marks: boolean): boolean => {
      const closed = marks && holding !== null && fillMarks(own, dress.holdouts!, holding);
      const unmixed = apart !== null && unmixEdge(own, apart);
      const continued = more > 0 && continueInwards(own, region, corners, rim, matte);
      return (
        Boolean(
          spill &&
          spills &&
          takeSpill(
            own,
            region,
            corners,
            spill.colour,
            spillShare,
            valueAt(spill.recolour, frame, 0),
            reach,
            meanOf(fill),
            { shift: valueAt(spill.shift, frame, 0), desaturate: valueAt(spill.desaturate, frame, 0) },
          ),
        ) ||
        closed ||
        unmixed ||
        continued
      );
    };
    const came = pass && under.slice();
    const clean = came?.slice();
    const changed = cleanOf(under, show === 'clean' || mode !== 'over');
    if (edge.wrap > 0) wrapLight(element, under, region, edge.wrap, edge.wrapReach);
    if (show === 'clean') element.fill(0);
    if (show === 'matte') {
      for (let i = 0; i < region.width * region.height; i++) element.fill(element[i * 4 + 3]!, i * 4, i * 4 + 3);
      under.fill(0);
    }
    const task: ComposeTask = {
      region,
      element,
      under,
      changed: changed || show === 'matte',
      transfer,
      table,
      mode,
      space: dress.blend?.space ?? 'light',
      grain: g
        ? { field: grainField(region, frame, g.seed, grainSize, room.field), amount: g.amount, measured: g.measured }
        : null,
    };
    if (pass && came && clean && dry) {
      cleanOf(clean, true);
      composePass(
        task,
        { pass, plate: came, clean, light: glass && keep > 0 ? keptLight(element, dry) : null, matte },
        target,
      );
    } else if (show === 'element') {
      if (apart) carryEdge(element, seen, apart);
      composeElement(task, target);
    } else compose(task, target);
    return region;
  }

  /** Share of each px that the glass covers, as soft and smeared as the fill is; the fill may cover less of it. */
  private coverOf(
    drawn: ElementTask,
    element: Float32Array,
    { region, sigma, shape, path }: { region: Region; sigma: number; shape: BlurShape; path: readonly Quad[] },
  ): Float32Array {
    const { inset, feather } = drawn.edge;
    if (!drawn.ends && inset === 0 && feather.every((f) => f === 0)) return alphaOf(element);
    const whole = new Float32Array(element.length);
    const edge = { ...drawn.edge, inset: 0, feather: [0, 0, 0, 0] };
    drawElement({ ...drawn, fill: BLANK, toFill: IDENTITY, ends: false, edge }, region, whole);
    defocus(whole, region.width, region.height, 4, sigma, shape);
    return alphaOf(smear(whole, region, drawn.corners, path));
  }

  private holdoutTask(
    plate: Raster,
    region: Region,
    l: Layer,
    glass: HoldoutTask['glass'],
    transfer: Transfer,
    pixel: number,
    share: number,
    alone: Float32Array | null,
  ): HoldoutTask {
    const shown = CURVES[shownCurve(transfer)].encode;
    const { corners, before = null, after = null, pin = corners, referenceFrame = 0 } = l;
    const own: PlaneOn = { corners, before, after, pin, referenceFrame };
    const planeOf = (screen: string | undefined): PlaneMoments | null => {
      const on = screen === undefined ? own : l.others?.[screen];
      return on
        ? {
            planes: (share > 0 ? moments(on.before ?? null, on.corners, on.after ?? null, share) : [on.corners]).map(
              (q) => quadToQuad(on.pin, q),
            ),
            referenceFrame: on.referenceFrame,
            scale: Math.sqrt(Math.abs(signedArea(on.corners) / signedArea(on.pin))),
          }
        : null;
    };
    return {
      region,
      codes: alone ? alone.map(shown) : valuesOfRegion(plate, region, tablesFor(maxOf(plate), transfer).shares, shown),
      corners,
      frame: l.frame ?? 0,
      planeOf,
      shown,
      glass,
      pixel,
    };
  }
}

/**
 * The plane in which the fill lies: the pin's, lifted off the glass, or widened to the outline at which a laid fill
 * ends.
 */
function laidOn(l: Layer, picture: { readonly width: number; readonly height: number }): PlaneOn {
  const { corners, before = null, after = null, pin = corners, referenceFrame = 0, frame = 0 } = l;
  const p = l.dress?.placement ?? {};
  const lift = valueAt(p.lift, frame, 0);
  const box = p.lay === 'plate' && p.cut ? boxOf(p.cut) : null;
  const aspect = slotAspect(pin);
  const carried = (q: Quad | null, n: number): Quad | null => {
    if (!q) return null;
    const high = lifted(q, n === 0 ? lift : valueAt(p.lift, frame + n, 0), aspect, picture, p.focal);
    return box ? mapQuad(quadToQuad(pin, high), box) : high;
  };
  return {
    corners: carried(corners, 0)!,
    before: carried(before, -1),
    after: carried(after, 1),
    pin: box ?? pin,
    referenceFrame,
  };
}

/** A fill without any picture, which only says how much is covered. */
const BLANK: FillPyramid = [{ width: 1, height: 1, data: Float32Array.of(1, 1, 1, 1) }];

function alphaOf(rgba: Float32Array): Float32Array {
  const out = new Float32Array(rgba.length / 4);
  for (let i = 0; i < out.length; i++) out[i] = Math.min(1, rgba[4 * i + 3]!);
  return out;
}

/**
 * How much of what the unmixed edge says is to stand under the fill: all of it where the fill covers what the glass
 * does, none where it covers nothing; and as much as the holdouts let it show.
 */
function shownOf(cover: Float32Array, fill: Float32Array, matte: Float32Array | null): Float32Array {
  const out = new Float32Array(cover.length);
  for (let i = 0; i < out.length; i++) {
    const a = cover[i]!;
    const f = fill[i]!;
    const share = f === a || f >= 1 ? 1 : clamp((f * (1 - a)) / Math.max(1e-9, a * (1 - f)), 0, 1);
    out[i] = share * (matte ? clamp(matte[i]!, 0, 1) : 1);
  }
  return out;
}

/** Gives the element what the unmixed edge changes of the plate, so that it comes out right over the plate as it came. */
function carryEdge(element: Float32Array, seen: Float32Array, edges: UnmixTask): void {
  const clean = seen.slice();
  unmixEdge(clean, edges);
  for (let i = 0, k = 0; k < element.length; i += 3, k += 4)
    if (element[k + 3]! > 0)
      for (let c = 0; c < 3; c++) element[k + c]! += (1 - element[k + 3]!) * (clean[i + c]! - seen[i + c]!);
}

/** What the element holds beyond what it held before the glass's light was added, as much of it as was left since. */
function keptLight(element: Float32Array, dry: Float32Array): Float32Array {
  const out = new Float32Array((element.length / 4) * 3);
  for (let i = 0, k = 0; i < out.length; k += 4) {
    const left = dry[k + 3]! > 0 ? element[k + 3]! / dry[k + 3]! : 0;
    for (let c = 0; c < 3; c++) out[i++] = element[k + c]! - left * dry[k + c]!;
  }
  return out;
}

function keepInside(element: Float32Array, cover: Float32Array): void {
  for (let i = 0; i < cover.length; i++) for (let c = 0; c < 4; c++) element[i * 4 + c]! *= Math.min(1, cover[i]!);
}

/** Marks drawn on the old screen are closed from the screen around them. @returns whether there were any */
function fillMarks(under: Float32Array, holdouts: readonly Holdout[], t: HoldoutTask): boolean {
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

/** Whether the fill reaches all four sides of the slot, so that its own border is nowhere to be seen. */
function fillsSlot(toFill: Matrix3, width: number, height: number): boolean {
  return (
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ] as const
  ).every(([s, t]) => {
    const w = toFill[6]! * s + toFill[7]! * t + toFill[8]!;
    const u = (toFill[0]! * s + toFill[1]! * t + toFill[2]!) / w;
    const v = (toFill[3]! * s + toFill[4]! * t + toFill[5]!) / w;
    return w > 0 && u > -1e-6 * width && v > -1e-6 * height && u < width * (1 + 1e-6) && v < height * (1 + 1e-6);
  });
}
