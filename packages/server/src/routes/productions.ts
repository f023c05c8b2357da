import { Router } from 'express';
import type { Context } from '../context';
import * as productions from '../sql/productions';
import * as shots from '../sql/shots';
import { putIntoBin } from '../use-cases/bin';
import { addContent, contentsOf } from '../use-cases/contents';
import { createShot } from '../use-cases/create-shot';
import { deliveriesOfProduction } from '../use-cases/deliveries-of-production';
import { findProduction } from '../use-cases/find-production';
import { reviewOfProduction } from '../use-cases/review';
import { libraryOf, replaceEverywhere } from '../use-cases/production-library';
import { takeTemplate } from '../use-cases/take-template';
import { body, handler, id } from './handler';

/** The list, and a production's own row. */
function rowRoutes(c: Context): Router {
  return Router()
    .get(
      '/',
      handler(() => c.db.all(productions.listProductions)),
    )
    .post(
      '/',
      handler(async (req, res) => {
        const { insertId } = await c.db.run(productions.insertProduction, [body(req, 'production').name]);
        res.status(201);
        return c.db.one(productions.findProduction, [insertId]);
      }),
    )
    .get(
      '/:id',
      handler(async (req) => {
        return { ...(await findProduction(c, id(req))), shots: await c.db.all(shots.listShots, [id(req)]) };
      }),
    )
    .put(
      '/:id',
      handler(async (req) => {
        await c.db.run(productions.renameProduction, [body(req, 'production').name, id(req)]);
        return findProduction(c, id(req));
      }),
    )
    .delete(
      '/:id',
      handler((req) => putIntoBin(c, 'production', id(req))),
    );
}

/** What belongs to a production: files, deliveries, shots. */
function ownRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id/library',
      handler((req) => libraryOf(c, id(req))),
    )
    .post(
      '/:id/replace',
      handler((req) => replaceEverywhere(c, id(req), body(req, 'replaceFill'))),
    )
    .get(
      '/:id/review',
      handler((req) => reviewOfProduction(c, id(req))),
    )
    .get(
      '/:id/deliveries',
      handler((req) => deliveriesOfProduction(c, id(req))),
    )
    .get(
      '/:id/contents',
      handler((req) => contentsOf(c, id(req))),
    )
    .post(
      '/:id/contents',
      handler((req, res) => {
        res.status(201);
        return addContent(c, id(req), body(req, 'content'));
      }),
    )
    .post(
      '/:id/templates',
      handler(async (req, res) => {
        res.status(201);
        return takeTemplate(c, id(req), body(req, 'takeTemplate').upload);
      }),
    )
    .post(
      '/:id/shots',
      handler(async (req, res) => {
        const b = body(req, 'shot');
        res.status(201);
        return createShot(c, id(req), b.name, b);
      }),
    );
}

export function productionRoutes(c: Context): Router {
  return Router().use(rowRoutes(c), ownRoutes(c));
}
