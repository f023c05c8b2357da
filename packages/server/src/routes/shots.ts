import { Router } from 'express';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as screens from '../sql/screens';
import { putIntoBin } from '../use-cases/bin';
import { findShot, recentShots, saveShot } from '../use-cases/create-shot';
import { createScreen, setDepthOrder } from '../use-cases/save-screen';
import { findLoop } from '../use-cases/find-loop';
import { importTrack } from '../use-cases/import-track';
import { proposeScreens } from '../use-cases/propose-screens';
import { lookForPlate, relink } from '../use-cases/relink';
import { deliveryText } from '../use-cases/delivery-text';
import { startDelivery } from '../use-cases/start-delivery';
import { cameraRoutes } from './cameras';
import { shotReviewRoutes } from './review';
import { body, handler, id } from './handler';

/** Its row, its Screens, its verdicts. */
function rowRoutes(c: Context): Router {
  return Router()
    .get(
      '/recent',
      handler(() => recentShots(c)),
    )
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
    .put(
      '/:id',
      handler((req) => {
        const b = body(req, 'shotRecipe');
        return saveShot(
          c,
          id(req),
          b.revision,
          b as { name?: string; workingRange?: number[]; colour?: { transfer?: string; primaries?: string } },
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
    );
}

/** What a whole shot is asked for: loops, other versions of the plate, tracks from outside, deliveries. */
function workRoutes(c: Context): Router {
  return Router()
    .post(
      '/:id/loop',
      handler((req) => findLoop(c, id(req), body(req, 'findLoop'))),
    )
    .get(
      '/:id/proposals/:frame',
      handler(async (req) => ({ proposals: await proposeScreens(c, id(req), id(req, 'frame')) })),
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

export function shotRoutes(c: Context): Router {
  return Router().use(rowRoutes(c), workRoutes(c), cameraRoutes(c), shotReviewRoutes(c));
}
