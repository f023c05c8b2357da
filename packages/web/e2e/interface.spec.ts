import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { STAGES } from '../src/stages';
import { PIN, plateBytes, recipe } from '../../server/test/builders/plate';
import { expect, isSaved, onPicture, settled, test } from './fixture';

test('at 1280x680 the picture keeps 900x500 in every stage, and a change of stage keeps frame and zoom', async ({
  page,
  world,
}) => {
  await page.setViewportSize({ width: 1280, height: 680 });
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('c');
  for (const s of STAGES) {
    await page.getByTestId(`stage-${s}`).click();
    const box = (await page.getByTestId('picture').boundingBox())!;
    expect(box.width).toBeGreaterThanOrEqual(900);
    expect(box.height).toBeGreaterThanOrEqual(500);
    await expect(page.getByTestId('frame')).toHaveText('10');
    expect(Number(await page.getByTestId('picture').getAttribute('data-zoom'))).toBe(4);
  }
});

test('zooms at the pointer, pans, fits, and reads pixels out', async ({ page, world }) => {
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  const [x, y] = await onPicture(page, 320, 200);
  const near = async (): Promise<string> => (await page.getByTestId('readout').textContent())!;
  await page.mouse.move(x, y);
  expect(await near()).toMatch(/x 3(19|20)\.\d {2}y (199|200)\.\d {3}R \d+ G \d+ B \d+/);
  await page.mouse.wheel(0, -600);
  await page.mouse.move(x + 1, y);
  expect(await near()).toMatch(/x 320\.\d/);
  await page.keyboard.down('Space');
  await page.mouse.down();
  await page.mouse.move(x + 100, y, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Space');
  await expect(page.getByTestId('play')).toHaveAttribute('aria-label', 'Play');
  await page.mouse.move(x + 101, y);
  expect(await near()).toMatch(/x 320\.\d/);
  await page.keyboard.press('z');
  await page.mouse.move(x, y);
  expect(await near()).toMatch(/x 3(19|20)\.\d/);
});

test('the working range is set at the playhead and kept', async ({ page, world }) => {
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  await page.keyboard.press('End');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('o');
  await expect(page.getByTestId('range')).toContainText('0 to 22');
  await page.reload();
  await expect(page.getByTestId('range')).toContainText('0 to 22');
  await page.getByRole('button', { name: 'Whole clip' }).click();
  await expect(page.getByTestId('range')).toContainText('0 to 23');
});

test('a corner is dragged in the picture, saved by itself, and undone', async ({ page, world }) => {
  const { server, ids } = world;
  await page.goto(`${server.url}/shots/${ids.shot}/pin`);
  await page.getByTestId(`chip-${ids.screen}`).click();
  await page.getByRole('button', { name: 'Go to the reference frame' }).click();
  await settled(page, 8);
  const value = async (): Promise<number> => Number(await page.getByTestId('BR-x').inputValue());
  const before = await value();
  const [x, y] = await page
    .getByTestId('corner-BR')
    .boundingBox()
    .then((b) => [b!.x + b!.width / 2, b!.y + b!.height / 2] as const);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 15, y, { steps: 5 });
  await page.mouse.up();
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  expect((await value()) - before).toBeCloseTo(15 / zoom, 1);
  await isSaved(page);
  expect(
    (await server.request<{ recipe: { pin: number[][] } }>('GET', `/screens/${ids.screen}`)).body.recipe.pin[2]![0]! -
      before,
  ).toBeCloseTo(15 / zoom, 1);
  await page.getByTestId('undo').click();
  expect(await value()).toBeCloseTo(before, 2);
  await isSaved(page);
});

