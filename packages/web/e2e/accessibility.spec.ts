/** What assistive programs would stumble over, on every kind of page, by axe. */
import { STAGES } from '../src/stages';
import type { World } from './fixture';
import { test } from './fixture';
import { isSound } from './sound';

/** Made-up content with a layer of each kind but pictures. */
async function content(server: World['server'], production: number): Promise<number> {
  const layers = [{ kind: 'words', text: 'Ebb' }, { kind: 'shape', shape: 'oval' }, { kind: 'piece', piece: 'chat' }]; // prettier-ignore
  const document = { ground: [0, 0.1, 0.2], layers };
  const made = await server.request<{ id: number }>('POST', `/productions/${production}/contents`, {
    name: 'Tide',
    document,
  });
  return made.body.id;
}

test('no page has a serious fault of accessibility, in either theme', async ({ page, world }) => {
  const { server, ids } = world;
  for (const path of [
    '/',
    '/space',
    `/productions/${ids.production}`,
    `/productions/${ids.production}/library`,
    `/contents/${await content(server, ids.production)}`,
    ...STAGES.map((s) => `/shots/${ids.shot}/${s}`),
  ]) {
    await page.goto(server.url + path);
    await page
      .locator(path.startsWith('/shots') ? '[data-test="picture"][data-lossless="true"]' : 'h1')
      .first()
      .waitFor();
    await isSound(page, path);
  }
});
