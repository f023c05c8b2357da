/** The lens that a camera was solved with, as a map. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { radialOnWidth } from '@yarlop/core/camera/camera-file';
import type { CameraLensMap } from '@yarlop/core/formats/camera-formats';
import { writeLens } from './deliver-maps';
import { InputError } from './pipeline-error';

/** What a map is made from. */
export interface LensOrder {
  readonly file: CameraFile;
  readonly way: CameraLensMap['way'];
  /** of the file it is written to, with a place for a frame's number, such as `map.%04d.exr` */
  readonly pattern: string;
}

/** Writes a map; takes a second. @returns where @throws InputError for a lens that no map can hold or that needs none */
export async function writeCameraLens({ file, way, pattern }: LensOrder): Promise<string> {
  const { plate, lens, frames } = file;
  const radial = radialOnWidth(file);
  if (lens.radial[1] !== 0)
    throw new InputError('Maps hold one radial term, and the lens of this camera has a second one.');
  if (radial === 0) throw new InputError('The lens of this camera does not bow; a map would change nothing.');
  const size = [plate.width, plate.height] as const;
  const drawing = writeLens(plate, { radial, frame: frames[0]!.frame }, pattern, way, { size });
  for (;;) {
    const { done, value } = await drawing.next();
    if (done) return value[0]!;
  }
}
