/** The chosen Screen's fill as it is placed on the picture: by its handles, and by keys. */
import type { Animated } from '@yarlop/core/dress/base/keys';
import { putValue, withPart } from './use-dress';
import type { FillPlane, Grip, Held, PlacedNumbers, SnapLine } from '@yarlop/core/dress/shape/place-by-hand';
import { laidPlane, nudged, numbersOf, placed, slotPlane, unitsOf } from '@yarlop/core/dress/shape/place-by-hand';
import { madeSize } from '@yarlop/core/dress/content/made-fill';
import { laidOn } from '@yarlop/core/dress/layer/layer';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { Placement, Size } from '@yarlop/core/dress/shape/placement';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import { mapPoint, quadToQuad, unitSquareToQuad } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { inverse, multiply, scaling } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { computed, ref } from 'vue';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';

/** A fill on a frame, ready to be taken hold of. */
export interface FillHere {
  readonly plane: FillPlane;
  readonly numbers: PlacedNumbers;
  /** from the plane to px of the frame */
  readonly toPicture: Matrix3;
  /** whether it can lean: over the plate it does not */
  readonly leans: boolean;
}

/** px of the picture within which a fill meets a line. By eye. */
const SNAP = 7;
/** Decimals that are kept: a hundredth of a px of a 4K picture and less. */
const DECIMALS = 6;

const MEMBERS = ['x', 'y', 'turn', 'scale', 'scaleY', 'shear'] as const;
const rounded = (v: number): number => Number(v.toFixed(DECIMALS));

/** What is placed by handles: its numbers, each steady or with keys. */
type Placeable = Partial<Record<(typeof MEMBERS)[number], Animated>>;

/**
 * Something placed, with other numbers on a frame: a key there where a number has keys.
 * @param before its numbers on that frame
 */
export function withNumbers<T extends Placeable>(p: T, frame: number, next: PlacedNumbers, before: PlacedNumbers): T {
  const isTogether = p.scaleY === undefined && rounded(next.scale) === rounded(next.scaleY);
  const changed = MEMBERS.filter((k) => rounded(next[k]) !== rounded(before[k]) && !(k === 'scaleY' && isTogether));
  // A height that went along with the width keeps its own once the width alone is changed.
  const parts = changed.includes('scale') && !isTogether ? [...new Set([...changed, 'scaleY' as const])] : changed;
  const was = { ...p, scaleY: p.scaleY ?? p.scale };
  return { ...p, ...Object.fromEntries(parts.map((k) => [k, putValue(was[k], frame, rounded(next[k]))])) };
}

function placementOf(recipe: Recipe): Placement {
  return ((recipe.dress ?? {}) as DressRecipe).placement ?? {};
}

const NAMES = { move: 'Move fill', scale: 'Scale fill', turn: 'Turn fill', lean: 'Lean fill' } as const;
const CORNERS: readonly Point[] = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

/** px of what a Screen's slot shows; null where that is not known yet. */
function sizeOf({ fill, pin }: Recipe): Size | null {
  if (fill?.made) {
    const [width, height] = madeSize(pin as Quad, fill.made);
    return { width, height };
  }
  return useMedia().byHash.get(fill?.media ?? '')?.probe ?? null;
}

/** How a fill of `size` lies on a frame. */
function lying(recipe: Recipe, frame: number, corners: Quad, size: Size, plate: Size): FillHere {
  const p = placementOf(recipe);
  const pin = recipe.pin as Quad;
  const laid = laidOn({ corners, pin, frame, dress: { placement: p } }, plate);
  const numbers = numbersOf(p, frame);
  if (p.lay === 'plate') {
    const plane = laidPlane(p, frame, size, laid.pin, plate);
    return { plane, numbers, toPicture: quadToQuad(laid.pin, laid.corners), leans: false };
  }
  const aspect = slotAspect(pin, p);
  const toPicture = multiply(unitSquareToQuad(laid.corners), scaling(1 / aspect, 1));
  return { plane: slotPlane(p, frame, size, aspect), numbers, toPicture, leans: true };
}

/** Numbers of a fill whose farthest corner goes so many px of the picture away from its middle, and round it clockwise. */
function spread({ plane, numbers, toPicture }: FillHere, along: number, around: number): PlacedNumbers {
  const frame = multiply(toPicture, plane.frame(numbers));
  const middle = mapPoint(frame, [0.5, 0.5]);
  const far = Math.max(...CORNERS.map((c) => distance(mapPoint(frame, c), middle)));
  const k = 1 + along / far;
  const turn = numbers.turn + ((around / far) * 180) / Math.PI;
  return { ...numbers, scale: numbers.scale * k, scaleY: numbers.scaleY * k, turn };
}

const withPlace = (p: Placement, frame: number, next: PlacedNumbers): Placement =>
  withNumbers(p, frame, next, numbersOf(p, frame));

export function useFillPlace() {
  const store = useShot();
  const tracks = useTracks();
  const playhead = usePlayhead();
  /** lines that the fill meets while it is dragged */
  const lines = ref<readonly SnapLine[]>([]);
  const here = computed((): FillHere | null => {
    const s = store.chosen;
    const size = s && sizeOf(s.recipe);
    const corners = s && tracks.corners(s, playhead.frame);
    const plate = store.shot?.probe;
    return size && corners && plate ? lying(s.recipe, playhead.frame, corners, size, plate) : null;
  });
  const withPlacement = (recipe: Recipe, next: PlacedNumbers): Recipe =>
    withPart(recipe, 'placement', withPlace(placementOf(recipe), playhead.frame, next));

  /**
   * A drag of a handle: previews while it goes on, one step of undo when it ends.
   * @param from px of the picture where the pointer took it
   * @param zoom CSS px a px of the picture
   */
  function begin(grip: Grip, from: Point, zoom: number) {
    const s = store.chosen!;
    const { plane, numbers, toPicture } = here.value!;
    const back = inverse(toPicture);
    const before = s.recipe;
    const near = unitsOf(plane, numbers, toPicture, SNAP / zoom);
    let after = before;
    return {
      to(at: Point, { isFree, ...held }: Held & { readonly isFree: boolean }): void {
        const path = [mapPoint(back, from), mapPoint(back, at)] as const;
        const made = placed(plane, numbers, grip, path, { ...held, snap: isFree ? 0 : near });
        lines.value = made.lines;
        after = withPlacement(before, made.numbers);
        store.preview(s.id, after);
      },
      end(): void {
        lines.value = [];
        if (after !== before) store.edit(NAMES[grip.does], after, before);
      },
    };
  }

  function change(name: string, how: (fill: FillHere) => PlacedNumbers): void {
    const s = store.chosen;
    if (s && here.value) store.edit(`Nudge: ${name}`, withPlacement(s.recipe, how(here.value)));
  }

  return {
    here,
    lines,
    begin,
    /** px of the picture by which it is moved. */
    nudge: (by: Point) => change('move fill', ({ plane, numbers, toPicture }) => nudged(plane, numbers, toPicture, by)),
    /** Scales it so that its farthest corner goes so many px away from its middle, and turns it by as many clockwise. */
    spread: (along: number, around: number) =>
      change(along === 0 ? 'turn fill' : 'scale fill', (fill) => spread(fill, along, around)),
  };
}
