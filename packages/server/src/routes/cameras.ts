/** The camera of a shot's whole scene. */
import { Router } from 'express';
import type { Context } from '../context';
import { withoutInput } from '../rows';
import { CAMERA_LENS_MAPS } from '@yarlop/core/formats/camera-formats';
import { readCamera, saveCamera, startCamera } from '../use-cases/camera';
import { exportLens } from '../use-cases/export-lens';
import { cameraFormat, exportCamera } from '../use-cases/export-camera';
import { findShot } from '../use-cases/create-shot';
import { body, handler, id, sendFile } from './handler';

export function cameraRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id/camera',
      handler(async (req) => readCamera(c, await findShot(c, id(req)))),
    )
    .get(
      '/:id/camera/:format',
      handler(async (req, res) => {
        const as = String(req.params['format']);
        const map = CAMERA_LENS_MAPS.find((m) => m.id === as);
        if (map) return exportLens(c, id(req), map, (path, name) => sendFile(res, path, name));
        const format = cameraFormat(as);
        const { fileName, text } = await exportCamera(c, id(req), format, req.query['plate'] === '1');
        res
          .attachment(fileName)
          .type(format.id === 'gltf' ? 'model/gltf+json' : 'text/plain')
          .send(text);
      }),
    )
    .put(
      '/:id/camera',
      handler((req) => saveCamera(c, id(req), body(req, 'solveCamera'))),
    )
    .post(
      '/:id/camera',
      handler(async (req, res) => {
        res.status(202);
        return withoutInput(await startCamera(c, id(req), body(req, 'solveCamera')));
      }),
    );
}
