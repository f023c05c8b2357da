import { Router, raw } from 'express';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import * as tables from '../sql/colour-tables';
import { handler, hash } from './handler';

/** The largest lattice of 129 entries a side takes about 60 MB as text; tables in use are far smaller. */
const LARGEST = '15mb';

export function colourTableRoutes(c: Context): Router {
  return Router()
    .get(
      '/',
      handler(() => c.db.all(tables.listTables)),
    )
    .post(
      '/',
      raw({ type: () => true, limit: LARGEST }),
      handler(async (req, res) => {
        const body: unknown = req.body;
        const name =
          String(req.query['name'] ?? 'table')
            .replace(/[^\x20-\x7e\u00a0-\uffff]/g, '')
            .slice(0, 255) || 'table';
        if (!(body instanceof Uint8Array) || body.length === 0)
          throw new ApiError(422, 'invalid', 'The colour table is empty; choose a .cube file.');
        const key = await c.readers.takenTable(name, body);
        res.status(201);
        return { hash: key, name };
      }),
    )
    .get(
      '/:hash.cube',
      handler(async (req, res) => {
        const row = await c.db.one<{ body: string }>(tables.findTable, [hash(req)]);
        if (!row) throw notFound('The colour table');
        res.set('Cache-Control', 'private, max-age=31536000, immutable').type('text/plain').send(row.body);
      }),
    );
}
