/** An installation with accounts: who is let in, how, and what each may do. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Access, RouteName } from '../../contracts/src/routes';
import { ROUTES } from '../../contracts/src/routes';
import { hashToken, newToken } from '../src/use-cases/passwords';
import { TestServer, WITH_ACCOUNTS } from './builders/server';

const ADA = { name: 'Ada Quill', password: 'barnacle-lantern-9' };
const ODILE = { name: 'Odile Brack', password: 'slack-water-at-ten' };
const ALL = Object.keys(ROUTES) as RouteName[];

let server: TestServer;
/** cookies */
let ada: string;
let odile: string;
let odileId: number;
/** what the terminal said at first */
let first: string;

/** An address of the route that leads to nothing that is there. */
function addressOf(route: RouteName): { method: string; path: string } {
  const [method, pattern] = route.split(' ') as [string, string];
  const path = pattern.replace(':hash', 'a'.repeat(64)).replace(':kind', 'shot').replace(/:\w+/g, '999999');
  return { method, path };
}

const accessTo = (route: RouteName): Access => (ROUTES[route] as { access?: Access }).access ?? 'person';
const asked = (route: RouteName, cookie?: string) => {
  const { method, path } = addressOf(route);
  const body = method === 'POST' || method === 'PUT' ? {} : undefined;
  return server.request<{ code?: string; message?: string } | null>(method, path, body, cookie);
};

/** One that stands in the tables alone. */
async function someShot(): Promise<number> {
  const production = await server.request<{ id: number }>('POST', '/productions', { name: 'Tidewater' }, odile);
  expect(production.status).toBe(201);
  const hash = 'c'.repeat(64);
  await server.sql(
    `INSERT INTO media (hash, name, source, probe, notes, frame_count, state)
     VALUES ('${hash}', 'quay.mp4', '{}', '{}', '[]', 24, 'ready')`,
  );
  await server.sql(
    `INSERT INTO shots (production_id, name, media_hash, range_from, range_to) VALUES (${production.body.id}, 'Quay', '${hash}', 0, 23)`,
  );
  return (await server.sql<{ id: number }>('SELECT id FROM shots'))[0]!.id;
}

beforeAll(async () => {
  server = await TestServer.create({ YARLOP_STUDIO: '1' });
  expect(server.said).toContain(`http://localhost:${server.port}/join#`);
  first = server.firstLink!;
  ada = await server.signedIn('/invitations', { token: first, ...ADA });
  const { body } = await server.request<{ token: string; person: { id: number } }>(
    'POST',
    '/people',
    { name: 'Odile', isAdmin: false },
    ada,
  );
  odileId = body.person.id;
  odile = await server.signedIn('/invitations', { token: body.token, ...ODILE });
});
afterAll(() => server.dispose());

describe('a stranger', () => {
  it('is asked to sign in by every route but those that let people in, and learns nothing', async () => {
    const open = ALL.filter((r) => accessTo(r) === 'anyone');
    expect(open).toEqual(['GET /me', 'POST /sign-in', 'POST /invitations/look', 'POST /invitations', 'GET /health']);
    for (const route of ALL.filter((r) => !open.includes(r))) {
      const { status, body } = await asked(route);
      expect([route, status, body!.code]).toEqual([route, 401, 'sign-in']);
    }
  });
  it.each([
    ['GET', '/api/events'],
    ['POST', '/api/uploads'],
    ['GET', `/api/media/${'a'.repeat(64)}/frames/0.png`],
    ['GET', '/api/deliveries/1/file'],
    ['GET', '/api/openapi.json'],
    ['GET', '/metrics'],
    ['GET', '/Metrics/'],
    ['GET', '/API/People'],
    ['GET', '/api/people/'],
    ['GET', '/api/health/../people'],
    ['GET', '/api/nothing-of-the-kind'],
  ])('is asked to sign in for what is no route of the list: %s %s', async (method, path) => {
    const { status, text } = await server.raw(method, path, { host: `127.0.0.1:${server.port}` });
    expect([status, text.includes('Sign in first')]).toEqual([401, true]);
  });
  it('gets the page itself, on which one signs in', async () => {
    expect((await server.raw('GET', '/sign-in', { host: `127.0.0.1:${server.port}` })).text).toContain(
      '<div id="app">',
    );
  });
  it('with a token that is none, or an older one, is a stranger', async () => {
    for (const token of ['', 'nothing', newToken(), hashToken(odile.split('=')[1]!)])
      expect((await server.request('GET', '/productions', undefined, `yarlop_signed_in=${token}`)).status).toBe(401);
  });
});

