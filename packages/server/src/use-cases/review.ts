/** Notes on a shot's frames, and how the shot stands for those who look at it. */
import type { BodyOf } from '@yarlop/contracts/routes';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { ShotRow } from '../rows';
import * as review from '../sql/review';
import { findShot } from './create-shot';
import { findProduction } from './find-production';
import { findScreen } from './save-screen';

type NewNote = BodyOf<'POST /shots/:id/review'>;

export interface NoteRow extends Required<Omit<NewNote, 'screenId' | 'corner'>> {
  readonly id: number;
  readonly shotId: number;
  readonly screenId: number | null;
  readonly corner: number | null;
}

/** @throws ApiError where it is about frames that the shot does not have, or a Screen of another one */
async function check(c: Context, shot: ShotRow, { from, to, screenId, corner }: NoteRow | NewNote): Promise<void> {
  if (from > to || to >= shot.frameCount)
    throw new ApiError(
      422,
      'out-of-range',
      `Frames ${from} to ${to} must rise and lie within 0 to ${shot.frameCount - 1}.`,
    );
  if (typeof corner === 'number' && typeof screenId !== 'number')
    throw new ApiError(422, 'out-of-range', 'A corner belongs to a Screen; name that one too.');
  if (typeof screenId !== 'number') return;
  const screen = await findScreen(c, screenId);
  if (screen.shotId !== shot.id) throw notFound('The Screen that the note is about');
}

const values = (n: NoteRow | NewNote): (string | number | null)[] => [
  n.screenId ?? null,
  n.corner ?? null,
  n.from,
  n.to,
  n.words,
  JSON.stringify(n.strokes ?? []),
  n.state ?? 'open',
];

async function findNote(c: Context, id: number): Promise<NoteRow> {
  const note = await c.db.one<NoteRow>(review.findNote, [id]);
  if (!note) throw notFound('The note');
  return note;
}

export async function readReview(c: Context, shotId: number): Promise<object> {
  const shot = await findShot(c, shotId);
  return { standing: shot.standing, notes: await c.db.all(review.listNotes, [shotId]) };
}

/** Every note of a production's shots, the latest first. */
export async function reviewOfProduction(c: Context, productionId: number): Promise<object[]> {
  await findProduction(c, productionId);
  return c.db.all(review.notesOfProduction, [productionId]);
}

export async function setStanding(c: Context, shotId: number, standing: ShotRow['standing']): Promise<object> {
  await findShot(c, shotId);
  await c.db.run(review.setStanding, [standing, shotId]);
  c.events.emit('review', { shotId });
  return readReview(c, shotId);
}

/** @throws ApiError see {@link check} */
export async function addNote(c: Context, shotId: number, note: NewNote): Promise<NoteRow> {
  await check(c, await findShot(c, shotId), note);
  const { insertId } = await c.db.run(review.insertNote, [shotId, ...values(note), note.author]);
  c.events.emit('review', { shotId });
  return findNote(c, insertId);
}

/** What is left out stays as it is, so that two who change different things of a note lose nothing. */
export async function changeNote(c: Context, id: number, part: BodyOf<'PUT /review/:id'>): Promise<NoteRow> {
  const before = await findNote(c, id);
  // The Screen of a corner may be gone by now.
  const corner = before.screenId === null ? null : before.corner;
  const after = { ...before, corner, ...part } as NoteRow;
  await check(c, await findShot(c, before.shotId), after);
  await c.db.run(review.saveNote, [...values(after), id]);
  c.events.emit('review', { shotId: before.shotId });
  return findNote(c, id);
}

export async function deleteNote(c: Context, id: number): Promise<void> {
  const { shotId } = await findNote(c, id);
  await c.db.run(review.deleteNote, [id]);
  c.events.emit('review', { shotId });
}
