/** Who asks: without accounts a browser is known by a number that it was given in a cookie, and by its address before that. */
import { randomBytes, randomUUID } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import cookieParser from 'cookie-parser';
import type { Request, RequestHandler } from 'express';
import { ipKeyGenerator } from 'express-rate-limit';
import { keyOfPerson, personOf } from './signed-in';
import { onBehalfOf } from './visitor-now';

const COOKIE = 'yarlop_visitor';
/** Ms; a year. */
const KEPT = 365 * 24 * 3600 * 1000;
/** Bytes of the key that numbers are signed with. */
const KEY_BYTES = 32;
const KEY = 'visitors.key';
/** Of its file: for its owner alone. */
const PRIVATE = 0o600;

/** The key of this installation, made when it is first asked for. @param data the data folder */
export async function visitorKey(data: string): Promise<string> {
  const path = join(data, KEY);
  const fresh = randomBytes(KEY_BYTES).toString('hex');
  await writeFile(path, fresh, { flag: 'wx', mode: PRIVATE }).catch((e: NodeJS.ErrnoException) => {
    if (e.code !== 'EEXIST') throw e;
  });
  return readFile(path, 'utf8');
}

function numberOf(req: Request): string | null {
  const number: unknown = (req.signedCookies as Record<string, unknown>)[COOKIE];
  return typeof number === 'string' ? number : null;
}

/** Whoever is signed in, else the visitor's number, or the address that a request without one of ours comes from. */
export function visitorOf(req: Request): string {
  const person = personOf(req);
  if (person) return keyOfPerson(person.id);
  return numberOf(req) ?? ipKeyGenerator(req.ip ?? '');
}

const giveNumber: RequestHandler = (req, res, next) => {
  if (numberOf(req) === null)
    res.cookie(COOKIE, randomUUID(), { httpOnly: true, sameSite: 'strict', maxAge: KEPT, path: '/', signed: true });
  next();
};

/** Gives every browser a number with the page, and work the number of who asked for it. @param key see {@link visitorKey} */
export function knowVisitors(key: string): RequestHandler[] {
  return [cookieParser(key), giveNumber, (req, _res, next) => onBehalfOf(visitorOf(req), next)];
}
