/** Signing in and out, by password or by an invitation. */
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { SignedIn } from '../signed-in';
import { keyOfPerson } from '../signed-in';
import * as people from '../sql/people';
import { hashPassword, hashToken, isPassword, newToken } from './passwords';

/** Days that a browser is known for without a new sign-in. */
export const SIGNED_IN_DAYS = 30;

const WRONG =
  'Name or password is wrong. After too many tries wait a quarter of an hour, or ask an administrator for a new link.';

/** Whoever signs in; what the browser is known by from now on. */
export interface Opened {
  readonly person: SignedIn;
  readonly token: string;
}

interface PersonRow {
  readonly id: number;
  readonly name: string;
  readonly isAdmin: number;
}

const signedIn = ({ id, name, isAdmin }: PersonRow): SignedIn => ({ id, name, isAdmin: isAdmin === 1 });

/** Null where the token is none, has run out, or its person was shut out. */
export async function personOfToken(c: Context, token: string): Promise<SignedIn | null> {
  const row = await c.db.one<PersonRow>(people.personOfSignIn, [hashToken(token)]);
  return row && signedIn(row);
}

/** A token of its own for every sign-in: one that was there before, or was put there by others, is never taken over. */
async function open(c: Context, id: number): Promise<Opened> {
  const token = newToken();
  await c.db.run(people.removeExpired);
  await c.db.run(people.insertSignIn, [hashToken(token), id, SIGNED_IN_DAYS]);
  await c.db.run(people.wasSeen, [id]);
  const person = await personOfToken(c, token);
  if (!person) throw new ApiError(401, 'sign-in', WRONG);
  return { person, token };
}

/** @throws ApiError with the same sentence whether the name, the password or the person is wrong */
export async function signIn(c: Context, name: string, password: string): Promise<Opened> {
  const row = await c.db.one<{ id: number; password: string }>(people.passwordOf, [name.trim()]);
  if (!(await isPassword(row?.password ?? null, password))) throw new ApiError(401, 'wrong', WRONG);
  return open(c, row!.id);
}

export async function signOut(c: Context, token: string, person: SignedIn): Promise<void> {
  await c.db.run(people.removeSignIn, [hashToken(token)]);
  c.events.cutStreams(keyOfPerson(person.id));
}

/** On every browser. */
export async function signOutEverywhere(c: Context, id: number): Promise<void> {
  await c.db.run(people.removeSignIns, [id]);
  c.events.cutStreams(keyOfPerson(id));
}

/** All other browsers are signed out by it. @throws ApiError where the password before is wrong */
export async function changePassword(c: Context, { id }: SignedIn, before: string, after: string): Promise<Opened> {
  const row = await c.db.one<{ password: string }>(people.passwordById, [id]);
  if (!(await isPassword(row?.password ?? null, before)))
    throw new ApiError(422, 'wrong', 'The password until now is wrong; nothing was changed.');
  await c.db.run(people.setPassword, [await hashPassword(after), id]);
  await signOutEverywhere(c, id);
  return open(c, id);
}

interface InvitationRow {
  readonly personId: number;
  readonly name: string;
  readonly expires: string;
}

const GONE = 'This link was used, has run out, or was replaced by a newer one. Ask an administrator for another.';

/** Whom a link is for. @throws ApiError where it is of no use any more */
export async function findInvitation(c: Context, token: string): Promise<InvitationRow> {
  const row = await c.db.one<InvitationRow>(people.findInvitation, [hashToken(token)]);
  if (!row) throw new ApiError(410, 'gone', GONE);
  return row;
}

/** Chooses name and password by a link, once. @throws ApiError where the link is of no use, or the name taken */
export async function takeInvitation(c: Context, token: string, name: string, password: string): Promise<Opened> {
  const { personId } = await findInvitation(c, token);
  const kept = await hashPassword(password);
  await c.db.transaction(async (t) => {
    const { affectedRows } = await t.run(people.removeInvitation, [hashToken(token)]);
    if (affectedRows !== 1) throw new ApiError(410, 'gone', GONE);
    await t.run(people.join, [name.trim(), kept, personId]).catch(refuseTaken);
    await t.run(people.removeSignIns, [personId]);
  });
  c.events.cutStreams(keyOfPerson(personId));
  return open(c, personId);
}

/** @throws ApiError where that is what went wrong */
export function refuseTaken(e: NodeJS.ErrnoException): never {
  if (e.code !== 'ER_DUP_ENTRY') throw e;
  throw new ApiError(
    409,
    'taken',
    'Somebody here has that name already; take another, such as one with the family name.',
  );
}
