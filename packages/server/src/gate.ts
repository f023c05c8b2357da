/** Who may ask for what, where an installation has accounts: the one place that decides it. */
import type { Access } from '@yarlop/contracts/routes';
import { accessOf } from '@yarlop/contracts/routes';
import type { CookieOptions, Request, RequestHandler, Response } from 'express';
import { ApiError } from './api-error';
import type { Context } from './context';
import { personOf, rememberPerson } from './signed-in';
import { SIGNED_IN_DAYS, personOfToken } from './use-cases/sign-in';
import type { Opened } from './use-cases/sign-in';
import { onBehalfOf } from './visitor-now';
import { visitorOf } from './visitor';

const COOKIE = 'yarlop_signed_in';
const DAY_MS = 24 * 3600 * 1000;

/** @param isSecure whether pages come by TLS alone */
const cookie = (isSecure: boolean): CookieOptions => ({
  httpOnly: true,
  sameSite: 'strict',
  secure: isSecure,
  path: '/',
});

/** What the browser was given when its person signed in; null where it brings none. */
export function tokenOf(req: Request): string | null {
  const token: unknown = (req.cookies as Record<string, unknown>)[COOKIE];
  return typeof token === 'string' ? token : null;
}

export function giveToken({ config }: Context, res: Response, { token }: Opened): void {
  res.cookie(COOKIE, token, { ...cookie(config.studio!.isSecure), maxAge: SIGNED_IN_DAYS * DAY_MS });
}

export function takeToken({ config }: Context, res: Response): void {
  res.clearCookie(COOKIE, cookie(config.studio!.isSecure));
}

function check(req: Request, access: Access): void {
  const person = personOf(req);
  if (access === 'anyone' || person?.isAdmin) return;
  if (!person) throw new ApiError(401, 'sign-in', 'Sign in first; what you changed meanwhile is kept in this browser.');
  if (access === 'admin')
    throw new ApiError(403, 'not-allowed', 'Only an administrator of this installation may do that.');
}

/** Of routes under `/api`; whatever is not in the contract's list needs a person. */
export function gate(c: Context): RequestHandler {
  const ask = async (req: Request): Promise<void> => {
    const token = tokenOf(req);
    const person = token === null ? null : await personOfToken(c, token);
    if (person) rememberPerson(req, person);
    check(req, accessOf(req.method, req.path));
  };
  return (req, _res, next) => {
    if (!c.config.studio) return next();
    ask(req).then(() => onBehalfOf(visitorOf(req), next), next);
  };
}
