/** A Screen's recipe for another version of its plate: all frames later or earlier, all px larger or smaller. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { clamp } from '@yarlop/core/clamp';
import { InputError } from './pipeline-error';

export interface PlateChange {
  /** frames by which the new plate begins earlier: added to every frame of the recipe */
  readonly offset: number;
  /** px of the new plate a px of the old */
  readonly scale: number;
  /** of the new plate */
  readonly frameCount: number;
}

/** Members that hold a frame's number. */
const FRAMES = ['frame', 'referenceFrame', 'from', 'to', 'start'];
/** Members that hold px of the plate, at whatever depth below them; keys keep their frames. */
const PIXELS = [
  'pin',
  'area',
  'corners',
  'points',
  'handles',
  'at',
  'box',
  'search',
  'offset',
  'offsets',
  'blur',
  'cut',
  'soft',
  'more',
  'inset',
  'feather',
  'wrapReach',
  'softness',
  'grow',
  'crosses',
  'soften',
  'reach',
  'size',
];
/** px; the largest grain that is made. */
const MOST_GRAIN = 2;
/** Where such a name means something else. */
const NO_PIXELS = new Set(['dress.bend', 'fill.made', 'dress.lights', 'dress.levels', 'scenePlane']);

type Json = null | boolean | number | string | readonly Json[] | { readonly [key: string]: Json };

function scaled(v: Json, k: number): Json {
  if (typeof v === 'number') return v * k;
  if (Array.isArray(v)) return (v as readonly Json[]).map((x) => scaled(x, k));
  // A key's frame and ease stay; its value is a length.
  return v && typeof v === 'object'
    ? Object.fromEntries(
        Object.entries(v).map(([name, x]) => [
          name,
          ['frame', 'ease', 'amount', 'shape', 'measured'].includes(name) ? x : scaled(x as Json, k),
        ]),
      )
    : v;
}

/** A list of frames of the new plate alone. */
interface Frames {
  readonly count: number;
  readonly holds: (frame: number) => boolean;
  /** the nearest that it has */
  readonly nearest: (frame: number) => number;
}

function framesOf(count: number): Frames {
  return {
    count,
    holds: (frame) => frame >= 0 && frame < count,
    nearest: (frame) => clamp(frame, 0, count - 1),
  };
}

/** Whether a key, touch-up or reshaping lies on frames that are gone, all of them. */
function isGone(v: Json, frames: Frames): boolean {
  if (!v || typeof v !== 'object' || Array.isArray(v)) return false;
  const { frame, from, to } = v as Record<string, Json>;
  if (typeof frame === 'number') return !frames.holds(frame);
  return typeof from === 'number' && typeof to === 'number' && (to < 0 || from >= frames.count);
}

/** Whether a member of that name holds px where it stands. */
function holdsPixels(name: string, path: string): boolean {
  const isElse = [...NO_PIXELS].some((p) => path === p || path.startsWith(`${p}.`));
  return !isElse && PIXELS.includes(name) && !(path === 'dress' && name === 'softness');
}

/** All frames of a recipe's part moved, all its px scaled; what lies on frames that are gone goes with them. */
function moved(v: Json, path: string, change: PlateChange, frames: Frames): Json {
  const { offset, scale } = change;
  const on = (x: Json, at: string): Json => moved(x, at, change, frames);
  if (Array.isArray(v)) {
    const all = (v as readonly Json[]).map((x) => on(x, path));
    const left = all.filter((x) => !isGone(x, frames));
    const last = all.at(-1) as { frame?: number; value?: number } | undefined;
    // A control keeps a value when all of its keys are gone.
    const isControl = left.length === 0 && typeof last?.value === 'number';
    return isControl ? [{ ...last, frame: frames.nearest(last.frame ?? 0) }] : left;
  }
  if (!v || typeof v !== 'object') return v;
  const members = Object.entries(v as Record<string, Json>).map(([name, x]): [string, Json] => {
    if (typeof x === 'number' && FRAMES.includes(name)) return [name, x + offset];
    const there = on(x, path ? `${path}.${name}` : name);
    return [name, scale !== 1 && holdsPixels(name, path) ? scaled(there, scale) : there];
  });
  return Object.fromEntries(members);
}

/** Numbers of consecutive frames, the first of which are gone where they lie before the plate. */
interface PerFrame {
  readonly from: number;
  readonly values: readonly number[];
}

