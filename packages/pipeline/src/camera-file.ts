/** Camera files in. */
import { basename } from 'node:path';
import { checkCamera } from '@yarlop/contracts/validate';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { InputError } from './pipeline-error';
import { readJson } from './track-file';

/** @throws ContractError or InputError, with what is wrong and where */
export async function readCamera(path: string): Promise<CameraFile> {
  const file = checkCamera(await readJson(path), basename(path)) as unknown as CameraFile;
  if (file.frames.length === 0)
    throw new InputError(`${basename(path)} holds no frames: the camera was not found; solve it anew.`);
  return file;
}

/** @throws InputError when a camera is of a picture of another size */
export function assertSamePlate(
  { plate }: CameraFile,
  { width, height }: { readonly width: number; readonly height: number },
): void {
  if (plate.width !== width || plate.height !== height)
    throw new InputError(
      `the camera is of "${plate.name}", ${plate.width}x${plate.height}, and the plate is ${width}x${height}; solve the camera on this plate.`,
    );
}
