/** What a track is judged by: the Screen laid flat in colour and dressed, its own fill as a card, a picture of one's own. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import { expect, settled, shown, test } from './fixture';

/** The middle of the flat picture, as it is drawn. */
function middle(page: Page): Promise<number[]> {
  return page.getByTestId('flat-picture').evaluate((c: HTMLCanvasElement) => {
    const { data } = c.getContext('2d')!.getImageData(c.width >> 1, c.height >> 1, 1, 1);
    return [...data.subarray(0, 3)];
  });
}
const isGold = ([r, g, b]: number[]): boolean =>
  Math.abs(r! - 230) < 6 && Math.abs(g! - 200) < 6 && Math.abs(b! - 60) < 8;
const widthOf = async (page: Page): Promise<number> => (await page.getByTestId('flat-picture').boundingBox())!.width;

test('a Screen is laid flat in colour and dressed, blinks with its plate, and is zoomed by keys, wheel and hand', async ({
  page,
  world,
}) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await settled(page, 0);
  await page.getByTestId('look-flat').click();
  await page.getByTestId('flat-laid').selectOption('plate');
  const view = page.getByTestId('flat-view');
  await expect(view).toHaveAttribute('data-laid', 'plate');
  await expect.poll(() => page.getByTestId('flat-picture').getAttribute('aria-label')).toContain('frame 0');
  expect(isGold(await middle(page))).toBe(false);
  await page.getByTestId('flat-laid').selectOption('dressed');
  await expect.poll(async () => isGold(await middle(page))).toBe(true);

  await page.keyboard.press('End');
  await expect(view).toHaveAttribute('data-frame', '23');
  await expect.poll(async () => isGold(await middle(page))).toBe(true);
  await page.getByTestId('flat-against').selectOption('plate');
  await expect.poll(async () => isGold(await middle(page))).toBe(false);
  await expect.poll(async () => isGold(await middle(page))).toBe(true);
  await page.getByTestId('flat-against').selectOption('difference');
  // Both ends of the shot show the same fill in the same place: nothing differs.
  await expect.poll(async () => (await middle(page)).every((v) => Math.abs(v - 128) < 10)).toBe(true);

  const fitted = await widthOf(page);
  await page
    .getByTestId('flat-view')
    .locator('.tools')
    .click({ position: { x: 2, y: 2 } });
  await page.keyboard.press('x');
  const natural = await page.getByTestId('flat-picture').evaluate((c: HTMLCanvasElement) => c.width);
  await expect.poll(() => widthOf(page)).toBeCloseTo(natural, 0);
  await page.keyboard.press('c');
  await expect.poll(() => widthOf(page)).toBeCloseTo(4 * natural, 0);
  const before = (await page.getByTestId('flat-picture').boundingBox())!;
  const holder = (await page.getByTestId('flat-holder').boundingBox())!;
  await page.mouse.move(holder.x + 200, holder.y + 150);
  await page.mouse.down();
  await page.mouse.move(holder.x + 260, holder.y + 170, { steps: 3 });
  await page.mouse.up();
  const after = (await page.getByTestId('flat-picture').boundingBox())!;
  expect([after.x - before.x, after.y - before.y].map(Math.round)).toEqual([60, 20]);
  await page.mouse.wheel(0, -200);
  await expect.poll(() => widthOf(page)).toBeGreaterThan(4.5 * natural);
  await page.keyboard.press('z');
  await expect.poll(() => widthOf(page)).toBeCloseTo(fitted, 0);
});

test("a Screen's own fill, and a picture of one's own, serve as cards", async ({ page, world }) => {
  const { shot, fill } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/prove`);
  await settled(page, 0);
  const middleOfScreen = (): Promise<number[]> => shown(page, 320, 180);
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(false);
  await page.getByTestId('card-fill').click();
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(true);

  await page.getByTestId('card-own').click();
  await expect(page.getByText('The survey card stands in')).toBeVisible();
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(false);
  await page.getByTestId('own-card').selectOption(fill);
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(true);
  await page.getByTestId('card-slip').click();
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(false);
});