test('rough corners are laid onto the glass by one key, as one step, and made larger by a pixel', async ({
  page,
  world,
}) => {
  const { server } = world;
  const made = await server.shot(await plateBytes(12, 0, true));
  const rough = PIN.map(([x, y], i) => [x + [2, -2, 1.5, -1][i]!, y + [-1.5, 1, 2, -2][i]!]);
  const { body } = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, {
    ...recipe,
    name: 'rough',
    pin: rough,
  });
  await page.goto(`${server.url}/shots/${made.shot}/pin`);
  await page.getByTestId(`chip-${body.id}`).click();
  await page.getByRole('button', { name: 'Go to the reference frame' }).click();
  await settled(page, 8);
  await expect(page.getByTestId('corner-board').locator('canvas')).toHaveCount(4);
  await page.keyboard.press('g');
  await expect(page.getByTestId('side-found-0')).toContainText('scatter');
  const corner = async (n: string): Promise<[number, number]> => [
    Number(await page.getByTestId(`${n}-x`).inputValue()),
    Number(await page.getByTestId(`${n}-y`).inputValue()),
  ];
  const [x, y] = await corner('TL');
  expect(Math.hypot(x - PIN[0][0], y - PIN[0][1])).toBeLessThan(0.4);
  await page.getByTestId('enlarge').click();
  const [lx, ly] = await corner('TL');
  expect(Math.hypot(lx - x, ly - y)).toBeGreaterThan(1.2);
  await page.getByTestId('undo').click();
  await page.getByTestId('undo').click();
  expect((await corner('TL'))[0]).toBeCloseTo(rough[0]![0]!, 2);
  await isSaved(page);
  await server.request('DELETE', `/screens/${body.id}`);
});

test('two tabs: a clash is shown and nothing is overwritten until the person says so', async ({ page, world }) => {
  const { server, ids } = world;
  const now = (await server.request<{ revision: number; recipe: { pin: number[][] } }>('GET', `/screens/${ids.screen}`))
    .body;
  await page.goto(`${server.url}/shots/${ids.shot}/pin`);
  await page.getByTestId(`chip-${ids.screen}`).click();
  await settled(page, 0);
  await server.request('PUT', `/screens/${ids.screen}`, {
    revision: now.revision,
    recipe: { ...now.recipe, name: 'renamed elsewhere' },
  });
  await page.getByTestId('TR-y').fill('121');
  await page.getByTestId('TR-y').press('Tab');
  await expect(page.getByTestId('keep-mine')).toBeVisible();
  expect((await server.request<{ recipe: { name: string } }>('GET', `/screens/${ids.screen}`)).body.recipe.name).toBe(
    'renamed elsewhere',
  );
  await page.getByTestId('take-theirs').click();
  await expect(page.getByTestId(`chip-${ids.screen}`)).toContainText('renamed elsewhere');
});

test('edits made while the server is away are kept and saved when it is back', async ({ page, world }) => {
  const { server, ids } = world;
  await page.goto(`${server.url}/shots/${ids.shot}/pin`);
  await page.getByTestId(`chip-${ids.screen}`).click();
  await settled(page, 0);
  await server.kill();
  await page.getByTestId('BL-y').fill('266.5');
  await page.getByTestId('BL-y').press('Tab');
  await expect(page.getByTestId('save-state')).toHaveText('Not saved yet, trying again', { timeout: 10_000 });
  await expect(page.getByTestId('server-gone')).toContainText('is kept in this browser');
  await server.start();
  await expect(page.getByTestId('save-state')).toHaveText('Saved', { timeout: 20_000 });
  await expect(page.getByTestId('server-gone')).toHaveCount(0);
  expect(
    (await server.request<{ recipe: { pin: number[][] } }>('GET', `/screens/${ids.screen}`)).body.recipe.pin[3]![1],
  ).toBe(266.5);
});

test('a file that is no plate is refused with a sentence, and the board stays usable', async ({ page, world }) => {
  const { server, ids, folder } = world;
  const path = join(folder, 'letter.mp4');
  await writeFile(path, 'dear harbour master '.repeat(200));
  await page.goto(`${server.url}/productions/${ids.production}`);
  const chooser = page.waitForEvent('filechooser');
  await page.getByTestId('choose-files').click();
  await (await chooser).setFiles(path);
  await expect(page.getByTestId('upload-problem')).toContainText('"letter.mp4" holds no pictures that can be read');
  await expect(page.getByTestId('choose-files')).toBeVisible();
});

