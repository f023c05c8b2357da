/** A camera's file as a solver would write it, exact: a camera that walks past a Screen in an invented room. */
import { flipped } from '../../src/camera/view-model';
import { random } from './scene';
import type { CameraFile, CameraFileFrame } from '../../src/camera/camera-file';
import { CAMERA_COORDINATES } from '../../src/camera/camera-file';
import { seenAt, viewsOfFile } from '../../src/camera/file-views';
import { movedView, placeOf, viewOfNothing } from '../../src/camera/view-model';
import { quaternionOf } from '../../src/geometry/quaternion';
import type { Quad } from '../../src/geometry/quad';

export const FRAMES = 30;
export const REFERENCE = 5;
/** In the axes that are reckoned with, in front of the camera, leaning. */
export const SCREEN = [
  [-0.8, 0.5, -4],
  [0.9, 0.6, -4.6],
  [0.92, -0.5, -4.5],
  [-0.78, -0.6, -3.9],
].map(([x, y, z]) => [x!, -y!, -z!]);

export function cameraFile(kind: 'moving' | 'tripod' = 'moving', rolls = false): CameraFile {
  const frames = Array.from({ length: FRAMES }, (_, f): CameraFileFrame => {
    const v = movedView(viewOfNothing(), [0.004 * f, -0.006 * f, 0.002 * f, kind === 'moving' ? -0.05 * f : 0, 0, 0]);
    const sign = [1, -1, -1];
    const m = Array.from(
      { length: 9 },
      (_, i) => sign[Math.floor(i / 3)]! * sign[i % 3]! * v[3 * (i % 3) + Math.floor(i / 3)]!,
    );
    const [x, y, z] = placeOf(v);
    return {
      frame: f,
      position: [x, -y, -z],
      rotation: quaternionOf(m),
      focal: 1500,
      sigma: { position: 0.001, rotation: 0.0001 },
      error: 0.1,
      points: 100,
      ...(rolls ? { rowTurn: [0, 0.004, 0] as const } : {}),
    };
  });
  return {
    format: 'yarlop-camera',
    version: 1,
    plate: { name: 'room.mp4', width: 1280, height: 720, frameRate: [24, 1], firstFrame: 0, frameCount: FRAMES },
    kind,
    coordinates: CAMERA_COORDINATES,
    lens: { principal: [640, 360], radial: [-0.05, 0.01], by: 'half diagonal' },
    frames,
    points: [],
    planes: [],
    stopped: null,
  };
}

/** Where the Screen is seen. @param shift of it to the right, units */
export function truthOf(file: CameraFile, frame: number, shift = 0): Quad {
  const v = viewsOfFile(file).get(frame)!;
  return SCREEN.map(([x, y, z]) => seenAt(file, v, [x! + shift, y!, z!])!) as unknown as Quad;
}

/** A camera that also has points: some of the Screen's plane, some of a wall behind it, numbered from 100 on. */
export function withPoints(): CameraFile {
  const dice = random(8);
  const [a, b, , d] = SCREEN as [number[], number[], number[], number[]];
  const onPlane = Array.from({ length: 20 }, () => {
    const [u, v] = [1.4 * dice() - 0.2, 1.4 * dice() - 0.2];
    return a.map((p, k) => p + u * (b[k]! - p) + v * (d[k]! - p));
  });
  const behind = Array.from({ length: 12 }, () => [4 * dice() - 2, 3 * dice() - 1.5, 9]);
  const points = [...onPlane, ...behind].map((p, i) => ({
    id: 100 + i,
    position: flipped(p as [number, number, number]),
    frames: FRAMES,
    error: 0.1,
  }));
  return { ...cameraFile(), points };
}
