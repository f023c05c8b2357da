/** Carried outlines: what passes in front of a Screen, followed by a run of its own and without a pin. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Outline, Passing } from '@yarlop/core/follow/outline/outlines';
import { polygonAt } from '@yarlop/core/follow/outline/outlines';
import { mapPoint } from '@yarlop/core/geometry/homography';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { InputError } from './pipeline-error';

/** A frame of a run, from its reference frame to it. */
export interface CarriedFrame {
  readonly frame: number;
  readonly homography: Matrix3;
}

/** The outline that a recipe carries: its first follow patch, or its pin. */
export function outlineOf(screen: ScreenFile): Outline {
  const patch = screen.patches?.find((p) => p.kind === 'follow');
  return (patch ?? { points: screen.pin }) as Outline;
}

/** Where it is on the frames of its run, px of the picture. */
export function passingOf(screen: ScreenFile, frames: readonly CarriedFrame[]): Passing {
  const outline = outlineOf(screen);
  return frames.map(({ frame, homography }) => {
    const points = polygonAt(outline, frame, screen.referenceFrame);
    return { frame, points: points.map((p) => mapPoint(homography, p)) };
  });
}

/** Screens in an order in which each comes after those that it ignores. @throws InputError for a name that none has */
export function inOrder(screens: readonly ScreenFile[]): ScreenFile[] {
  const out: ScreenFile[] = [];
  const place = (s: ScreenFile, asking: readonly string[]): void => {
    if (out.includes(s)) return;
    if (asking.includes(s.name)) throw new InputError(`"${s.name}" ignores itself, by way of ${asking.join(', ')}.`);
    for (const name of s.ignores ?? []) {
      const other = screens.find((o) => o.name === name);
      if (!other)
        throw new InputError(
          `"${s.name}" ignores "${name}", but there is no recipe of that name; add it, or take it out of "ignores".`,
        );
      place(other, [...asking, s.name]);
    }
    out.push(s);
  };
  for (const s of screens) place(s, []);
  return out;
}
