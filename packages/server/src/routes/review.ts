import { Router } from 'express';
import type { Context } from '../context';
import { addNote, changeNote, deleteNote, readReview, setStanding } from '../use-cases/review';
import { body, handler, id } from './handler';

/** Of a shot. */
export function shotReviewRoutes(c: Context): Router {
  return Router()
    .get(
      '/:id/review',
      handler((req) => readReview(c, id(req))),
    )
    .put(
      '/:id/review',
      handler((req) => setStanding(c, id(req), body(req, 'standing').standing)),
    )
    .post(
      '/:id/review',
      handler((req, res) => {
        res.status(201);
        return addNote(c, id(req), body(req, 'reviewNote'));
      }),
    );
}

/** Of a note by itself. */
export function noteRoutes(c: Context): Router {
  return Router()
    .put(
      '/:id',
      handler((req) => changeNote(c, id(req), body(req, 'reviewPart'))),
    )
    .delete(
      '/:id',
      handler((req) => deleteNote(c, id(req))),
    );
}
