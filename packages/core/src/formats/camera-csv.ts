/** A solved camera as comma-separated values (RFC 4180 rows, LF line ends) under a commented header: one row a frame. */
import type { CameraFile, CameraFileFrame } from '../camera/camera-file';
import { matrixOf } from '../geometry/quaternion';
import { lensNote } from './camera-scene';
import { table } from './text';

const DEGREES = 180 / Math.PI;

/**
 * Turning about x, then about the turned y, then about the turned z, radians: the rotation is X Y Z as a product of
 * matrices that columns stand to the right of.
 * Source: J. Diebel, Representing Attitude: Euler Angles, Unit Quaternions, and Rotation Vectors, 2006 (the order 1-2-3).
 */
export function eulerXyz(rotation: readonly [number, number, number, number]): [number, number, number] {
  const m = matrixOf(rotation);
  const y = Math.asin(Math.max(-1, Math.min(1, m[2]!)));
  // Looking straight along x, turning about x and about z are one: all of it is said of x.
  const isLocked = Math.abs(m[2]!) > 1 - 1e-9;
  return isLocked ? [Math.atan2(m[7]!, m[4]!), y, 0] : [Math.atan2(-m[5]!, m[8]!), y, Math.atan2(-m[1]!, m[0]!)];
}

const COLUMNS = [
  ...['frame', 'label', 'x', 'y', 'z', 'qx', 'qy', 'qz', 'qw', 'turn_x_deg', 'turn_y_deg', 'turn_z_deg'],
  ...['focal_px', 'angle_across_deg', 'sigma_position', 'sigma_rotation_deg', 'error_px', 'points'],
];

function row({ plate }: CameraFile, f: CameraFileFrame): (string | number)[] {
  const turns = eulerXyz(f.rotation).map((v) => v * DEGREES);
  const across = 2 * Math.atan(plate.width / 2 / f.focal) * DEGREES;
  const { position, rotation: turning } = f.sigma;
  const short = (v: number): number => Number(v.toPrecision(9));
  return [
    ...[f.frame, f.frame + plate.firstFrame],
    ...[...f.position, ...f.rotation, ...turns, f.focal, across, position, turning * DEGREES, f.error].map(short),
    f.points,
  ];
}

/** The whole table: places in units of the scene, turns in degrees, errors in px. */
export function writeCameraCsv(file: CameraFile): string {
  const { plate, lens } = file;
  return table(
    [
      'Yarlop camera, version 1',
      `plate: ${JSON.stringify(plate)}`,
      `coordinates: ${file.coordinates}; position and quaternion take the camera to the scene`,
      'turns: degrees about x, then the turned y, then the turned z (order XYZ, each about the axis as turned before)',
      `lens: principal point ${lens.principal.join(' ')} px; radial terms ${lens.radial.join(' ')} by the ${lens.by}. ${lensNote(file)}`,
    ],
    COLUMNS,
    file.frames.map((f) => row(file, f)),
  );
}
