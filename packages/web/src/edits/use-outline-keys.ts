/** The chosen outline by the keyboard: moved, scaled, turned, its points gone through, bent, and taken away. */
import {
  carriedShape,
  frameOf,
  isCurvedAt,
  movedShape,
  reachOfShape,
  scaledShape,
  turnedShape,
  withCurveAt,
  withPointAt,
} from '@yarlop/core/dress/shape/outline-by-hand';
import { withoutPoint } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import { inverse } from '@yarlop/core/geometry/matrix3';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import type { Shape } from '@yarlop/core/follow/outline/outlines';
import { useOutlineChoice } from '../stores/outline-choice';
import type { OutlineHere } from './use-outlines';
import { useOutlines } from './use-outlines';

/** A place that lies so many px of the picture aside, on the outline's plane. */
function aside({ toPicture }: OutlineHere, p: Point, [dx, dy]: Point): Point {
  const [x, y] = mapPoint(toPicture, p);
  return mapPoint(inverse(toPicture), [x + dx, y + dy]);
}

/** Px of the picture a px of the outline's plane, at its first point. */
function scaleOf(at: OutlineHere): number {
  const [p] = at.shape.points;
  return distance(mapPoint(at.toPicture, p!), mapPoint(at.toPicture, [p![0] + 1, p![1]]));
}

/** Scaled so that its farthest point goes `along` px of the picture out, or turned so that it goes `around` px round. */
function spreadShape(shape: Shape, at: OutlineHere, along: number, around: number): Shape {
  const far = reachOfShape(shape) * scaleOf(at);
  const own = carriedShape(shape, inverse(at.axes));
  const made = along === 0 ? turnedShape(own, ((around / far) * 180) / Math.PI) : grown(own, 1 + along / far);
  return carriedShape(made, at.axes);
}

export function useOutlineKeys() {
  const choice = useOutlineChoice();
  const outlines = useOutlines();
  const isChosen = (): boolean => choice.chosen !== null && outlines.here(choice.chosen) !== null;
  /** Whether arrows move it. */
  const isTaken = (): boolean => choice.taken && isChosen();

  function reshape(name: string, how: (shape: Shape, at: OutlineHere) => Shape): void {
    if (choice.chosen) outlines.reshape(name, choice.chosen, how);
  }

  return {
    isChosen,
    isTaken,
    letGo: (): void => choice.choose(null),
    /** @param by px of the picture; the taken point, else the whole */
    nudge(by: Point): void {
      const i = choice.point;
      reshape(i === null ? 'Nudge: move outline' : 'Nudge: reshape outline', (shape, at) => {
        const from = shape.points[i ?? 0]!;
        const to = aside(at, from, by);
        return i === null ? movedShape(shape, [to[0] - from[0], to[1] - from[1]]) : withPointAt(shape, i, to);
      });
    },
    /** @param along px of the picture by which its farthest point goes out @param around the same round its middle */
    spread(along: number, around: number): void {
      const name = along === 0 ? 'Nudge: turn outline' : 'Nudge: scale outline';
      reshape(name, (shape, at) => spreadShape(shape, at, along, around));
    },
    /** Takes the next point, or the one before; before the first and after the last stands the whole. */
    step(by: 1 | -1): void {
      const at = choice.chosen && outlines.here(choice.chosen);
      if (!at) return;
      const n = at.shape.points.length + 1;
      const now = choice.point ?? n - 1;
      // What is only shaped by mouse so far is taken first: its first point, or the whole.
      const isFirst = !choice.taken && choice.point === null && by === -1;
      const next = isFirst ? n - 1 : (now + by + n) % n;
      choice.choose(choice.chosen, next === n - 1 ? null : next, true);
    },
    /** The taken point becomes a corner, or part of a curve. */
    bend(): void {
      const { chosen, point } = choice;
      const at = chosen && outlines.here(chosen);
      if (!at || point === null) return;
      const isCurved = isCurvedAt(at.shape, point);
      outlines.change(isCurved ? 'Make corner' : 'Make curve', chosen!, (o) => withCurveAt(o, point, !isCurved));
    },
    /** The taken point. */
    remove(): void {
      const { chosen, point } = choice;
      if (!chosen || point === null) return;
      outlines.change('Delete outline point', chosen, (o) => withoutPoint(o, point));
      choice.choose(chosen, null, choice.taken);
    },
  };
}

/** Larger about its middle. */
function grown(shape: Shape, k: number): Shape {
  const b = frameOf(shape);
  const by: Point = [((k - 1) * (b.x1 - b.x0)) / 2, ((k - 1) * (b.y1 - b.y0)) / 2];
  return scaledShape(shape, [1, 1], by, { aboutMiddle: true, apart: true });
}
