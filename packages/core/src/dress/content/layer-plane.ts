/** The flat picture of made-up content as a plane in which its layers are placed by handles: heights of it, from its upper left. */
import { multiply } from '../../geometry/matrix3';
import type { FillPlane, PlacedNumbers } from '../shape/place-by-hand';
import { layerMatrix } from './layer-parts';
import type { Seat } from './layers';

/** @param size of the layer without its scale, heights of the content @param aspect of the content, width by height */
export function layerPlane(size: { readonly width: number; readonly height: number }, aspect: number): FillPlane {
  const { width, height } = size;
  return {
    frame: (n) => multiply(layerMatrix(n, aspect), [width, 0, -width / 2, 0, height, -height / 2, 0, 0, 1]),
    moved: (n, [dx, dy]) => ({ ...n, x: n.x + dx / aspect, y: n.y + dy }),
    lines: [
      [0, aspect / 2, aspect],
      [0, 0.5, 1],
    ],
  };
}

/** A layer's seat as handles change it: layers do not lean. */
export const numbersOfSeat = (s: Seat): PlacedNumbers => ({ ...s, shear: 0 });