describe('somebody who is signed in', () => {
  it('may ask for all but what only administrators may, however it is spelt', async () => {
    const leaves = ['POST /sign-out', 'POST /sign-out/everywhere'];
    for (const route of ALL.filter((r) => !leaves.includes(r))) {
      const { status } = await asked(route, odile);
      const isBarred = accessTo(route) === 'admin';
      expect([route, status === 403, status === 401]).toEqual([route, isBarred, false]);
    }
    for (const path of ['/api/PEOPLE', '/api/people/', '/API/People/']) {
      const headers = { host: `127.0.0.1:${server.port}`, cookie: odile };
      expect((await server.raw('GET', path, headers)).status).toBe(403);
    }
    expect((await server.request('GET', '/productions', undefined, odile)).status).toBe(200);
    expect((await server.request('GET', '/people', undefined, ada)).status).toBe(200);
  });
  it('is told as who, by a cookie that no script and no other site gets', async () => {
    const { body } = await server.request('GET', '/me', undefined, odile);
    expect(body).toEqual({ isStudio: true, person: { id: odileId, name: ODILE.name, isAdmin: false } });
    const answer = await fetch(`${server.url}/api/sign-in`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(ODILE),
    });
    const given = answer.headers.getSetCookie().find((c) => c.startsWith('yarlop_signed_in='))!;
    expect(given).toMatch(/; HttpOnly; SameSite=Strict/);
    expect(given).not.toContain('Secure');
  });
  it('gets a token of their own, whatever the browser brought', async () => {
    const planted = newToken();
    const answer = await fetch(`${server.url}/api/sign-in`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', cookie: `yarlop_signed_in=${planted}` },
      body: JSON.stringify(ODILE),
    });
    expect(answer.headers.getSetCookie().join()).not.toContain(planted);
    expect((await server.request('GET', '/me', undefined, `yarlop_signed_in=${planted}`)).body['person']).toBeNull();
  });
  it('is the author of their notes, whatever the request says', async () => {
    const shot = await someShot();
    const said = { from: 0, to: 0, words: 'Softer.', author: 'Somebody Else' };
    const { body } = await server.request('POST', `/shots/${shot}/review`, said, odile);
    expect(body['author']).toBe(ODILE.name);
  });
  it('signs out here, or everywhere, where streams of events end too', async () => {
    const [here, there] = [await server.signedIn('/sign-in', ODILE), await server.signedIn('/sign-in', ODILE)];
    await server.request('POST', '/sign-out', undefined, here);
    expect((await server.request('GET', '/jobs', undefined, here)).status).toBe(401);
    expect((await server.request('GET', '/jobs', undefined, there)).status).toBe(200);
    const stream = await fetch(`${server.url}/api/events`, { headers: { cookie: there } });
    const ended = stream.text().then(
      () => 'ended',
      () => 'ended',
    );
    await server.request('POST', '/sign-out/everywhere', undefined, there);
    expect(await ended).toBe('ended');
    for (const cookie of [there, odile])
      expect((await server.request('GET', '/jobs', undefined, cookie)).status).toBe(401);
    odile = await server.signedIn('/sign-in', ODILE);
  });
  it('changes the password, which signs out all other browsers', async () => {
    const other = await server.signedIn('/sign-in', ODILE);
    const wrong = { before: 'not that one', after: 'a-quite-new-one' };
    expect((await server.request('PUT', '/me/password', wrong, odile)).status).toBe(422);
    const short = await server.request('PUT', '/me/password', { before: ODILE.password, after: 'short' }, odile);
    expect(short.status).toBe(422);
    const after = 'neap-tide-at-noon';
    expect((await server.request('PUT', '/me/password', { before: ODILE.password, after }, odile)).status).toBe(200);
    expect((await server.request('GET', '/jobs', undefined, other)).status).toBe(401);
    expect((await server.request('POST', '/sign-in', ODILE)).status).toBe(401);
    odile = await server.signedIn('/sign-in', { name: ODILE.name, password: after });
    const back = { before: after, after: ODILE.password };
    expect((await server.request('PUT', '/me/password', back, odile)).status).toBe(200);
    odile = await server.signedIn('/sign-in', ODILE);
  });
});

describe('a link', () => {
  it('serves once, and the first one is not made again once somebody is there', async () => {
    const again = await server.request('POST', '/invitations', { token: first, name: 'Eve', password: 'x'.repeat(12) });
    expect([again.status, again.body['code']]).toEqual([410, 'gone']);
    expect((await server.request('POST', '/invitations/look', { token: first })).status).toBe(410);
    await server.kill('SIGTERM');
    await server.start();
    expect(server.said).not.toContain('/join#');
    // Who was signed in still is.
    expect((await server.request('GET', '/productions', undefined, odile)).status).toBe(200);
  });
  it('tells whom it is for; two who take it at once do not both get in; a newer one replaces it', async () => {
    const invited = await server.request<{ token: string; person: { id: number } }>(
      'POST',
      '/people',
      { name: 'Ebb Marrow', isAdmin: false },
      ada,
    );
    const look = { token: invited.body.token };
    expect((await server.request('POST', '/invitations/look', look)).body).toEqual({ name: 'Ebb Marrow' });
    const { id } = invited.body.person;
    const newer = await server.request<{ token: string }>('POST', `/people/${id}/link`, undefined, ada);
    expect((await server.request('POST', '/invitations/look', look)).status).toBe(410);
    const join = { token: newer.body.token, name: 'Ebb Marrow', password: 'spring-tide-1' };
    const both = await Promise.all([1, 2, 3].map(() => server.request('POST', '/invitations', join)));
    expect(both.map((b) => b.status).sort()).toEqual([200, 410, 410]);
  });
  it('runs out', async () => {
    const { body } = await server.request<{ token: string }>('POST', '/people', { name: 'Late', isAdmin: false }, ada);
    await server.sql(`UPDATE invitations SET expires = '2020-01-01' WHERE token_hash = '${hashToken(body.token)}'`);
    expect((await server.request('POST', '/invitations/look', { token: body.token })).status).toBe(410);
  });
  it('does not give a name that somebody has', async () => {
    const { status, body } = await server.request('POST', '/people', { name: 'ada quill', isAdmin: false }, ada);
    expect([status, body['code']]).toEqual([409, 'taken']);
  });
});

