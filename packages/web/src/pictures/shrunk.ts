/** Places of the plate in px of a smaller picture of it. */
import type { PlaneOn } from '@yarlop/core/dress/render';
import type { Quad } from '@yarlop/core/geometry/quad';

/** A quad in px of a picture that has `k` of them a plate px; null where there is none. */
export const scaled = (q: Quad | null | undefined, k: number): Quad | null =>
  q ? (q.map(([x, y]) => [x * k, y * k]) as unknown as Quad) : null;

/** Where a plane is, in px of such a picture; its pin stays in plate px. */
export function shrunk(on: PlaneOn, k: number): PlaneOn {
  return {
    ...on,
    corners: scaled(on.corners, k)!,
    before: scaled(on.before, k),
    after: scaled(on.after, k),
  };
}
/** As {@link shrunk}, by name. */
export function allShrunk(planes: Readonly<Record<string, PlaneOn>>, k: number): Record<string, PlaneOn> {
  return Object.fromEntries(Object.entries(planes).map(([name, on]) => [name, shrunk(on, k)]));
}
