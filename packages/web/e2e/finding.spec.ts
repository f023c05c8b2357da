/** Finding one's way on the bench: parts folded to a line that says what is set in them, and controls found by name. */
import sharp from 'sharp';
import { mapQuad } from '../../core/src/geometry/quad';
import { plateBytes, recipe, truthAt } from '../../server/test/builders/plate';
import { filled } from './filled';
import { expect, isSaved, settled, test } from './fixture';

test.use({ partsOpen: false });

test('untouched parts of a dress come folded, say what is set, and stay as they were left', async ({ page, world }) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  const levels = page.getByRole('region', { name: 'Levels' });
  await expect(levels).toContainText('nothing set');
  await expect(page.getByTestId('levels-gain')).toBeHidden();
  // Folded as it comes the whole bench fits a screen and a half.
  expect(await page.locator('.bench').evaluate((bench) => bench.scrollHeight)).toBeLessThan(1200);

  await levels.getByRole('button', { name: 'Levels' }).click();
  await page.getByTestId('levels-gain-typed').fill('0.5');
  await page.getByTestId('levels-gain-typed').press('Enter');
  await isSaved(page);
  await levels.getByRole('button', { name: 'Levels' }).click();
  await expect(levels).toContainText('gain 0.5');
  await page.reload();
  await settled(page, 0);
  await expect(levels).toContainText('gain 0.5');
  await expect(page.getByTestId('levels-gain')).toBeHidden();
});

test('a control is found by a part of its name, opened and taken by the keyboard alone, and offered again', async ({
  page,
  world,
}) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.keyboard.press('/');
  await page.keyboard.type('round');
  await expect(page.getByTestId('found-Edge/Corners')).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('edge-radius')).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('edge-radius-typed')).not.toHaveValue('0.000');

  await page.getByRole('combobox', { name: 'Find a control' }).click();
  await page.getByTestId('found-Edge/Corners').click();
  await expect(page.getByTestId('edge-radius')).toBeFocused();
});

test('a number of the dress is found from another stage, and a command is done', async ({ page, world }) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/pin`);
  await settled(page, 0);
  const field = page.getByRole('combobox', { name: 'Find a control' });
  await field.fill('saturation');
  await page.getByTestId('found-Levels/Saturation').click();
  await expect(page).toHaveURL(/\/dress$/);
  await expect(page.getByTestId('levels-saturation')).toBeFocused();

  await field.fill('last frame');
  await page.getByTestId('found-command/last-frame').click();
  await settled(page, 23);
  await field.fill('nothing of this kind');
  await expect(page.getByText('Nothing here is called so.')).toBeVisible();
});

test('a fill of other proportions than the Screen keeps its own, and is stretched when that is asked for', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  const square = sharp({ create: { width: 96, height: 96, channels: 3, background: { r: 20, g: 120, b: 130 } } });
  const { id } = await world.server.upload(await square.png().toBuffer());
  const { body } = await world.server.request<{ hash: string }>('POST', '/media', {
    upload: id,
    fileName: 'square.png',
  });
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('take-fill-out').click();
  await page.getByTestId('fill-square.png').click();
  await isSaved(page);
  const recipe = async () =>
    (await world.server.request<{ recipe: { fill?: object; dress?: object } }>('GET', `/screens/${screen}`)).body
      .recipe;
  await expect.poll(recipe).toMatchObject({
    fill: { media: body.hash },
    // The pin is 240 px wide and 152 high, seen nearly from the front.
    dress: { placement: { fit: 'cover', proportions: expect.closeTo(240 / 152, 1) as unknown } },
  });
  await page.getByTestId('placement').locator('summary').click();
  await expect(page.getByTestId('fit')).toHaveValue('cover');
  await page.getByTestId('fit').selectOption('stretch');
  await page.getByTestId('proportions').fill('');
  await page.getByTestId('proportions').blur();
  await isSaved(page);
  await expect.poll(async () => (await recipe()).dress).toBeUndefined();
});

test('a shot without Screens offers those that are seen; one key takes the likeliest, and nothing is taken unasked', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { shot } = await server.shot(await plateBytes(12, 0, true));
  await page.goto(`${server.url}/shots/${shot}/follow`);
  await settled(page, 0);
  const offer = page.getByTestId('proposals');
  await expect(offer).toBeVisible();
  expect((await server.request<{ screens: unknown[] }>('GET', `/shots/${shot}`)).body.screens).toEqual([]);
  // Waved aside they do not come back on this shot; on opening it anew they do.
  await page.getByTestId('proposals-pass').click();
  await expect(offer).toHaveCount(0);
  await page.keyboard.press('ArrowRight');
  await settled(page, 1);
  await expect(offer).toHaveCount(0);
  await page.reload();
  await expect(offer).toBeVisible();
  const drawn = page.locator('polygon.proposal');
  await expect(drawn.first()).toHaveClass(/lit/);
  await page.getByTestId('proposal-1').focus();
  await page.keyboard.press('Shift+N');
  await expect(page.locator('[data-test^="chip-"]')).toHaveCount(1);
  await expect(offer).toHaveCount(0);
  const { screens } = (
    await server.request<{ screens: { recipe: { pin: [number, number][]; device: string } }[] }>(
      'GET',
      `/shots/${shot}`,
    )
  ).body;
  // The outline lies on the plate's one screen, whose corners are known.
  const truth = mapQuad(truthAt(0), recipe.pin);
  const off = screens[0]!.recipe.pin.map(([x, y], i) => Math.hypot(x - truth[i]![0], y - truth[i]![1]));
  expect(Math.max(...off)).toBeLessThan(4);
});
