/** Outlines that are reshaped on the picture: by a point, as a whole, larger and smaller, a point more or less. */
import type { Outline } from '@yarlop/core/follow/outline/outlines';
import { shapeAt, withPoint, withoutPoint } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Recipe } from '../types';
import type { useViewport } from './use-viewport';

export interface OutlineSource {
  readonly port: ReturnType<typeof useViewport>;
  readonly outlinesOf: (r: Recipe) => readonly Outline[];
  /** @param all the outlines as they were before */
  readonly withOutline: (r: Recipe, all: readonly Outline[], i: number, part: Partial<Outline>) => Recipe;
  readonly isHeldOut: () => boolean;
}

/** A press on an outline, and what becomes of its shape while the pointer moves. */
interface Grip {
  readonly index: number;
  readonly name: string;
  /** @param at where the pointer is on the plane @param from where it was pressed */
  readonly put: (shape: readonly Point[], at: Point, from: Point) => readonly Point[];
}

function middleOf(points: readonly Point[]): Point {
  const sum = points.reduce<Point>(([a, b], [x, y]) => [a + x, b + y], [0, 0]);
  return [sum[0] / points.length, sum[1] / points.length];
}

/** As large as takes the pressed place to where the pointer is, about the outline's middle. */
function scaled(shape: readonly Point[], at: Point, from: Point): Point[] {
  const [x0, y0] = middleOf(shape);
  const k = distance(at, [x0, y0]) / Math.max(1, distance(from, [x0, y0]));
  return shape.map(([x, y]): Point => [x0 + k * (x - x0), y0 + k * (y - y0)]);
}

function moved(shape: readonly Point[], at: Point, from: Point): Point[] {
  return shape.map(([x, y]): Point => [x + at[0] - from[0], y + at[1] - from[1]]);
}

/** A shape that an outline has from a frame on. */
function keyed({ keys = [] }: Outline, frame: number, points: readonly Point[]): Pick<Outline, 'keys'> {
  return { keys: [...keys.filter((k) => k.frame !== frame), { frame, points }].sort((a, b) => a.frame - b.frame) };
}

/** Presses on outlines: while the pointer moves the recipe is previewed, and its end is one step of undo. */
function useHold({ port, outlinesOf, withOutline }: OutlineSource): (e: PointerEvent, grip: Grip) => void {
  const store = useShot();
  const playhead = usePlayhead();
  const tracks = useTracks();
  return (e, { index, name, put }) => {
    const s = store.chosen;
    const h = s && tracks.plane(s, playhead.frame);
    if (!s || !h || e.button !== 0) return;
    e.stopPropagation();
    const back = inverse(h);
    const { frame } = playhead;
    const before = s.recipe;
    const all = outlinesOf(before);
    const own = all[index]!;
    const target = e.target as SVGElement;
    const svg = target.ownerSVGElement!.getBoundingClientRect();
    const planeAt = (m: PointerEvent): Point => mapPoint(back, port.toPlate(m.clientX - svg.left, m.clientY - svg.top));
    const from = planeAt(e);
    let after = before;
    holdPointer(
      e,
      target,
      (m) => {
        const points = put(shapeAt(own, frame, before.referenceFrame), planeAt(m), from);
        const part = frame === before.referenceFrame ? { points } : keyed(own, frame, points);
        after = withOutline(before, all, index, part);
        store.preview(s.id, after);
      },
      () => {
        if (after !== before) store.edit(name, after, before);
      },
    );
  };
}

export function useOutlineDrag(source: OutlineSource) {
  const store = useShot();
  const hold = useHold(source);

  function changed(index: number, name: string, how: (outline: Outline) => Outline): void {
    const s = store.chosen;
    if (!s) return;
    const all = source.outlinesOf(s.recipe);
    const { points, keys } = how(all[index]!);
    store.edit(name, source.withOutline(s.recipe, all, index, { points, ...(keys ? { keys } : {}) }));
  }

  return {
    point: (e: PointerEvent, index: number, which: number) =>
      hold(e, {
        index,
        name: source.isHeldOut() ? 'Reshape holdout' : 'Reshape patch',
        put: (shape, at) => shape.with(which, at),
      }),
    /** By its line an outline is moved as a whole; with Shift it grows and shrinks about its middle. */
    line: (e: PointerEvent, index: number) =>
      e.shiftKey
        ? hold(e, { index, name: 'Scale outline', put: scaled })
        : hold(e, { index, name: 'Move outline', put: moved }),
    withPoint: (index: number, side: number) => changed(index, 'Add outline point', (p) => withPoint(p, side)),
    withoutPoint: (index: number, which: number) =>
      changed(index, 'Delete outline point', (p) => withoutPoint(p, which)),
  };
}
