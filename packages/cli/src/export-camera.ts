import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { radialOnWidth } from '@yarlop/core/camera/camera-file';
import type { World } from '@yarlop/core/camera/oriented';
import { oriented } from '@yarlop/core/camera/oriented';
import type { CameraFormat } from '@yarlop/core/formats/camera-formats';
import { CAMERA_FORMATS, CAMERA_LENS_MAPS } from '@yarlop/core/formats/camera-formats';
import type { Backdrop } from '@yarlop/core/formats/gltf';
import { assertSamePlate, readCamera } from '@yarlop/pipeline/camera-file';
import { backdropsOf } from '@yarlop/pipeline/page-pictures';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { assertDataOutput } from '@yarlop/pipeline/deliver-job';
import { writeLens } from '@yarlop/pipeline/deliver-maps';
import { openPlate } from '@yarlop/pipeline/plate';
import { writeWhole } from '@yarlop/pipeline/write-whole';

export interface ExportCameraOptions {
  as: string;
  out: string;
  plate?: string;
  ground?: number[];
  origin?: number;
  length?: number[];
}

function formatOf(id: string): CameraFormat {
  const format = CAMERA_FORMATS.find((f) => f.id === id);
  if (!format) throw new InputError(`the format "${id}" is not known; use one of ${CAMERA_EXPORTS.join(', ')}.`);
  return format;
}

function worldOf({ ground, origin, length }: ExportCameraOptions): World {
  if (ground && ground.length < 3) throw new InputError('--ground needs three points and more, by their numbers.');
  const [from, to, metres] = length ?? [];
  if (length && !(metres! > 0)) throw new InputError('--length needs a length above 0 metres after its two points.');
  return { ground, origin, length: length && { from: from!, to: to!, metres: metres! } };
}

async function picturesOf(
  o: ExportCameraOptions,
  format: CameraFormat,
  file: Parameters<typeof assertSamePlate>[0],
): Promise<Backdrop[]> {
  if (!o.plate) return [];
  if (!format.holdsPictures) throw new InputError(`${format.id} holds no pictures; leave --plate out.`);
  const plate = await openPlate(o.plate);
  try {
    assertSamePlate(file, plate.probe);
    return await backdropsOf(plate.source, file.plate.frameCount);
  } finally {
    await plate.close();
  }
}

/** Everything that a camera is written as. */
export const CAMERA_EXPORTS: readonly string[] = [...[...CAMERA_FORMATS, ...CAMERA_LENS_MAPS].map((f) => f.id)];

async function exportLens(file: CameraFile, way: 'undistort' | 'distort', out: string): Promise<void> {
  const { plate } = file;
  const radial = radialOnWidth(file);
  if (file.lens.radial[1] !== 0) throw new InputError('maps hold one radial term, and this lens has a second one.');
  if (radial === 0) throw new InputError("this camera's lens does not bow; a map would change nothing.");
  assertDataOutput(`lens-${way}`, out);
  const frame = file.frames[0]!.frame;
  for await (const written of writeLens(plate, { radial, frame }, out, way, { size: [plate.width, plate.height] }))
    void written;
}

/** A solved camera in an open format. @returns the exit status */
export async function exportCamera(path: string, o: ExportCameraOptions): Promise<number> {
  const map = CAMERA_LENS_MAPS.find((m) => m.id === o.as)?.way;
  if (map) {
    await exportLens(await readCamera(path), map, o.out);
    return 0;
  }
  const format = formatOf(o.as);
  const file = await readCamera(path);
  const pictures = await picturesOf(o, format, file);
  await writeWhole(o.out, format.write(oriented(file, worldOf(o)), { pictures }));
  return 0;
}
