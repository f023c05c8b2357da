import type { Response } from 'express';
import { Router } from 'express';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import { withoutInput } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as screens from '../sql/screens';
import { CAMERA_LENS_MAPS } from '@yarlop/core/formats/camera-formats';
import { readCamera, saveCamera, startCamera } from '../use-cases/camera';
import { exportLens } from '../use-cases/export-lens';
import { cameraFormat, exportCamera } from '../use-cases/export-camera';
import { putIntoBin } from '../use-cases/bin';
import { findShot, saveShot } from '../use-cases/create-shot';
import { createScreen, findScreen, saveScreen, setDepthOrder } from '../use-cases/save-screen';
import { readSeen } from '../use-cases/solve';
import { sendFlat, slipsAt, startProof } from '../use-cases/proof';
import { matchDress } from '../use-cases/match-dress';
import { snapPin } from '../use-cases/snap-pin';
import { runSpot } from '../use-cases/run-spot';
import { findLoop } from '../use-cases/find-loop';
import { importTrack } from '../use-cases/import-track';
import { lookForPlate, relink } from '../use-cases/relink';
import { deliveryText } from '../use-cases/delivery-text';
import { startDelivery } from '../use-cases/start-delivery';
import { cutBack, startFollow } from '../use-cases/start-follow';
import { body, handler, id, sendFile } from './handler';

/** As the contract's schemas have it. */
const MOST_FRAME = 10_000_000;

export function shotRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id',
      handler(async (req) => ({
        ...(await findShot(c, id(req))),
        screens: await c.db.all<ScreenRow>(screens.listScreens, [id(req)]),
      })),
    )
    .get(
      '/:id/verdicts',
      handler(async (req, res) => {
        const shot = await findShot(c, id(req));
        const all = await c.db.all<ScreenRow>(screens.listScreens, [shot.id]);
        res.type('json').send(await c.readers.json({ what: 'verdicts', shot, screens: all }));
      }),
    )
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
    )
    .put(
      '/:id',
      handler((req) => {
        const b = body(req, 'shotRecipe');
        return saveShot(
          c,
          id(req),
          b.revision,
          b as { workingRange?: number[]; colour?: { transfer?: string; primaries?: string } },
        );
      }),
    )
    .put(
      '/:id/depth',
      handler((req) => setDepthOrder(c, id(req), body(req, 'depth').screens)),
    )
    .delete(
      '/:id',
      handler((req) => putIntoBin(c, 'shot', id(req))),
    )
    .post(
      '/:id/screens',
      handler((req, res) => {
        res.status(201);
        return createScreen(c, id(req), req.body);
      }),
    )
    .post(
      '/:id/loop',
      handler((req) => findLoop(c, id(req), body(req, 'findLoop'))),
    )
    .post(
      '/:id/relink',
      handler(async (req) => {
        const b = body(req, 'relink');
        return b.offset === undefined ? lookForPlate(c, id(req), b.media) : relink(c, id(req), b.media, b.offset);
      }),
    )
    .post(
      '/:id/import',
      handler((req) => {
        if (!Buffer.isBuffer(req.body)) throw new ApiError(415, 'invalid', 'Send JSON in UTF-8.');
        return importTrack(c, id(req), req.body);
      }),
    )
    .post(
      '/:id/text',
      handler(async (req) => ({ text: await deliveryText(c, id(req), body(req, 'deliver')) })),
    )
    .get(
      '/:id/deliveries',
      handler((req) => c.db.all(deliveries.listDeliveries, [id(req)])),
    )
    .post(
      '/:id/deliveries',
      handler((req, res) => {
        res.status(201);
        return startDelivery(c, id(req), body(req, 'deliver'));
      }),
    );
}

async function sendReading(c: Context, what: 'track' | 'proof', screenId: number, res: Response): Promise<void> {
  const screen = await findScreen(c, screenId);
  const { mediaHash } = await findShot(c, screen.shotId);
  res.type('json').send(await c.readers.json({ what, screen, mediaHash }));
}

export function screenRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id',
      handler((req) => findScreen(c, id(req))),
    )
    .put(
      '/:id',
      handler((req) => {
        const b = req.body as { revision?: unknown; recipe?: unknown; step?: unknown };
        return saveScreen(
          c,
          id(req),
          Number(b?.revision),
          b?.recipe,
          typeof b?.step === 'string' ? b.step.slice(0, 120) : null,
        );
      }),
    )
    .delete(
      '/:id',
      handler(async (req) => {
        const { affectedRows } = await c.db.run(screens.deleteScreen, [id(req)]);
        if (affectedRows === 0) throw notFound('The Screen');
      }),
    )
    .get(
      '/:id/track',
      handler((req, res) => sendReading(c, 'track', id(req), res)),
    )
    .get(
      '/:id/seen/:frame',
      handler(async (req) => {
        const screen = await findScreen(c, id(req));
        const frame = Number(req.params['frame']);
        if (!Number.isInteger(frame) || frame < 0 || frame > MOST_FRAME)
          throw new ApiError(422, 'out-of-range', `"${String(req.params['frame']).slice(0, 40)}" is no frame.`);
        return readSeen(c, screen, (await findShot(c, screen.shotId)).mediaHash, frame);
      }),
    )
    .get(
      '/:id/revisions',
      handler((req) => c.db.all(screens.listRevisions, [id(req)])),
    )
    .get(
      '/:id/revisions/:revision',
      handler(async (req) => {
        const row = await c.db.one<object>(screens.findRevision, [id(req), id(req, 'revision')]);
        if (!row) throw notFound('This version of the Screen');
        return row;
      }),
    )
    .post(
      '/:id/prove',
      handler(async (req, res) => {
        res.status(202);
        return withoutInput(await startProof(c, id(req)));
      }),
    )
    .get(
      '/:id/proof',
      handler((req, res) => sendReading(c, 'proof', id(req), res)),
    )
    .post(
      '/:id/slip',
      handler((req) => slipsAt(c, id(req), body(req, 'slip').frame)),
    )
    .post(
      '/:id/flat',
      handler((req, res) => sendFlat(c, id(req), body(req, 'flat'), res)),
    )
    .post(
      '/:id/cut',
      handler(async (req) => {
        const b = body(req, 'cut');
        await cutBack(c, id(req), b.frame, b.side);
      }),
    )
    .post(
      '/:id/snap',
      handler((req) => snapPin(c, id(req), body(req, 'snap'))),
    )
    .post(
      '/:id/match',
      handler((req, res) => matchDress(c, id(req), res)),
    )
    .post(
      '/:id/spot-run',
      handler(async (req, res) => {
        await runSpot(c, id(req), body(req, 'spotRun'), res);
      }),
    )
    .post(
      '/:id/follow',
      handler(async (req, res) => {
        res.status(202);
        return withoutInput(await startFollow(c, id(req), body(req, 'follow')));
      }),
    );
}
