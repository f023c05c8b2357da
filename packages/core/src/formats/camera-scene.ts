/** What the 3D formats of a solved camera have in common. */
import type { CameraFile } from '../camera/camera-file';
import { median } from '../statistics';

/** Vertical angle of view of a focal length, radians. @param focal px */
export const angleOf = ({ plate }: CameraFile, focal: number): number => 2 * Math.atan(plate.height / 2 / focal);

/** Px, of the shot's middle; a zoom has another on each frame. */
export const usualFocal = ({ frames }: CameraFile): number => median(frames.map((f) => f.focal));

/** Share by which focal lengths differ in a zoom. By trial. */
const ZOOMS_FROM = 1e-6;

/** Whether frames have focal lengths of their own. */
export function isZoom({ frames }: CameraFile): boolean {
  const all = frames.map((f) => f.focal);
  return Math.max(...all) / Math.min(...all) - 1 > ZOOMS_FROM;
}

/** Said in every file: programs that draw it show a lens without a bow. */
export function lensNote({ lens: { radial } }: CameraFile): string {
  const isBowed = radial[0] !== 0 || radial[1] !== 0;
  return isBowed
    ? `The lens bows the plate (radial terms ${radial[0]} and ${radial[1]} by the half diagonal); this camera is without: lay it over the undistorted plate.`
    : 'The lens does not bow the plate.';
}
