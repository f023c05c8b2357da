/** What a server says of itself: how it stands, its numbers, and what can be asked of it. */
import { Router } from 'express';
import { openApi } from '@yarlop/contracts/open-api';
import server from '../../package.json';
import type { Context } from '../context';
import type { Metrics } from '../metrics';
import type { Runner } from '../runner';
import { healthOf } from '../use-cases/health';
import { handler } from './handler';

/** Under `/api`. */
export function aboutRoutes(c: Context, runner: Runner, metrics: Metrics): Router {
  return Router()
    .get(
      '/health',
      handler(async (_req, res) => {
        const health = await healthOf(c, runner.state);
        res.status(health.ok ? 200 : 503);
        return health;
      }),
    )
    .get(
      '/metrics',
      handler(() => metrics.values(c, runner.state)),
    )
    .get('/openapi.json', (_req, res) => void res.json(openApi(server.version)))
    .get('/docs', (_req, res) => res.redirect('/settings/api'));
}

/** Where programs that gather numbers look for them. */
export function metricsRoute(c: Context, runner: Runner, metrics: Metrics): Router {
  return Router().get(
    '/metrics',
    handler(async (_req, res) => {
      const { type, text } = await metrics.text(c, runner.state);
      res.type(type).send(text);
    }),
  );
}