describe('an administrator', () => {
  it('shuts somebody out at once, and lets them in again', async () => {
    const shut = await server.request('PUT', `/people/${odileId}`, { isShut: true }, ada);
    expect(shut.body).toMatchObject({ name: ODILE.name, isShut: true });
    expect((await server.request('GET', '/productions', undefined, odile)).status).toBe(401);
    expect((await server.request('POST', '/sign-in', ODILE)).status).toBe(401);
    expect((await server.request('POST', `/people/${odileId}/link`, undefined, ada)).status).toBe(409);
    await server.request('PUT', `/people/${odileId}`, { isShut: false }, ada);
    odile = await server.signedIn('/sign-in', ODILE);
  });
  it('cannot step down as the last one', async () => {
    const all = await server.request<{ id: number; name: string }[]>('GET', '/people', undefined, ada);
    const { id } = all.body.find((p) => p.name === ADA.name)!;
    for (const part of [{ isAdmin: false }, { isShut: true }])
      expect((await server.request('PUT', `/people/${id}`, part, ada)).body['code']).toBe('last');
    // An administrator who has not come yet cannot let anybody in.
    await server.request('POST', '/people', { name: 'Not Yet', isAdmin: true }, ada);
    expect((await server.request('PUT', `/people/${id}`, { isAdmin: false }, ada)).body['code']).toBe('last');
    await server.request('PUT', `/people/${odileId}`, { isAdmin: true }, ada);
    expect((await server.request('PUT', `/people/${id}`, { isAdmin: false }, ada)).status).toBe(200);
    expect((await server.request('PUT', `/people/${id}`, { isAdmin: true }, odile)).status).toBe(200);
    await server.request('PUT', `/people/${odileId}`, { isAdmin: false }, ada);
  });
});

describe('guessing', () => {
  it('is answered alike whether the person exists or not, and ends after ten tries of a name', async () => {
    const tries = async (name: string): Promise<unknown[]> => {
      const out: unknown[] = [];
      for (let i = 0; i < 11; i++) {
        const { status, body } = await server.request('POST', '/sign-in', { name, password: `guess ${i}` });
        out.push([status, body['message']]);
      }
      return out;
    };
    const [real, made] = [await tries('Ebb Marrow'), await tries('Nobody Here')];
    expect(real).toEqual(made);
    expect(real.slice(0, 10).every((r) => (r as [number])[0] === 401)).toBe(true);
    expect((real[10] as [number])[0]).toBe(429);
    // Another's name is not locked by it.
    await server.signedIn('/sign-in', ODILE);
  });
  it('of what the tables hold is of no use: no password and no token stands there', async () => {
    const rows = JSON.stringify([
      await server.sql('SELECT * FROM people'),
      await server.sql('SELECT * FROM sign_ins'),
      await server.sql('SELECT * FROM invitations'),
    ]);
    for (const secret of [ADA.password, ODILE.password, ada.split('=')[1]!, odile.split('=')[1]!, first])
      expect(rows).not.toContain(secret);
    expect(rows).toContain('$argon2id$v=19$m=19456,t=2,p=1$');
  });
});

describe('an installation without accounts', () => {
  it('lets whoever reaches the machine work, and says how accounts are had', async () => {
    const plain = await TestServer.create();
    expect((await plain.request('GET', '/me')).body).toEqual({ isStudio: false, person: null });
    expect((await plain.request('GET', '/productions')).status).toBe(200);
    const { status, body } = await plain.request('POST', '/sign-in', ADA);
    expect([status, body['code']]).toEqual([404, 'no-accounts']);
    expect(plain.said).not.toContain('/join#');
    await plain.dispose();
  });
});

describe('every route of people', () => {
  it('was answered as its contract has it', () => {
    expect(ALL.filter((r) => WITH_ACCOUNTS.test(r) && !server.answered.has(r))).toEqual([]);
  });
});