function cutToPlate<T extends PerFrame>(p: T, k: number): T {
  return { ...p, from: Math.max(0, p.from), values: p.values.slice(Math.max(0, -p.from)).map((x) => x * k) };
}

type Spot = NonNullable<ScreenFile['spots']>[number];

function movedSpot(s: Spot, { offset, scale }: PlateChange, frames: Frames): Spot {
  const path = s.path
    ?.map((p) => [p[0]! + offset, p[1]! * scale, p[2]! * scale, ...p.slice(3)])
    .filter((p) => frames.holds(p[0]!));
  return {
    ...s,
    ...(s.from === undefined ? {} : { from: frames.nearest(s.from) }),
    ...(s.to === undefined ? {} : { to: frames.nearest(s.to) }),
    ...(path ? { path } : {}),
  } as Spot;
}

/** A holdout, of which only what was found frame by frame is looked at. */
interface MovedHoldout {
  readonly found?: { readonly from: number; readonly masks: readonly string[] };
}

/** What was found before the new plate's first frame is gone; one mask is left where all of it is. */
function cutFound(h: MovedHoldout): MovedHoldout {
  if (!h.found) return h;
  const masks = h.found.masks.slice(Math.max(0, -h.found.from));
  return { ...h, found: { ...h.found, from: Math.max(0, h.found.from), masks: masks.length > 0 ? masks : [''] } };
}

/** What was measured frame by frame, and the grain's size, for the new plate. @param before the recipe for the old one */
function movedDress(out: ScreenFile, before: ScreenFile, scale: number): ScreenFile['dress'] {
  const dress = out.dress!;
  const { levels, softness, grain, holdouts } = dress as {
    holdouts?: readonly MovedHoldout[];
    levels?: { measured?: PerFrame };
    softness?: { measured?: PerFrame };
    grain?: { measured?: { size: number } };
  };
  const size = before.dress?.grain?.measured?.size ?? 0;
  const parts = {
    ...dress,
    ...(levels?.measured ? { levels: { ...levels, measured: cutToPlate(levels.measured, 1) } } : {}),
    ...(softness?.measured ? { softness: { ...softness, measured: cutToPlate(softness.measured, scale) } } : {}),
    ...(grain?.measured
      ? { grain: { ...grain, measured: { ...grain.measured, size: Math.min(MOST_GRAIN, size * scale) } } }
      : {}),
    ...(holdouts ? { holdouts: holdouts.map(cutFound) } : {}),
  };
  return parts as ScreenFile['dress'];
}

/** @throws InputError when the reference frame is not in the new plate */
export function movedRecipe(recipe: ScreenFile, change: PlateChange): ScreenFile {
  const { offset, scale } = change;
  const frames = framesOf(change.frameCount);
  const reference = recipe.referenceFrame + offset;
  if (!frames.holds(reference))
    throw new InputError(
      `The reference frame ${recipe.referenceFrame} of "${recipe.name}" would be frame ${reference}, which the new plate does not have; choose a version that holds it.`,
    );
  const out = moved(recipe as unknown as Json, '', change, frames) as unknown as ScreenFile;
  const nearest = <T extends { readonly from: number; readonly to: number }>(r: T): T => ({
    ...r,
    from: frames.nearest(r.from),
    to: frames.nearest(r.to),
  });
  const startsLater = out.fill?.media && out.fill.start === undefined && offset > 0;
  const settles = out.settles?.map((s) => ({
    ...s,
    from: Math.max(0, s.from),
    offsets: s.offsets.slice(Math.max(0, -s.from)),
  }));
  return {
    ...out,
    ...(startsLater ? { fill: { ...out.fill, start: offset } } : {}),
    ...(out.keyFrames ? { keyFrames: out.keyFrames.map((f) => f + offset).filter(frames.holds) } : {}),
    ...(out.presence ? { presence: out.presence.map(nearest) } : {}),
    ...(out.sections ? { sections: out.sections.map(nearest) } : {}),
    ...(settles ? { settles } : {}),
    ...(out.spots ? { spots: out.spots.map((s) => movedSpot(s, change, frames)) } : {}),
    ...(out.dress ? { dress: movedDress(out, recipe, scale) } : {}),
  } as ScreenFile;
}
