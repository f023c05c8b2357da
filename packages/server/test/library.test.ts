/** A production's files: which they are, where they are used, what they are called, and one in the place of another. */
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe, variantOf } from './builders/plate';
import { TestServer } from './builders/server';

interface Item {
  readonly hash: string;
  readonly name: string;
  readonly fileName: string;
  readonly tags: readonly string[];
  readonly plateOf: readonly { id: number; name: string }[];
  readonly shownBy: readonly { screen: number; name: string; shot: number; shotName: string }[];
}
interface Screen {
  readonly id: number;
  readonly revision: number;
  readonly recipe: { readonly fill?: { readonly media?: string; readonly made?: { foreground?: { media: string } } } };
}

let server: TestServer;
let made: { production: number; shot: number; hash: string };
let other: { production: number; shot: number; hash: string };
let gold: string;
let blue: string;

async function picture(
  name: string,
  colour: { r: number; g: number; b: number },
  production?: number,
): Promise<string> {
  const bytes = await sharp({ create: { width: 64, height: 40, channels: 3, background: colour } })
    .png()
    .toBuffer();
  const { id: upload } = await server.upload(bytes);
  const body = { upload, fileName: name, ...(production === undefined ? {} : { production }) };
  const { hash } = (await server.request<{ hash: string }>('POST', '/media', body)).body;
  await server.until(
    async () => (await server.request<{ state: string }>('GET', `/media/${hash}`)).body.state === 'ready',
  );
  return hash;
}
async function showing(shot: number, fill: object): Promise<number> {
  return (await server.request<Screen>('POST', `/shots/${shot}/screens`, { ...recipe, fill })).body.id;
}
const libraryOf = async (production: number): Promise<Item[]> =>
  (await server.request<Item[]>('GET', `/productions/${production}/library`)).body;
const screen = async (id: number): Promise<Screen> => (await server.request<Screen>('GET', `/screens/${id}`)).body;

beforeAll(async () => {
  server = await TestServer.create();
  const bytes = await plateBytes(12);
  made = await server.shot(bytes);
  other = await server.shot(variantOf(bytes));
  gold = await picture('gold.png', { r: 230, g: 200, b: 60 }, made.production);
  blue = await picture('blue.png', { r: 40, g: 60, b: 200 }, made.production);
}, 120_000);
afterAll(() => server.dispose());

describe('a production has of all files', () => {
  it('its plates and what was brought in for it, and nothing of another production', async () => {
    const own = await libraryOf(made.production);
    expect(own.map((m) => m.hash).sort()).toEqual([made.hash, gold, blue].sort());
    expect(own.find((m) => m.hash === made.hash)!.plateOf.map((p) => p.id)).toEqual([made.shot]);
    expect((await libraryOf(other.production)).map((m) => m.hash)).toEqual([other.hash]);
    expect((await server.request('GET', '/productions/99999/library')).status).toBe(404);
  });
  it('what its Screens show, told with the Screen, wherever it was brought in', async () => {
    const id = await showing(other.shot, { media: gold });
    const [item] = (await libraryOf(other.production)).filter((m) => m.hash === gold);
    expect(item!.shownBy).toMatchObject([{ screen: id, shot: other.shot }]);
    const own = (await libraryOf(made.production)).find((m) => m.hash === gold)!;
    expect(own.shownBy).toEqual([]);
  });
});

describe('a file', () => {
  it('is called otherwise and tagged, and keeps the name that it came with', async () => {
    const path = `/media/${blue}`;
    expect(
      (await server.request('PUT', path, { name: 'harbour at night', tags: ['night', 'map', 'night'] })).status,
    ).toBe(200);
    const item = (await libraryOf(made.production)).find((m) => m.hash === blue)!;
    expect(item).toMatchObject({ name: 'harbour at night', fileName: 'blue.png', tags: ['night', 'map'] });
    await server.request('PUT', path, { tags: [] });
    expect((await server.request<Item>('GET', path)).body).toMatchObject({ name: 'harbour at night', tags: [] });
  });
  it('is not called nothing, and a tag holds no comma: each is said', async () => {
    for (const body of [{ name: '' }, { tags: ['a,b'] }, { tags: 'night' }, { hash: gold }])
      expect((await server.request('PUT', `/media/${blue}`, body)).status).toBe(422);
    expect((await server.request('PUT', `/media/${'0'.repeat(64)}`, { name: 'x' })).status).toBe(404);
  });
});

