/** Who may work here: invited by an administrator, shut out by one. */
import type { AnswerOf, BodyOf } from '@yarlop/contracts/routes';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import * as people from '../sql/people';
import { hashToken, newToken } from './passwords';
import { refuseTaken, signOutEverywhere } from './sign-in';

/** Hours that a link for choosing a password is of use. */
const LINK_HOURS = 72;
/** Hours of the one that the terminal shows: whoever started the server is there. */
const FIRST_HOURS = 24;

type Person = AnswerOf<'GET /people'>[number];
type Row = { readonly [K in keyof Person]: Person[K] extends boolean ? number : Person[K] };

const told = (row: Row): Person => ({
  ...row,
  isAdmin: row.isAdmin === 1,
  isShut: row.isShut === 1,
  hasPassword: row.hasPassword === 1,
});

export async function listPeople(c: Context): Promise<Person[]> {
  return (await c.db.all<Row>(people.listPeople)).map(told);
}

async function findPerson(c: Context, id: number): Promise<Person> {
  const row = await c.db.one<Row>(people.findPerson, [id]);
  if (!row) throw notFound('The person');
  return told(row);
}

/** A link of that person's; an earlier one is of no use from then on. */
export async function linkFor(c: Context, id: number): Promise<AnswerOf<'POST /people'>> {
  const person = await findPerson(c, id);
  if (person.isShut) throw new ApiError(409, 'shut', `${person.name} is shut out; let them in again first.`);
  const token = newToken();
  await c.db.run(people.saveInvitation, [id, hashToken(token), LINK_HOURS]);
  return { person, token, hours: LINK_HOURS };
}

/** @throws ApiError where the name is taken */
export async function invite(c: Context, { name, isAdmin }: BodyOf<'POST /people'>): Promise<AnswerOf<'POST /people'>> {
  const { insertId } = await c.db.run(people.insertPerson, [name.trim(), Number(isAdmin)]).catch(refuseTaken);
  return linkFor(c, insertId);
}

/** @throws ApiError where nobody would be left who may let people in */
export async function changePerson(c: Context, id: number, part: BodyOf<'PUT /people/:id'>): Promise<Person> {
  const after = { ...(await findPerson(c, id)), ...part };
  await c.db.transaction(async (t) => {
    const left = (await t.all<{ id: number }>(people.administrators)).filter((a) => a.id !== id);
    if (left.length === 0 && (!after.isAdmin || after.isShut))
      throw new ApiError(409, 'last', 'This is the last administrator; make somebody else one first.');
    await t.run(people.savePerson, [Number(after.isAdmin), Number(after.isShut), id]);
    if (after.isShut) await t.run(people.removeInvitations, [id]);
  });
  if (after.isShut) await signOutEverywhere(c, id);
  return findPerson(c, id);
}

/** The token of the one link for the first administrator; null where somebody is there already. */
export async function firstLink(c: Context): Promise<string | null> {
  const { n } = (await c.db.one<{ n: number }>(people.countPeople))!;
  if (n > 0) return null;
  // A link that an earlier start showed is of no use any more.
  await c.db.run(people.removeUnjoined);
  const { insertId } = await c.db.run(people.insertPerson, ['Administrator', 1]);
  const token = newToken();
  await c.db.run(people.saveInvitation, [insertId, hashToken(token), FIRST_HOURS]);
  return token;
}
