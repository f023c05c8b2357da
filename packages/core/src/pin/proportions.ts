/** Proportions of devices' glass: usual ones, for Screens of which nothing is seen yet, and those that a pin shows. */
import { USUAL_FOCAL } from '../geometry/pose';
import type { Quad } from '../geometry/quad';
import { shapeOf } from '../solve/screen-shape';

export interface DeviceShape {
  readonly id: 'phone-upright' | 'phone-lying' | 'tablet-upright' | 'tablet-lying' | 'laptop' | 'tv';
  readonly device: 'phone' | 'tablet' | 'laptop' | 'tv';
  /** of width by height. Common practice, no source */
  readonly ratio: number;
  readonly name: string;
}

export const DEVICE_SHAPES: readonly DeviceShape[] = [
  { id: 'phone-upright', device: 'phone', ratio: 9 / 19.5, name: 'a phone, upright' },
  { id: 'phone-lying', device: 'phone', ratio: 19.5 / 9, name: 'a phone on its side' },
  { id: 'tablet-upright', device: 'tablet', ratio: 3 / 4, name: 'a tablet, upright' },
  { id: 'tablet-lying', device: 'tablet', ratio: 4 / 3, name: 'a tablet on its side' },
  { id: 'laptop', device: 'laptop', ratio: 16 / 10, name: 'a laptop' },
  { id: 'tv', device: 'tv', ratio: 16 / 9, name: 'a television or monitor' },
];

/** Longer side over shorter: from phones to televisions. Common practice, no source. */
const PROPORTIONS = { phone: 1.9, tv: 1.7, laptop: 1.52 } as const;

/**
 * Width by height of the rectangle that looks like `pin` (px) before a lens, however it is tipped.
 * Source: Z. Zhang, A Flexible New Technique for Camera Calibration, PAMI 2000, of the lengths of both sides.
 * @param focal picture widths; a usual lens when left out
 */
export function proportionsOf(
  pin: Quad,
  { width, height }: { readonly width: number; readonly height: number },
  focal = USUAL_FOCAL,
): number {
  const [, squared] = shapeOf(pin, { half: width / 2, cx: width / 2, cy: height / 2 }, (2 * focal) ** 2);
  return Math.exp(squared / 2);
}

/** The kind of device that a glass of such proportions is likeliest. @param ratio of width by height */
export function deviceOf(ratio: number): DeviceShape['device'] {
  const long = Math.max(ratio, 1 / ratio);
  if (ratio < 1 / PROPORTIONS.laptop || long > PROPORTIONS.phone) return 'phone';
  if (long > PROPORTIONS.tv) return 'tv';
  return long > PROPORTIONS.laptop ? 'laptop' : 'tablet';
}
