import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plateBytes, recipe } from './builders/plate';
import { TestServer } from './builders/server';

const CUBE = 'LUT_3D_SIZE 2\n1 1 1\n0 1 1\n1 0 1\n0 0 1\n1 1 0\n0 1 0\n1 0 0\n0 0 0\n';

describe('colour and depth of a shot', () => {
  let server: TestServer;
  let shot: number;
  interface Shot {
    readonly revision: number;
    readonly colour: object | null;
    readonly probe: { readonly colour: { readonly transfer: string | null; readonly primaries: string | null } };
    readonly screens: { readonly id: number }[];
  }
  const state = async (): Promise<Shot> => (await server.request<Shot>('GET', `/shots/${shot}`)).body;
  beforeAll(async () => {
    server = await TestServer.create();
    shot = (await server.shot(await plateBytes(6))).shot;
  });
  afterAll(() => server.dispose());

  it('of the plate is set by hand before its tags, and goes back to them', async () => {
    const before = await state();
    const set = await server.request<Shot>('PUT', `/shots/${shot}`, {
      revision: before.revision,
      colour: { transfer: 'linear', primaries: 'bt2020' },
    });
    expect(set.body.probe.colour).toMatchObject({ transfer: 'linear', primaries: 'bt2020' });
    expect((await state()).probe.colour.transfer).toBe('linear');
    expect(
      (
        await server.request('PUT', `/shots/${shot}`, {
          revision: set.body.revision,
          colour: { transfer: 'log of somebody' },
        })
      ).status,
    ).toBe(422);
    await server.request('PUT', `/shots/${shot}`, { revision: set.body.revision, colour: {} });
    expect((await state()).probe.colour).toEqual(before.probe.colour);
  });
  it('keeps colour tables, and refuses broken ones with the line', async () => {
    const post = async (body: string): Promise<{ status: number; body: { hash?: string; message?: string } }> => {
      const r = await fetch(`${server.url}/api/tables?name=turn.cube`, {
        method: 'POST',
        body,
        headers: { 'Content-Type': 'text/plain' },
      });
      return { status: r.status, body: (await r.json()) as { hash?: string } };
    };
    const { status, body } = await post(CUBE);
    expect(status).toBe(201);
    expect(await (await fetch(`${server.url}/api/tables/${body.hash}.cube`)).text()).toBe(CUBE);
    expect((await server.request<{ name: string }[]>('GET', '/tables')).body).toEqual([
      { hash: body.hash, name: 'turn.cube' },
    ]);
    expect((await post('LUT_3D_SIZE 2\n0 0 x\n')).body.message).toMatch(/line 2/);
    expect((await post('')).status).toBe(422);
  });
  it('orders Screens from back to front, whole or not at all', async () => {
    for (const name of ['one', 'two', 'three'])
      await server.request('POST', `/shots/${shot}/screens`, { ...recipe, name, referenceFrame: 2 });
    const ids = (await state()).screens.map((s) => s.id);
    const turned = [ids[2]!, ids[0]!, ids[1]!];
    expect((await server.request('PUT', `/shots/${shot}/depth`, { screens: turned })).status).toBe(200);
    expect((await state()).screens.map((s) => s.id)).toEqual(turned);
    expect((await server.request('PUT', `/shots/${shot}/depth`, { screens: ids.slice(1) })).status).toBe(422);
    expect((await state()).screens.map((s) => s.id)).toEqual(turned);
  });
});
