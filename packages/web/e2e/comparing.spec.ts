/** Two versions of a dressed Screen against each other: in turn, beside each other, on both sides of a line. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import { expect, settled, test, WHILE_IT_BLINKS } from './fixture';

/** What the canvas shows at a share of its width and height. */
function pixelAt(page: Page, x: number, y: number): Promise<number[]> {
  return page
    .getByTestId('picture')
    .locator('canvas')
    .first()
    .evaluate(
      (c: HTMLCanvasElement, [u, v]) => [
        ...c
          .getContext('2d')!
          .getImageData(Math.floor(c.width * u!), Math.floor(c.height * v!), 1, 1)
          .data.subarray(0, 3),
      ],
      [x, y],
    );
}
const isGold = ([r, g, b]: number[]): boolean => r! > 200 && g! > 170 && b! < 110;
const isDim = ([r, g, b]: number[]): boolean => r! < 200 && r! > 60 && r! > b! + 30 && g! > b!;

test('an earlier version blinks with the dressed picture, pairs with it, and stands left of the divider', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  const now = (await world.server.request<{ revision: number; recipe: object }>('GET', `/screens/${screen}`)).body;
  // The newest version is a stop darker than the one before it.
  const put = await world.server.request('PUT', `/screens/${screen}`, {
    revision: now.revision,
    recipe: { ...now.recipe, dress: { levels: { gain: 0.5 } } },
    step: 'Darken',
  });
  expect(put.status).toBe(200);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await expect.poll(async () => isDim(await pixelAt(page, 0.5, 0.5))).toBe(true);

  await page.getByTestId('compare-with').focus();
  const bright = page.getByTestId('compare-with').locator(`option[value="version ${now.revision}"]`);
  await expect(bright).toHaveCount(1);
  await page.getByTestId('compare-with').selectOption(`version ${now.revision}`);

  await page.getByTestId('divide').check();
  await expect.poll(async () => isGold(await pixelAt(page, 0.46, 0.5))).toBe(true);
  expect(isDim(await pixelAt(page, 0.54, 0.5))).toBe(true);
  await page.getByTestId('divide').uncheck();

  await page.getByTestId('beside').check();
  await expect.poll(async () => isGold(await pixelAt(page, 0.25, 0.5))).toBe(true);
  expect(isDim(await pixelAt(page, 0.75, 0.5))).toBe(true);
  await page.getByTestId('beside').uncheck();

  await page.getByTestId('blink-dress').check();
  await expect.poll(async () => isGold(await pixelAt(page, 0.5, 0.5)), WHILE_IT_BLINKS).toBe(true);
  await expect.poll(async () => isDim(await pixelAt(page, 0.5, 0.5)), WHILE_IT_BLINKS).toBe(true);
  await page.getByTestId('blink-dress').uncheck();

  // Another Screen or another shot is compared with its plate again.
  await page.getByTestId('compare-with').selectOption('plate');
  await page.getByTestId('divide').check();
  await expect.poll(async () => isGold(await pixelAt(page, 0.46, 0.5))).toBe(false);
});
