import type { Request } from 'express';
import { Router } from 'express';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { BinKind } from '../sql/bin';
import { KINDS } from '../sql/bin';
import type { BinKey } from '../use-cases/bin';
import { BIN_DAYS, emptyBin, goesWith, listBin, putIntoBin, removeForGood, takeOutOfBin } from '../use-cases/bin';
import { diskUse } from '../use-cases/disk-use';
import { handler, hash, id } from './handler';

function kindOf(req: Request): BinKind {
  const kind = KINDS.find((k) => k === req.params['kind']);
  if (!kind) throw new ApiError(404, 'not-found', 'There is nothing at this address.');
  return kind;
}

function which(req: Request): [BinKind, BinKey] {
  const kind = kindOf(req);
  return [kind, kind === 'media' || kind === 'table' ? hash(req) : id(req, 'hash')];
}

/** `/bin/KIND/KEY`: a number, or the hash of a file. */
export function binRoutes(c: Context): Router {
  return Router()
    .get(
      '/',
      handler(async () => ({ days: BIN_DAYS, all: await listBin(c) })),
    )
    .delete(
      '/',
      handler(() => emptyBin(c)),
    )
    .get(
      '/:kind/:hash',
      handler((req) => goesWith(c, ...which(req))),
    )
    .put(
      '/:kind/:hash',
      handler((req) => putIntoBin(c, ...which(req))),
    )
    .post(
      '/:kind/:hash/out',
      handler((req) => takeOutOfBin(c, ...which(req))),
    )
    .delete(
      '/:kind/:hash',
      handler(async (req) => {
        if ((await removeForGood(c, ...which(req))) !== null) return;
        throw new ApiError(
          409,
          'in-use',
          'It is not in the bin, or something needs it or works on it; nothing was removed.',
        );
      }),
    );
}

export function diskRoutes(c: Context): Router {
  return Router().get(
    '/',
    handler(() => diskUse(c)),
  );
}
