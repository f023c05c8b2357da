/** A Screen: its recipe, what was followed of it, and what is asked for it. */
import type { Response } from 'express';
import { Router } from 'express';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import { withoutInput } from '../rows';
import * as screens from '../sql/screens';
import { findShot } from '../use-cases/create-shot';
import { findScreen, saveScreen } from '../use-cases/save-screen';
import { readSeen } from '../use-cases/solve';
import { sendFlat, slipsAt, startProof } from '../use-cases/proof';
import { matchDress } from '../use-cases/match-dress';
import { snapPin } from '../use-cases/snap-pin';
import { runSpot } from '../use-cases/run-spot';
import { cutBack, startFollow } from '../use-cases/start-follow';
import { body, handler, id } from './handler';

/** As the contract's schemas have it. */
const MOST_FRAME = 10_000_000;

async function sendReading(c: Context, what: 'track' | 'proof', screenId: number, res: Response): Promise<void> {
  const screen = await findScreen(c, screenId);
  const { mediaHash } = await findShot(c, screen.shotId);
  res.type('json').send(await c.readers.json({ what, screen, mediaHash }));
}

/** Its recipe, its versions, what was followed. */
function rowRoutes(c: Context): Router {
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
    );
}

/** What a Screen is asked for: following, proving, measuring. */
function workRoutes(c: Context): Router {
  return Router()
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

export function screenRoutes(c: Context): Router {
  return Router().use(rowRoutes(c), workRoutes(c));
}
