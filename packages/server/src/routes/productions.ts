import { Router } from 'express';
import { notFound } from '../api-error';
import type { Context } from '../context';
import * as productions from '../sql/productions';
import * as shots from '../sql/shots';
import { putIntoBin } from '../use-cases/bin';
import { createShot } from '../use-cases/create-shot';
import { deliveriesOfProduction } from '../use-cases/deliveries-of-production';
import { takeTemplate } from '../use-cases/take-template';
import { body, handler, id } from './handler';

export function productionRoutes(c: Context): Router {
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
        const production = await c.db.one<object>(productions.findProduction, [id(req)]);
        if (!production) throw notFound('The production');
        return { ...production, shots: await c.db.all(shots.listShots, [id(req)]) };
      }),
    )
    .delete(
      '/:id',
      handler((req) => putIntoBin(c, 'production', id(req))),
    )
    .get(
      '/:id/deliveries',
      handler((req) => deliveriesOfProduction(c, id(req))),
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