test('a Screen is deleted after a question, which has the keys to itself', async ({ page, world }) => {
  const { server, ids } = world;
  const doomed = { ...recipe, name: 'mistaken phone' };
  const { body } = await server.request<{ id: number }>('POST', `/shots/${ids.shot}/screens`, doomed);
  await page.goto(`${server.url}/shots/${ids.shot}/pin`);
  await settled(page, 0);
  const chip = page.getByRole('button', { name: 'mistaken phone' });
  await chip.click();
  await page.getByText('This Screen', { exact: true }).click();
  const question = page.getByRole('dialog', { name: 'Delete the Screen "mistaken phone"?' });
  await page.getByTestId('delete-screen').click();
  await expect(question).toBeFocused();
  // The keys of the page are not those of the question: this one would step to the next frame.
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('frame')).toHaveText('0');
  await page.keyboard.press('Escape');
  await expect(question).toHaveCount(0);
  expect((await server.request('GET', `/screens/${body.id}`)).status).toBe(200);
  await page.getByTestId('delete-screen').click();
  await question.getByRole('button', { name: 'Delete the Screen' }).click();
  await expect(chip).toHaveCount(0);
  expect((await server.request('GET', `/screens/${body.id}`)).status).toBe(404);
});

test('help lists every key, can be searched, and does what was found', async ({ page, world }) => {
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/plate`);
  await settled(page, 0);
  await page.getByRole('button', { name: 'Help' }).click();
  const search = page.getByLabel('What can be done, and its key');
  // What is typed goes into the search at once, and nowhere else.
  await expect(search).toBeFocused();
  await page.keyboard.type('nudge');
  await expect(page.getByText('ten frames; with one of them taken: nudge by 0.1 px')).toBeVisible();
  await expect(page.getByText('Play round and round')).toHaveCount(0);
  // What another stage does is found, but cannot be done here.
  await search.fill('measure slip');
  await expect(page.getByText('Measure slip (in Prove)')).toBeVisible();
  await expect(page.getByTestId('do-measure-slip')).toHaveCount(0);
  await search.fill('hide everything');
  await search.press('Enter');
  await expect(page.getByTestId('help')).toBeHidden();
  await expect(page.locator('.bench')).toBeHidden();
  await page.keyboard.press('Shift+?');
  await search.fill('hide everything');
  await page.getByTestId('do-alone').click();
  await expect(page.locator('.bench')).toBeVisible();
});

test('every control of every bench explains itself in a sentence, under the pointer and under the keyboard', async ({
  page,
  world,
}) => {
  for (const stage of ['plate', 'follow', 'pin', 'prove', 'dress', 'hand-over']) {
    await page.goto(`${world.server.url}/shots/${world.ids.shot}/${stage}`);
    await settled(page, 0);
    for (const d of await page.locator('.bench details').all())
      await d.evaluate((e: HTMLDetailsElement) => (e.open = true));
    const silent = await page
      .locator('.bench')
      .evaluate((bench) =>
        [...bench.querySelectorAll('button, input, select, summary')]
          .filter((c) => !c.closest('[title]') && (c as HTMLElement).offsetParent)
          .map((c) => (c.outerHTML + c.textContent).slice(0, 120)),
      );
    expect(silent, stage).toEqual([]);
  }
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/pin`);
  await settled(page, 0);
  await page.getByTestId('mirror').hover();
  await expect(page.getByTestId('context-help')).toHaveText('Mirror the content left to right');
  await page.mouse.move(2, 300);
  await page.getByTestId('ratio-width').focus();
  await expect(page.getByTestId('context-help')).toHaveText('Width, in mm or parts');
});

test('a part of the bench folds away, stays so, and its key still works', async ({ page, world }) => {
  await page.goto(`${world.server.url}/shots/${world.ids.shot}/pin`);
  await page.getByRole('button', { name: 'Glass edges' }).click();
  await expect(page.getByTestId('snap-glass')).toBeHidden();
  await page.reload();
  await settled(page, 0);
  await expect(page.getByTestId('snap-glass')).toBeHidden();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.keyboard.press('g');
  await page.getByRole('button', { name: 'Glass edges' }).click();
  // The pin lies on a picture without a bezel: the key's answer is that there is no edge.
  await expect(page.getByTestId('snap-problem')).toContainText('No edge stands out');
});
