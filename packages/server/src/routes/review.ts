import { Router } from 'express';
import type { Context } from '../context';
import { personOf } from '../signed-in';
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
        const note = body(req, 'reviewNote');
        return addNote(c, id(req), { ...note, author: personOf(req)?.name ?? note.author });
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
