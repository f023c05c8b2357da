/** A shot's camera in an open format, with the planes of the Screens that rest on it. */
import type { CameraFile, ScenePlane } from '@yarlop/core/camera/camera-file';
import type { World } from '@yarlop/core/camera/oriented';
import { oriented } from '@yarlop/core/camera/oriented';
import type { CameraFormat } from '@yarlop/core/formats/camera-formats';
import { CAMERA_EXPORTS, CAMERA_FORMATS } from '@yarlop/core/formats/camera-formats';
import type { Backdrop } from '@yarlop/core/formats/gltf';
import { backdropFrames } from '@yarlop/pipeline/page-pictures';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow, ShotRow } from '../rows';
import * as screens from '../sql/screens';
import { readCamera } from './camera';
import { findShot } from './create-shot';
import { proxyFrame } from './proxy-frame';
import { safeName } from './start-delivery';

export interface ExportedCamera {
  readonly fileName: string;
  readonly text: string;
}

async function planesOf(c: Context, shot: ShotRow): Promise<ScenePlane[]> {
  const all = await c.db.all<ScreenRow>(screens.listScreens, [shot.id]);
  const views = await Promise.all(
    all.map(async (s) => ({ screen: s.recipe.name, scene: (await c.readers.track(s, shot.mediaHash)).scene })),
  );
  return views.flatMap(({ screen, scene }) => (scene?.corners ? [{ screen, corners: scene.corners }] : []));
}

/** Small pictures, spread over the shot. */
async function picturesOf(c: Context, shot: ShotRow): Promise<Backdrop[]> {
  const folder = c.storage.derived(shot.mediaHash);
  return Promise.all(
    backdropFrames(shot.frameCount).map(async (frame) => {
      const bytes = await proxyFrame(folder, frame);
      return { frame, url: `data:image/jpeg;base64,${bytes.toString('base64')}` };
    }),
  );
}

/** @throws ApiError where none was solved */
export async function solvedCamera(
  c: Context,
  shotId: number,
): Promise<{ shot: ShotRow; file: CameraFile; world: World }> {
  const shot = await findShot(c, shotId);
  const { settings, solved } = await readCamera(c, shot);
  if (!solved)
    throw new ApiError(422, 'nothing', "The shot's camera is not solved yet; solve it in Follow, under Camera.");
  return { shot, file: solved.file, world: settings?.world ?? {} };
}

/** The camera in the person's world, with the Screens' planes. @throws ApiError where none was solved */
async function worldCamera(c: Context, shotId: number): Promise<{ shot: ShotRow; file: CameraFile }> {
  const { shot, file, world } = await solvedCamera(c, shotId);
  return { shot, file: oriented({ ...file, planes: await planesOf(c, shot) }, world) };
}

export function cameraFormat(id: string): CameraFormat {
  const format = CAMERA_FORMATS.find((f) => f.id === id);
  if (!format)
    throw new ApiError(
      404,
      'unknown',
      `A camera is not handed over as "${id.slice(0, 40)}"; choose one of ${CAMERA_EXPORTS.map((f) => f.id).join(', ')}.`,
    );
  return format;
}

/** @throws ApiError where none was solved, CoreError for a world whose points are gone */
export async function exportCamera(
  c: Context,
  shotId: number,
  format: CameraFormat,
  isPlateBehind: boolean,
): Promise<ExportedCamera> {
  const { shot, file } = await worldCamera(c, shotId);
  const pictures = isPlateBehind && format.holdsPictures ? await picturesOf(c, shot) : [];
  return {
    fileName: `${safeName(shot.name)}-camera.${format.extension}`,
    text: format.write(file, { pictures }),
  };
}
