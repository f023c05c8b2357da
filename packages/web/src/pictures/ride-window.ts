/** What of a frame is looked at while riding, and what of its plate that takes. */
import { clamp } from '@yarlop/core/clamp';
import type { Layer } from '@yarlop/core/dress/render';
import { reachOf } from '@yarlop/core/dress/render';
import { hullOf } from '@yarlop/core/dress/base/region';
import type { Point } from '@yarlop/core/geometry/point';
import type { LayerRequest, PictureRequest, Rectangle } from '../shared/picture-request';

/** px about the window, so that what is drawn between pixels has neighbours. */
const AROUND = 2;

/** The whole px of a plate that a window of a size shows about a place. */
export function windowAbout(
  [x, y]: Point,
  shown: readonly [width: number, height: number],
  plate: readonly [width: number, height: number],
): Rectangle {
  const width = Math.min(plate[0], Math.ceil(shown[0]) + 2 * AROUND);
  const height = Math.min(plate[1], Math.ceil(shown[1]) + 2 * AROUND);
  return {
    x: clamp(Math.round(x - width / 2), 0, plate[0] - width),
    y: clamp(Math.round(y - height / 2), 0, plate[1] - height),
    width,
    height,
  };
}

/** A fill of which only the place counts. */
const NO_FILL: Layer['fill'] = [{ width: 1, height: 1, data: new Float32Array(4) }];

function placed(
  { fill, shutter, lens, stills, ...layer }: LayerRequest,
  [width, height]: readonly [number, number],
): Layer {
  void fill;
  void stills;
  return {
    ...layer,
    fill: NO_FILL,
    lens: lens ? { radial: lens, width, height } : null,
    ...(shutter === null || shutter === undefined ? {} : { shutter }),
  };
}

/** The px of the plate that a picture of a window is made from: the window, and all that its layers measure. */
export function takenOf(
  { layers, show, transfer, window }: Pick<PictureRequest, 'layers' | 'show' | 'transfer'> & { window: Rectangle },
  plate: readonly [width: number, height: number],
): Rectangle {
  const own = show === 'difference' || show === 'overlay' ? 'dressed' : show;
  const reach = reachOf(
    { width: plate[0], height: plate[1] },
    layers.map((l) => placed(l, plate)),
    { transfer, show: own },
  );
  return hullOf([window, ...(reach ? [reach] : [])])!;
}
