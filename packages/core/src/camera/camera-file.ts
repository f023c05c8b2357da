/** The camera of a scene as the contract has it (`docs/formats/camera.md`): the shape that every package passes around. */
import type { PlateInfo, Stop } from '../track';
import type { CameraFrame, ScenePoint } from './camera-report';

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
  /** what it grows by within the frame: times the square of the rows' distance from the middle, radians */
  readonly rowBend?: readonly [number, number, number];
}

/** The first radial term as tracks and maps have it, on half the picture's width. */
export function radialOnWidth({ lens: { radial }, plate: { width, height } }: CameraFile): number {
  return (radial[0] * width * width) / (width * width + height * height);
}
