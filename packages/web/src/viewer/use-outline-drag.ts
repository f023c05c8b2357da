/** Outlines that are shaped on the picture: while the pointer moves they are previewed; its end is one step of undo. */
import type { HandleSide } from '@yarlop/core/dress/shape/outline-by-hand';
import {
  carriedShape,
  ledByHandles,
  movedShape,
  scaledShape,
  turnBetween,
  turnedShape,
  withHandleAt,
  withPointAt,
  withShapeOn,
} from '@yarlop/core/dress/shape/outline-by-hand';
import type { Grip } from '@yarlop/core/dress/shape/place-by-hand';
import type { RidingOutline } from '@yarlop/core/dress/shape/outline-matte';
import type { Shape } from '@yarlop/core/follow/outline/outlines';
import { shapeOn } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { IDENTITY, inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { useOutlines } from '../edits/use-outlines';
import { holdPointer } from '../shared/hold-pointer';
import type { OutlineRef } from '../stores/outline-choice';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { useViewport } from './use-viewport';

type Port = ReturnType<typeof useViewport>;

/** A press on an outline, and what becomes of it while the pointer moves. */
interface Press {
  readonly name: string;
  /** the outline is led by handles from now on */
  readonly isLed?: boolean;
  /** @param at where the pointer is, px of the outline's plane @param from where it was pressed */
  readonly put: (shape: Shape, path: { readonly at: Point; readonly from: Point }, m: PointerEvent) => Shape;
}

const NAMES: Readonly<Record<OutlineRef['part'], string>> = {
  patches: 'patch',
  holdouts: 'holdout',
  retouches: 'region',
};
const held = (m: PointerEvent) => ({ apart: m.shiftKey, aboutMiddle: m.altKey });

/** Where the pointer is, px of the picture. */
function onPicture(port: Port, target: SVGElement): (m: PointerEvent) => Point {
  const box = target.ownerSVGElement!.getBoundingClientRect();
  return (m) => port.toPlate(m.clientX - box.left, m.clientY - box.top);
}

type Hold = (
  e: PointerEvent,
  ref: OutlineRef,
  name: string,
  /** what becomes of the outline, by where the pointer is and was, px of its plane */
  change: (
    o: RidingOutline,
    path: { readonly at: Point; readonly from: Point },
    m: PointerEvent,
  ) => Partial<RidingOutline>,
) => void;

function useHold(port: Port): Hold {
  const store = useShot();
  const outlines = useOutlines();
  return (e, ref, name, change) => {
    const s = store.chosen;
    const on = outlines.here(ref);
    if (!s || !on || e.button !== 0) return;
    e.stopPropagation();
    const target = e.target as SVGElement;
    const [back, pointer] = [inverse(on.toPicture), onPicture(port, target)];
    const planeAt = (m: PointerEvent): Point => mapPoint(back, pointer(m));
    const before = s.recipe;
    const list = outlines.all(before, ref.part);
    const from = planeAt(e);
    let after = before;
    holdPointer(
      e,
      target,
      (m) => {
        after = outlines.withOutline(before, ref, change(on.outline, { at: planeAt(m), from }, m), list);
        store.preview(s.id, after);
      },
      () => {
        if (after !== before) store.edit(name, after, before);
      },
    );
  };
}

/** As {@link useHold}, for what changes the shape on the frame shown. */
function useShapeHold(hold: Hold): (e: PointerEvent, ref: OutlineRef, press: Press) => void {
  const playhead = usePlayhead();
  const outlines = useOutlines();
  return (e, ref, press) => {
    const { frame } = playhead;
    const reference = outlines.here(ref)?.referenceFrame ?? 0;
    hold(e, ref, `${press.name} ${NAMES[ref.part]}`, (outline, path, m) => {
      const own = press.isLed ? ledByHandles(outline) : outline;
      const put = press.put(shapeOn(own, frame, reference), path, m);
      const led = press.isLed ? { points: own.points, handles: own.handles, keys: own.keys, smooth: undefined } : {};
      return { ...led, ...withShapeOn(own, frame, reference, put) };
    });
  };
}

/** Scaled or turned along the axes that its frame shows. */
function taken(
  s: Shape,
  grip: Grip,
  axes: Matrix3,
  path: { readonly at: Point; readonly from: Point },
  m: PointerEvent,
): Shape {
  const back = inverse(axes);
  const own = carriedShape(s, back);
  const [at, from] = [mapPoint(back, path.at), mapPoint(back, path.from)];
  const made =
    grip.does === 'turn'
      ? turnedShape(own, turnBetween(own, from, at, held(m)))
      : scaledShape(own, grip.at, [at[0] - from[0], at[1] - from[1]], held(m));
  return carriedShape(made, axes);
}

export function useOutlineDrag(port: Port) {
  const outlines = useOutlines();
  const hold = useHold(port);
  const shape = useShapeHold(hold);
  const moved = (s: Shape, { at, from }: { readonly at: Point; readonly from: Point }): Shape =>
    movedShape(s, [at[0] - from[0], at[1] - from[1]]);

  return {
    hold,
    point: (e: PointerEvent, ref: OutlineRef, i: number) =>
      shape(e, ref, { name: 'Reshape', put: (s, { at }) => withPointAt(s, i, at) }),
    /** Alt lets the other handle of the point stay. */
    handle: (e: PointerEvent, ref: OutlineRef, i: number, side: HandleSide) =>
      shape(e, ref, {
        name: 'Bend',
        isLed: true,
        put: (s, { at }, m) => withHandleAt(s, i, side, at, m.altKey),
      }),
    move: (e: PointerEvent, ref: OutlineRef) => shape(e, ref, { name: 'Move', put: moved }),
    /** A grip of the frame about an outline. */
    grip: (e: PointerEvent, ref: OutlineRef, grip: Grip) =>
      shape(e, ref, {
        name: grip.does === 'turn' ? 'Turn' : 'Scale',
        put: (s, path, m) => taken(s, grip, outlines.here(ref)?.axes ?? IDENTITY, path, m),
      }),
  };
}
