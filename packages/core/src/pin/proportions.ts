/** Usual proportions of devices' glass, for Screens of which nothing is seen yet. */

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
