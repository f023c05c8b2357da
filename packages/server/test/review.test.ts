/** Notes on frames of a shot, and how the shot stands. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe, variantOf } from './builders/plate';
import { TestServer } from './builders/server';

interface Note {
  readonly id: number;
  readonly screenId: number | null;
  readonly corner: number | null;
  readonly words: string;
  readonly strokes: readonly (readonly number[])[];
  readonly state: string;
}
interface Review {
  readonly standing: string;
  readonly notes: readonly Note[];
}

let server: TestServer;
let made: { production: number; shot: number };
let other: { production: number; shot: number };
let screen: number;
const AUTHOR = 'Ada Quill';
const note = { from: 4, to: 6, words: 'The lower left corner swims.\nOnce more, please.', author: AUTHOR };
const review = async (shot = made.shot): Promise<Review> =>
  (await server.request<Review>('GET', `/shots/${shot}/review`)).body;
const add = (body: object, shot = made.shot) => server.request<Note>('POST', `/shots/${shot}/review`, body);

beforeAll(async () => {
  server = await TestServer.create();
  const bytes = await plateBytes(12);
  made = await server.shot(bytes);
  other = await server.shot(variantOf(bytes));
  screen = (await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, recipe)).body.id;
}, 120_000);
afterAll(() => server.dispose());

describe('a note', () => {
  it('is kept with its frames, its Screen and corner, and what was drawn, and is told in the order of frames', async () => {
    const later = await add({ ...note, screenId: screen, corner: 3, strokes: [[10, 20, 30.5, 40]] });
    expect(later).toMatchObject({ status: 201, body: { ...note, screenId: screen, corner: 3, state: 'open' } });
    await add({ ...note, from: 0, to: 0, words: 'Good.' });
    const { standing, notes } = await review();
    expect(standing).toBe('in work');
    expect(notes.map((n) => n.words)).toEqual(['Good.', note.words]);
    expect(notes[1]!.strokes).toEqual([[10, 20, 30.5, 40]]);
  });
  it('changes in what is sent and in nothing else', async () => {
    const [, { id }] = (await review()).notes as [Note, Note];
    const answer = await server.request<Note>('PUT', `/review/${id}`, { state: 'done' });
    expect(answer.body).toMatchObject({ ...note, screenId: screen, corner: 3, state: 'done' });
    expect((await server.request<Note>('PUT', `/review/${id}`, { words: 'Fine now.' })).body).toMatchObject({
      state: 'done',
      words: 'Fine now.',
      strokes: [[10, 20, 30.5, 40]],
    });
    expect((await server.request('PUT', `/review/${id}`, { author: 'somebody else' })).status).toBe(422);
  });
  it.each([
    [{ ...note, to: 12 }, /within 0 to 11/],
    [{ ...note, from: 7 }, /must rise/],
    [{ ...note, corner: 2 }, /name that one too/],
    [{ ...note, words: ' \n ' }, /words/],
    [{ ...note, words: 'a\u0007b' }, /words/],
    [{ ...note, strokes: [[1, 2]] }, /strokes/],
    [{ ...note, author: '' }, /author/],
    [{ ...note, state: 'closed' }, /state/],
    [{ ...note, id: 7 }, /id/],
  ])('is refused with what is wrong: %o', async (body, message) => {
    const answer = await server.request<{ message: string }>('POST', `/shots/${made.shot}/review`, body);
    expect(answer.status).toBe(422);
    expect(answer.body.message).toMatch(message);
  });
  it('is about no Screen of another shot, and about none once that one is deleted', async () => {
    expect((await add({ ...note, screenId: screen }, other.shot)).status).toBe(404);
    const own = await server.request<{ id: number }>('POST', `/shots/${other.shot}/screens`, recipe);
    const { body } = await add({ ...note, screenId: own.body.id, corner: 0 }, other.shot);
    await server.request('DELETE', `/screens/${own.body.id}`);
    const left = (await review(other.shot)).notes.find((n) => n.id === body.id);
    expect(left).toMatchObject({ screenId: null, words: note.words });
    // What is left of it can still be worked off.
    expect((await server.request('PUT', `/review/${body.id}`, { state: 'done' })).status).toBe(200);
  });
  it('is gone when it is deleted, once', async () => {
    const { body } = await add({ ...note, words: 'Never mind.' });
    expect((await server.request('DELETE', `/review/${body.id}`)).status).toBe(200);
    expect((await server.request('DELETE', `/review/${body.id}`)).status).toBe(404);
    expect((await review()).notes.map((n) => n.words)).not.toContain('Never mind.');
  });
  it('is text and nothing else, whatever it holds', async () => {
    const words = `<img src=x onerror=alert(1)> '; DROP TABLE review_notes; --`;
    const { body } = await add({ ...note, words });
    expect(body.words).toBe(words);
    expect((await review()).notes.map((n) => n.words)).toContain(words);
  });
});

describe('a shot', () => {
  it('stands as somebody says, and the board tells it with the notes that are open', async () => {
    expect((await server.request('PUT', `/shots/${made.shot}/review`, { standing: 'once more' })).body).toMatchObject({
      standing: 'once more',
    });
    expect((await server.request('PUT', `/shots/${made.shot}/review`, { standing: 'fine' })).status).toBe(422);
    const board = await server.request<{ shots: object[] }>('GET', `/productions/${made.production}`);
    const open = (await review()).notes.filter((n) => n.state === 'open').length;
    expect(open).toBeGreaterThan(0);
    expect(board.body.shots).toMatchObject([{ standing: 'once more', openNotes: open }]);
  });
  it('was worked on last when something was said of it last', async () => {
    const recent = async (): Promise<number[]> =>
      (await server.request<{ id: number }[]>('GET', '/shots/recent')).body.map((s) => s.id);
    await add({ ...note, words: 'Here too.' }, other.shot);
    expect((await recent())[0]).toBe(other.shot);
    await add({ ...note, words: 'And here.' });
    expect((await recent())[0]).toBe(made.shot);
  });
  it('keeps how it stands when it is saved, which asks for no newer revision', async () => {
    const { body } = await server.request<{ revision: number }>('GET', `/shots/${made.shot}`);
    await server.request('PUT', `/shots/${made.shot}/review`, { standing: 'approved' });
    const saved = await server.request('PUT', `/shots/${made.shot}`, { revision: body.revision, name: 'Pier' });
    expect(saved).toMatchObject({ status: 200, body: { standing: 'approved', name: 'Pier' } });
  });
  it('takes its notes along into the bin and out again, and for good', async () => {
    const ofAll = async (): Promise<{ shotName: string }[]> =>
      (await server.request<{ shotName: string }[]>('GET', `/productions/${made.production}/review`)).body;
    const before = await ofAll();
    expect(before.length).toBe((await review()).notes.length);
    expect(before[0]!.shotName).toBe('Pier');
    await server.request('DELETE', `/shots/${made.shot}`);
    expect(await ofAll()).toEqual([]);
    expect((await server.request('GET', `/shots/${made.shot}/review`)).status).toBe(410);
    await server.request('POST', `/bin/shot/${made.shot}/out`);
    expect(await ofAll()).toEqual(before);
    await server.request('DELETE', `/shots/${made.shot}`);
    await server.request('DELETE', `/bin/shot/${made.shot}`);
    expect(await server.sql('SELECT id FROM review_notes WHERE shot_id = ?', [made.shot])).toEqual([]);
  });
});
