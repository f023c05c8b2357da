/** Three views of a cloud of points, and exact places. */
import type { Bundle, Observations } from '../../src/camera/bundle';
import { Projection, movedView, viewOfNothing } from '../../src/camera/view-model';
import { random as numbers } from './scene';

/** With a lens that bows. */
export const OPTICS = { focal: 2, k1: -0.11, k2: 0.03 };

export function threeViews(): { bundle: Bundle; obs: Observations } {
  const random = numbers(5);
  const views = [
    viewOfNothing(),
    movedView(viewOfNothing(), [0.02, -0.1, 0.01, 0.6, 0.05, 0]),
    movedView(viewOfNothing(), [-0.05, 0.12, 0.03, -0.5, 0.2, 0.1]),
  ];
  const points = Float64Array.from({ length: 36 }, (_, i) => (i % 3 === 2 ? 4 + 3 * random() : 2 * random() - 1));
  const p = new Projection();
  const [view, point, xy]: [number[], number[], number[]] = [[], [], []];
  for (let k = 0; k < 12; k++)
    views.forEach((v, i) => {
      p.place(v, OPTICS, points, 3 * k, 0);
      view.push(i);
      point.push(k);
      xy.push(p.x, p.y);
    });
  const obs = { view: Int32Array.from(view), point: Int32Array.from(point), xy: Float64Array.from(xy) };
  return { bundle: { views, points, optics: OPTICS, focals: null }, obs };
}
