import type { Request, RequestHandler, Response } from 'express';
import type { Requests, RequestName } from '@yarlop/contracts/validate';
import { checkRequest } from '@yarlop/contracts/validate';
import { ApiError } from '../api-error';

/** An asynchronous use case as a route; what it returns is sent as JSON. */
export function handler(work: (req: Request, res: Response) => Promise<unknown>): RequestHandler {
  return (req, res, next) => {
    work(req, res).then((value) => (res.headersSent || res.writableEnded ? undefined : res.json(value ?? null)), next);
  };
}

/** Sends a file as one to be saved. @param name that it is offered under */
export function sendFile(res: Response, path: string, name: string): Promise<void> {
  return new Promise((resolve, reject) =>
    res.download(path, name, { dotfiles: 'allow' }, (e) => (e ? reject(e) : resolve())),
  );
}

/** A whole number from the path. @throws ApiError 404, since nothing else has such an address */
export function id(req: Request, name = 'id'): number {
  const text = String(req.params[name]);
  if (!/^\d{1,9}$/.test(text)) throw new ApiError(404, 'not-found', 'There is nothing at this address.');
  return Number(text);
}

export function hash(req: Request): string {
  const text = String(req.params['hash']);
  if (!/^[0-9a-f]{64}$/.test(text)) throw new ApiError(404, 'not-found', 'There is no such media file.');
  return text;
}

export function body<N extends RequestName>(req: Request, name: N): NonNullable<Requests[N]> {
  return checkRequest(name, req.body);
}
