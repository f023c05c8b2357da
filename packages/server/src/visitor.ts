/** Who asks: without accounts a browser is known by a number that it was given in a cookie, and by its address before that. */
import { randomUUID } from 'node:crypto';
import { parse } from 'cookie';
import type { Request, RequestHandler } from 'express';
import { ipKeyGenerator } from 'express-rate-limit';

const COOKIE = 'yarlop_visitor';
/** Ms; a year. */
const KEPT = 365 * 24 * 3600 * 1000;
const NUMBER = /^[0-9a-f-]{36}$/;

function numberOf(req: Request): string | null {
  const number = parse(req.headers.cookie ?? '')[COOKIE];
  return number && NUMBER.test(number) ? number : null;
}

/** The visitor's number, or the address that a request without one comes from. */
export function visitorOf(req: Request): string {
  return numberOf(req) ?? ipKeyGenerator(req.ip ?? '');
}

/** Gives every browser a number with the page. */
export const giveNumber: RequestHandler = (req, res, next) => {
  if (numberOf(req) === null)
    res.cookie(COOKIE, randomUUID(), { httpOnly: true, sameSite: 'strict', maxAge: KEPT, path: '/' });
  next();
};
