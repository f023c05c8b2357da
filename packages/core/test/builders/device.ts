/** A device with a bezel around its glass, drawn flat: what edges, looks across sides and their rivals are tried on. */
import type { Point } from '../../src/geometry/point';
import { insidePolygon } from '../../src/geometry/polygon';
import type { Quad } from '../../src/geometry/quad';
import type { SceneOptions } from './scene';
import { moved } from './scene';
import type { FollowSetup } from '../../src/follow/memory/follower-state';

export const GLASS: Quad = [
  [110, 90],
  [310, 90],
  [310, 210],
  [110, 210],
];

/** A quad around the glass, so many px beside each of its sides. */
export const around = (px: number): Quad =>
  [
    [110 - px, 90 - px],
    [310 + px, 90 - px],
    [310 + px, 210 + px],
    [110 - px, 210 + px],
  ] as unknown as Quad;

export interface DeviceOptions {
  /** px */
  readonly bezel: number;
  /** grey, 0 to 255 */
  readonly glassGrey: number | ((x: number, y: number) => number);
  readonly bezelGrey: number;
  readonly behind: number;
}

export const DARK: DeviceOptions = { bezel: 9, glassGrey: 22, bezelGrey: 90, behind: 150 };

/** A device that moves as told; corners of its glass are {@link GLASS} on frame 0. */
export function device(o: DeviceOptions, more: Partial<SceneOptions> = {}): SceneOptions {
  const grey = (x: number, y: number): number => (typeof o.glassGrey === 'number' ? o.glassGrey : o.glassGrey(x, y));
  return {
    width: 420,
    height: 300,
    pin: around(o.bezel),
    homography: (n) => moved(GLASS, { x: 3 * n }),
    texture: (x, y) => (insidePolygon([x, y] as Point, GLASS) ? grey(x, y) : o.bezelGrey),
    background: () => o.behind,
    noise: 1,
    ...more,
  };
}

/** The device's glass, followed by all that is there. */
export const SETUP: FollowSetup = {
  pin: GLASS,
  patches: [],
  motion: 'perspective',
  density: 'usual',
  evidence: ['texture', 'edges'],
};
