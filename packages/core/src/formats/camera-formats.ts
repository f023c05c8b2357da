/** What a solved camera is handed over as: one entry a format. */
import type { CameraFile } from '../camera/camera-file';
import { writeCameraCsv } from './camera-csv';
import { writeCameraGltf } from './camera-gltf';
import { writeCameraJson } from './camera-json';
import { writeCameraUsda } from './camera-usda';
import type { Backdrop } from './gltf';

export interface CameraParts {
  /** of the plate, for formats that hold pictures */
  readonly pictures?: readonly Backdrop[];
}

export interface CameraFormat {
  readonly id: 'gltf' | 'usda' | 'csv' | 'json';
  readonly name: string;
  /** what it is for, in a sentence */
  readonly what: string;
  readonly extension: string;
  /** can hold pictures of the plate behind the scene */
  readonly holdsPictures: boolean;
  readonly write: (file: CameraFile, parts: CameraParts) => string;
}

/** A map of the camera's lens: what else a camera is handed over as, a picture. */
export interface CameraLensMap {
  readonly id: 'lens-undistort' | 'lens-distort';
  readonly name: string;
  readonly what: string;
  readonly way: 'undistort' | 'distort';
}

export const CAMERA_LENS_MAPS: readonly CameraLensMap[] = [
  {
    id: 'lens-undistort',
    name: 'map that straightens, .exr',
    what: 'One picture for all frames: where each pixel of the straightened plate is taken from',
    way: 'undistort',
  },
  {
    id: 'lens-distort',
    name: 'map that bows, .exr',
    what: 'One picture for all frames: lays what was put on the straightened plate back over the plate as it was shot',
    way: 'distort',
  },
];

export const CAMERA_FORMATS: readonly CameraFormat[] = [
  {
    id: 'gltf',
    name: 'glTF, .gltf',
    what: 'Moving camera, points and planes as a 3D scene; the plate behind, if wanted',
    extension: 'gltf',
    holdsPictures: true,
    write: (file, { pictures = [] }) => writeCameraGltf(file, pictures),
  },
  {
    id: 'usda',
    name: 'OpenUSD, .usda',
    what: 'Moving camera with its focal length, points and planes as text',
    extension: 'usda',
    holdsPictures: false,
    write: (file) => writeCameraUsda(file),
  },
  {
    id: 'csv',
    name: 'table, .csv',
    what: 'One row a frame: place, quaternion, turns about x, y, z, focal length, how well it is known',
    extension: 'csv',
    holdsPictures: false,
    write: (file) => writeCameraCsv(file),
  },
  {
    id: 'json',
    name: 'JSON, .json',
    what: 'Everything that was solved, with the lens and every point',
    extension: 'json',
    holdsPictures: false,
    write: (file) => writeCameraJson(file),
  },
];

/** Everything that a camera is handed over as. */
export const CAMERA_EXPORTS: readonly (CameraFormat | CameraLensMap)[] = [...CAMERA_FORMATS, ...CAMERA_LENS_MAPS];