describe('one file in the place of another', () => {
  it('is on every Screen of the production, in its slot and before it, as a step that can be taken back', async () => {
    const plain = await showing(made.shot, { media: gold });
    const before = { ground: [0, 0, 0], lines: [], foreground: { media: gold } };
    const layered = await showing(made.shot, { media: blue, made: before });
    const elsewhere = (await libraryOf(other.production)).find((m) => m.hash === gold)!.shownBy[0]!.screen;
    const { status, body } = await server.request<{ screens: { id: number; revision: number }[] }>(
      'POST',
      `/productions/${made.production}/replace`,
      { from: gold, to: blue },
    );
    expect(status).toBe(200);
    expect(body.screens).toEqual([
      { id: plain, revision: 1 },
      { id: layered, revision: 1 },
    ]);
    expect((await screen(plain)).recipe.fill).toEqual({ media: blue });
    expect((await screen(layered)).recipe.fill).toMatchObject({ media: blue, made: { foreground: { media: blue } } });
    expect((await screen(elsewhere)).recipe.fill).toEqual({ media: gold });
    const revisions = await server.request<{ step: string }[]>('GET', `/screens/${plain}/revisions`);
    expect(revisions.body[0]!.step).toBe('Replace "gold.png"');
  });
  it('is in the layers of what is made up, where the library tells it too', async () => {
    const layers = [
      { kind: 'picture', media: gold, size: 1 },
      { kind: 'words', text: 'Ebb' },
    ];
    const id = await showing(made.shot, { made: { ground: [0, 0, 0], layers } });
    const showers = async (hash: string): Promise<number[]> =>
      (await libraryOf(made.production)).find((m) => m.hash === hash)!.shownBy.map((s) => s.screen);
    expect(await showers(gold)).toContain(id);
    await server.request('POST', `/productions/${made.production}/replace`, { from: gold, to: blue });
    expect((await screen(id)).recipe.fill).toMatchObject({ made: { layers: [{ media: blue }, { text: 'Ebb' }] } });
    expect(await showers(blue)).toContain(id);
  });
  it('must be there', async () => {
    const path = `/productions/${made.production}/replace`;
    expect((await server.request('POST', path, { from: blue, to: '0'.repeat(64) })).status).toBe(404);
    expect((await server.request('POST', '/productions/99999/replace', { from: blue, to: gold })).status).toBe(404);
  });
});

describe('names', () => {
  it('of productions and shots are changed; a shot that was saved elsewhere meanwhile is not', async () => {
    await server.request('PUT', `/productions/${made.production}`, { name: 'Quay at Dusk' });
    const board = await server.request<{ name: string; shots: { revision: number; name: string }[] }>(
      'GET',
      `/productions/${made.production}`,
    );
    expect(board.body.name).toBe('Quay at Dusk');
    const { revision } = board.body.shots[0]!;
    const path = `/shots/${made.shot}`;
    expect((await server.request<{ name: string }>('PUT', path, { revision, name: 'qd_010' })).body.name).toBe(
      'qd_010',
    );
    expect((await server.request('PUT', path, { revision, name: 'qd_020' })).status).toBe(409);
    // What is changed beside the name leaves it.
    const kept = await server.request<{ name: string }>('PUT', path, { revision: revision + 1, workingRange: [0, 5] });
    expect(kept.body.name).toBe('qd_010');
    expect((await server.request('PUT', '/productions/99999', { name: 'x' })).status).toBe(404);
  });
});

describe('what was worked on last', () => {
  it('comes first, and what lies in the bin does not come', async () => {
    const recent = async (): Promise<number[]> =>
      (await server.request<{ id: number }[]>('GET', '/shots/recent')).body.map((s) => s.id);
    await showing(other.shot, { media: blue });
    expect((await recent()).slice(0, 2)).toEqual([other.shot, made.shot]);
    const id = await showing(made.shot, { media: blue });
    expect((await recent()).slice(0, 2)).toEqual([made.shot, other.shot]);
    expect((await screen(id)).revision).toBe(1);
    await server.request('DELETE', `/shots/${made.shot}`);
    expect(await recent()).not.toContain(made.shot);
    await server.request('POST', `/bin/shot/${made.shot}/out`);
    expect((await recent())[0]).toBe(made.shot);
  });
});
