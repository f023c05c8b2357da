import type { World } from '@yarlop/core/camera/oriented';
import { oriented } from '@yarlop/core/camera/oriented';
import type { CameraFormat } from '@yarlop/core/formats/camera-formats';
import { CAMERA_EXPORTS, CAMERA_FORMATS, CAMERA_LENS_MAPS } from '@yarlop/core/formats/camera-formats';
import type { Backdrop } from '@yarlop/core/formats/gltf';
import { assertSamePlate, readCamera } from '@yarlop/pipeline/camera-file';
import { backdropsOf } from '@yarlop/pipeline/page-pictures';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { assertDataOutput } from '@yarlop/pipeline/deliver-job';
import { writeCameraLens } from '@yarlop/pipeline/camera-lens';
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
  if (!format)
    throw new InputError(`the format "${id}" is not known; use one of ${CAMERA_EXPORTS.map((f) => f.id).join(', ')}.`);
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

/** A solved camera in an open format. @returns the exit status */
export async function exportCamera(path: string, o: ExportCameraOptions): Promise<number> {
  const map = CAMERA_LENS_MAPS.find((m) => m.id === o.as)?.way;
  if (map) {
    assertDataOutput(`lens-${map}`, o.out);
    await writeCameraLens({ file: await readCamera(path), way: map, pattern: o.out });
    return 0;
  }
  const format = formatOf(o.as);
  const file = await readCamera(path);
  const pictures = await picturesOf(o, format, file);
  await writeWhole(o.out, format.write(oriented(file, worldOf(o)), { pictures }));
  return 0;
}
