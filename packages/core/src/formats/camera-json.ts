/** The camera of a scene as the contract has it (`docs/formats/camera.md`). */
import type { CameraFrame, ScenePoint } from '../camera/camera-report';
import type { PlateInfo, Stop } from '../track';

export const CAMERA_COORDINATES = 'right-handed; camera looks along -z, y up';

export interface ScenePlane {
  readonly screen: string;
  readonly corners: readonly (readonly [number, number, number])[];
}

export interface CameraFile {
  readonly format: 'yarlop-camera';
  readonly version: 1;
  readonly plate: PlateInfo;
  readonly kind: 'moving' | 'tripod';
  readonly coordinates: string;
  readonly lens: {
    readonly principal: readonly [number, number];
    readonly radial: readonly [number, number];
    readonly by: 'half diagonal';
  };
  readonly frames: readonly CameraFileFrame[];
  readonly points: readonly ScenePoint[];
  readonly planes: readonly ScenePlane[];
  readonly stopped: readonly Stop[] | null;
}

export interface CameraFileFrame extends CameraFrame {
  /** radians about the camera's x, y and z by which a row half a diagonal below the middle is turned */
  readonly rowTurn?: readonly [number, number, number];
}

/** Digits that a number is told by: enough for a thousandth of a px. */
const DIGITS = 9;

const short = (_key: string, value: unknown): unknown =>
  typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(DIGITS)) : value;

/** One frame and one point a line, so that a text comparison shows them. */
export function writeCameraJson(file: CameraFile): string {
  const { frames, points, ...head } = file;
  const top = JSON.stringify(head, short).slice(0, -1);
  const lines = (all: readonly unknown[]): string => all.map((v) => `    ${JSON.stringify(v, short)}`).join(',\n');
  return `${top},\n  "frames": [\n${lines(frames)}\n  ],\n  "points": [\n${lines(points)}\n  ] }\n`;
}
