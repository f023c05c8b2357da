import { Router } from 'express';
import type { Context } from '../context';
import { changeContent, deleteContent, findContent, showContent } from '../use-cases/contents';
import { body, handler, id } from './handler';

/** Made-up content, by itself. */
export function contentRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id',
      handler((req) => findContent(c, id(req))),
    )
    .put(
      '/:id',
      handler((req) => changeContent(c, id(req), body(req, 'contentPart'))),
    )
    .delete(
      '/:id',
      handler((req) => deleteContent(c, id(req))),
    )
    .post(
      '/:id/show',
      handler((req) => showContent(c, id(req))),
    );
}
