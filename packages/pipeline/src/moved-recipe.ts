/** A Screen's recipe for another version of its plate: all frames later or earlier, all px larger or smaller. */
import type { ScreenFile } from '@yarlop/contracts/validate';
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
  'at',
  'box',
  'search',
  'offsets',
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
/** Where such a name means something else. */
const NO_PIXELS = new Set(['dress.bend', 'fill.made', 'dress.lights', 'dress.levels']);

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

/** @throws InputError when the reference frame is not in the new plate */
export function movedRecipe(recipe: ScreenFile, { offset, scale, frameCount }: PlateChange): ScreenFile {
  const within = (frame: number): boolean => frame >= 0 && frame < frameCount;
  const reference = recipe.referenceFrame + offset;
  if (!within(reference))
    throw new InputError(
      `The reference frame ${recipe.referenceFrame} of "${recipe.name}" would be frame ${reference}, which the new plate does not have; choose a version that holds it.`,
    );
  const clamped = (frame: number): number => Math.min(frameCount - 1, Math.max(0, frame));
  function walk(v: Json, path: string): Json {
    if (Array.isArray(v)) {
      const moved = (v as readonly Json[]).map((x) => walk(x, path));
      const left = moved.filter((x) => !outside(x));
      const last = moved.at(-1) as { frame?: number; value?: number } | undefined;
      // A control keeps a value when all of its keys are gone.
      return left.length === 0 && typeof last?.value === 'number'
        ? [{ ...last, frame: clamped(last.frame ?? 0) }]
        : left;
    }
    if (!v || typeof v !== 'object') return v;
    const pixels = scale !== 1 && ![...NO_PIXELS].some((p) => path === p || path.startsWith(`${p}.`));
    return Object.fromEntries(
      Object.entries(v as Record<string, Json>).map(([name, x]): [string, Json] => {
        if (typeof x === 'number' && FRAMES.includes(name)) return [name, x + offset];
        const moved = walk(x, path ? `${path}.${name}` : name);
        return [
          name,
          pixels && PIXELS.includes(name) && !(path === 'dress' && name === 'softness') ? scaled(moved, scale) : moved,
        ];
      }),
    );
  }
  /** A key, touch-up or reshaping on a frame that is gone goes with it. */
  function outside(v: Json): boolean {
    const o = v && typeof v === 'object' && !Array.isArray(v) ? (v as Record<string, Json>) : null;
    if (typeof o?.['frame'] === 'number') return !within(o['frame']);
    return typeof o?.['from'] === 'number' && typeof o['to'] === 'number' && (o['to'] < 0 || o['from'] >= frameCount);
  }
  const out = walk(recipe as unknown as Json, '') as unknown as ScreenFile;
  const perFrame = <T extends { readonly from: number; readonly values: readonly number[] }>(p: T, k: number): T => ({
    ...p,
    from: Math.max(0, p.from),
    values: p.values.slice(Math.max(0, -p.from)).map((x) => x * k),
  });
  const { levels, softness, grain } = (out.dress ?? {}) as {
    levels?: { measured?: { from: number; values: number[] } };
    softness?: { measured?: { from: number; values: number[] } };
    grain?: { measured?: { size: number } };
  };
  return {
    ...out,
    ...(out.fill?.media && out.fill.start === undefined && offset > 0 ? { fill: { ...out.fill, start: offset } } : {}),
    ...(out.keyFrames ? { keyFrames: out.keyFrames.map((f) => f + offset).filter(within) } : {}),
    ...(out.presence ? { presence: out.presence.map((p) => ({ from: clamped(p.from), to: clamped(p.to) })) } : {}),
    ...(out.sections
      ? { sections: out.sections.map((s) => ({ ...s, from: clamped(s.from), to: clamped(s.to) })) }
      : {}),
    ...(out.settles
      ? {
          settles: out.settles.map((s) => ({
            ...s,
            from: Math.max(0, s.from),
            offsets: s.offsets.slice(Math.max(0, -s.from)),
          })),
        }
      : {}),
    ...(out.spots
      ? {
          spots: out.spots.map((s) => ({
            ...s,
            ...(s.from === undefined ? {} : { from: clamped(s.from) }),
            ...(s.to === undefined ? {} : { to: clamped(s.to) }),
            ...(s.path
              ? {
                  path: s.path
                    .map((p) => [p[0]! + offset, p[1]! * scale, p[2]! * scale, ...p.slice(3)])
                    .filter((p) => within(p[0]!)),
                }
              : {}),
          })),
        }
      : {}),
    ...(out.dress
      ? {
          dress: {
            ...out.dress,
            ...(levels?.measured ? { levels: { ...out.dress.levels, measured: perFrame(levels.measured, 1) } } : {}),
            ...(softness
              ? {
                  softness: {
                    ...out.dress.softness,
                    ...(softness.measured ? { measured: perFrame(softness.measured, scale) } : {}),
                  },
                }
              : {}),
            ...(grain?.measured
              ? {
                  grain: {
                    ...out.dress.grain,
                    measured: {
                      ...out.dress.grain!.measured!,
                      size: Math.min(2, recipe.dress!.grain!.measured!.size * scale),
                    },
                  },
                }
              : {}),
          },
        }
      : {}),
  } as unknown as ScreenFile;
}
