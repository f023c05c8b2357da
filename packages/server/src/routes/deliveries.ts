import { join } from 'node:path';
import { Router } from 'express';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { DeliveryRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import { putIntoBin } from '../use-cases/bin';
import { handler, id, sendFile } from './handler';

export function deliveryRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id/file',
      handler(async (req, res) => {
        const d = await c.db.one<DeliveryRow>(deliveries.findDelivery, [id(req)]);
        if (!d) throw notFound('The delivery');
        if (!d.sha256) throw new ApiError(409, 'not-ready', 'The delivery is not finished yet.');
        await sendFile(res, join(c.storage.delivery(d.id), d.fileName), d.fileName);
      }),
    )
    .delete(
      '/:id',
      handler((req) => putIntoBin(c, 'delivery', id(req))),
    );
}
