/** Draws the map of a lens; a reading thread does it. */
import type { CameraLensMap } from '@yarlop/core/formats/camera-formats';
import type { PlateInfo } from '@yarlop/core/track';
import { writeLens } from '@yarlop/pipeline/deliver-maps';

/** What a map is made from. */
export interface LensOrder {
  readonly plate: PlateInfo;
  readonly radial: number;
  readonly frame: number;
  readonly way: CameraLensMap['way'];
  /** of the file it is written to, with a place for a frame's number, such as `map.%04d.exr` */
  readonly pattern: string;
}

/** Writes a map; takes a second. @returns where */
export async function drawLens({ plate, radial, frame, way, pattern }: LensOrder): Promise<string> {
  const size = [plate.width, plate.height] as const;
  const drawing = writeLens(plate, { radial, frame }, pattern, way, { size });
  for (;;) {
    const { done, value } = await drawing.next();
    if (done) return value[0]!;
  }
}
