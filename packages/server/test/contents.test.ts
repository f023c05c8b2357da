/** Made-up content as documents: kept, changed, and brought to the Screens that show it. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';

interface Content {
  readonly id: number;
  readonly name: string;
  readonly revision: number;
  readonly document: { readonly layers?: readonly object[] };
  readonly shownBy: readonly { readonly screen: number; readonly shot: number; readonly revision: number }[];
}
interface Screen {
  readonly id: number;
  readonly revision: number;
  readonly recipe: { readonly fill?: object };
}

let server: TestServer;
let made: { production: number; shot: number; hash: string };
const words = (text: string): object => ({ kind: 'words', text, size: 0.2 });
const document = { ground: [0.1, 0.2, 0.3], proportions: 1.5, layers: [words('Ebb')] };

const add = async (body: object = { name: 'Tide board', document }): Promise<Content> =>
  (await server.request<Content>('POST', `/productions/${made.production}/contents`, body)).body;
const find = async (id: number): Promise<Content> => (await server.request<Content>('GET', `/contents/${id}`)).body;
const change = (id: number, body: object) => server.request<Content & { code: string }>('PUT', `/contents/${id}`, body);
async function showing({ id, revision, document: shown }: Content): Promise<Screen> {
  const fill = { made: shown, content: { id, revision } };
  return (await server.request<Screen>('POST', `/shots/${made.shot}/screens`, { ...recipe, fill })).body;
}
const screen = async (id: number): Promise<Screen> => (await server.request<Screen>('GET', `/screens/${id}`)).body;

beforeAll(async () => {
  server = await TestServer.create();
  made = await server.shot(await plateBytes(12));
}, 120_000);
afterAll(() => server.dispose());

describe('a document', () => {
  it('is kept as it was sent, with its name, in its production alone', async () => {
    const content = await add();
    expect(content).toMatchObject({ name: 'Tide board', revision: 1, document, shownBy: [] });
    const list = await server.request<Content[]>('GET', `/productions/${made.production}/contents`);
    expect(list.body.map((c) => c.id)).toContain(content.id);
    expect((await server.request('GET', '/productions/99999/contents')).status).toBe(404);
    expect((await server.request('GET', '/contents/99999')).status).toBe(404);
  });

  it('changes in what is sent, from the revision that it is at, and from no other', async () => {
    const { id } = await add();
    expect((await change(id, { revision: 1, name: 'High water' })).body).toMatchObject({
      name: 'High water',
      revision: 2,
      document,
    });
    const next = { ...document, layers: [words('Flood')] };
    expect((await change(id, { revision: 2, document: next })).body).toMatchObject({ revision: 3, document: next });
    const stale = await change(id, { revision: 2, document });
    expect(stale).toMatchObject({ status: 409, body: { code: 'stale' } });
    expect((await find(id)).document).toEqual(next);
  });

  it.each([
    [{ name: '', document }],
    [{ name: 'x', document: { layers: [] } }],
    [{ name: 'x', document: { ground: [0, 0, 0], layers: [{ kind: 'piece', piece: 'parrot' }] } }],
    [{ name: 'x', document: { ground: [0, 0, 0], layers: [{ kind: 'words', text: 'a', sizes: 2 }] } }],
    [{ name: 'x', document: { ground: [0, 0, 0], layers: [{ kind: 'picture', media: '../x' }] } }],
  ])('is refused where it is none: %j', async (body) => {
    expect((await server.request('POST', `/productions/${made.production}/contents`, body)).status).toBe(422);
  });
});

describe('Screens that show it', () => {
  it('are told, and follow when they are asked to, each by a step that can be taken back', async () => {
    const content = await add();
    const [one, two] = [await showing(content), await showing(content)];
    expect((await find(content.id)).shownBy).toMatchObject([
      { screen: one.id, shot: made.shot, revision: 1 },
      { screen: two.id, shot: made.shot, revision: 1 },
    ]);
    const next = { ...document, layers: [words('Ebb'), { kind: 'piece', piece: 'clock', amount: 60 }] };
    await change(content.id, { revision: 1, document: next });
    // Nothing changes on a Screen before that.
    expect((await screen(one.id)).revision).toBe(1);
    const shown = await server.request<{ screens: object[] }>('POST', `/contents/${content.id}/show`);
    expect(shown.body.screens).toEqual([one, two].map(({ id }) => ({ id, revision: 1 })));
    for (const { id } of [one, two])
      expect(await screen(id)).toMatchObject({
        revision: 2,
        recipe: { fill: { made: next, content: { id: content.id, revision: 2 } } },
      });
    const revisions = await server.request<{ step: string }[]>('GET', `/screens/${one.id}/revisions`);
    expect(revisions.body[0]!.step).toBe('Show "Tide board"');
    // Once more changes nothing.
    expect((await server.request<{ screens: object[] }>('POST', `/contents/${content.id}/show`)).body.screens).toEqual(
      [],
    );
  });

  it('keep what they show when it is deleted', async () => {
    const content = await add();
    const { id } = await showing(content);
    expect((await server.request('DELETE', `/contents/${content.id}`)).status).toBe(200);
    expect((await server.request('GET', `/contents/${content.id}`)).status).toBe(404);
    expect((await screen(id)).recipe.fill).toMatchObject({ made: document });
  });
});
