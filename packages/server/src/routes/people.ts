import { Router } from 'express';
import type { Request, RequestHandler, Response } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import { giveToken, takeToken, tokenOf } from '../gate';
import { personOf } from '../signed-in';
import { visitorOf } from '../visitor';
import { changePerson, invite, linkFor, listPeople } from '../use-cases/people';
import type { Opened } from '../use-cases/sign-in';
import {
  changePassword,
  findInvitation,
  signIn,
  signOut,
  signOutEverywhere,
  takeInvitation,
} from '../use-cases/sign-in';
import { body, handler, id } from './handler';

/** Ms; how long tries are remembered. */
const TRIES_MS = 15 * 60 * 1000;
/** Of one name, wherever they come from; and of one address, whatever names it tries. By trial. */
const MOST_TRIES = { name: 10, address: 50 };

/** @param keyOf what tries are counted under */
function fewTries(limit: number, keyOf: (req: Request) => string): RequestHandler {
  return rateLimit({
    windowMs: TRIES_MS,
    limit,
    keyGenerator: keyOf,
    skipSuccessfulRequests: true,
    standardHeaders: false,
    legacyHeaders: false,
    message: { code: 'too-many', message: 'Too many tries; wait a quarter of an hour.' },
  });
}
const address = (req: Request): string => ipKeyGenerator(req.ip ?? '');
const nameTried = (req: Request): string =>
  String((req.body as { name?: unknown } | undefined)?.name)
    .trim()
    .toLowerCase();

const onlyWithAccounts =
  (c: Context): RequestHandler =>
  (_req, _res, next) =>
    next(
      c.config.studio
        ? undefined
        : new ApiError(404, 'no-accounts', 'This installation has no accounts; start it with npm start -- --studio.'),
    );

/** From now on the browser is known as that person's. */
function opened(c: Context, res: Response, o: Opened): object {
  giveToken(c, res, o);
  return { isStudio: true, person: o.person };
}

/** Under `/api`: who is signed in, and how one is. */
export function signInRoutes(c: Context): Router {
  const me = (req: Request): object => ({ isStudio: c.config.studio !== null, person: personOf(req) });
  const accounts = onlyWithAccounts(c);
  const tries = [fewTries(MOST_TRIES.address, address), fewTries(MOST_TRIES.name, nameTried)];
  return Router()
    .get('/me', (req, res) => void res.json(me(req)))
    .post(
      '/sign-in',
      accounts,
      ...tries,
      handler(async (req, res) => {
        const { name, password } = body(req, 'signIn');
        return opened(c, res, await signIn(c, name, password));
      }),
    )
    .post(
      '/sign-out',
      accounts,
      handler(async (req, res) => {
        await signOut(c, tokenOf(req)!, personOf(req)!);
        takeToken(c, res);
      }),
    )
    .post(
      '/sign-out/everywhere',
      accounts,
      handler(async (req, res) => {
        await signOutEverywhere(c, personOf(req)!.id);
        takeToken(c, res);
      }),
    )
    .put(
      '/me/password',
      accounts,
      fewTries(MOST_TRIES.name, visitorOf),
      handler(async (req, res) => {
        const { before, after } = body(req, 'newPassword');
        return opened(c, res, await changePassword(c, personOf(req)!, before, after));
      }),
    );
}

/** Under `/api/invitations`. */
export function invitationRoutes(c: Context): Router {
  return Router()
    .use(onlyWithAccounts(c))
    .post(
      '/look',
      handler(async (req) => {
        const { name } = await findInvitation(c, body(req, 'invitation').token);
        return { name };
      }),
    )
    .post(
      '/',
      handler(async (req, res) => {
        const { token, name, password } = body(req, 'join');
        return opened(c, res, await takeInvitation(c, token, name, password));
      }),
    );
}

export function peopleRoutes(c: Context): Router {
  return Router()
    .use(onlyWithAccounts(c))
    .get(
      '/',
      handler(() => listPeople(c)),
    )
    .post(
      '/',
      handler((req, res) => {
        res.status(201);
        return invite(c, body(req, 'invite'));
      }),
    )
    .put(
      '/:id',
      handler((req) => changePerson(c, id(req), body(req, 'personPart'))),
    )
    .post(
      '/:id/link',
      handler((req) => linkFor(c, id(req))),
    );
}
