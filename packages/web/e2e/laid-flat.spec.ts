/** What a track is judged by: the Screen laid flat in colour and dressed, its own fill as a card, a picture of one's own. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import { drag, expect, onPicture, settled, shown, test, WHILE_IT_BLINKS } from './fixture';

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
  await expect.poll(async () => isGold(await middle(page)), WHILE_IT_BLINKS).toBe(false);
  await expect.poll(async () => isGold(await middle(page)), WHILE_IT_BLINKS).toBe(true);
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

  // While it plays every frame is waited for: none is missed.
  await page.getByTestId('flat-against').selectOption('nothing');
  await page
    .getByTestId('flat-view')
    .locator('.tools')
    .click({ position: { x: 2, y: 2 } });
  await page.keyboard.press('Space');
  const frames = await page.evaluate(async () => {
    const shownNow = document.querySelector<HTMLElement>('[data-test="flat-view"]')!;
    const seen = [Number(shownNow.dataset['frame'])];
    while (seen.length < 9) {
      await new Promise((drawn) => requestAnimationFrame(drawn));
      const frame = Number(shownNow.dataset['frame']);
      if (frame !== seen.at(-1)) seen.push(frame);
    }
    return seen;
  });
  for (const [i, frame] of frames.slice(1).entries()) expect(frame).toBe((frames[i]! + 1) % 24);
  expect(isGold(await middle(page))).toBe(true);
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
  await page.getByTestId('card-slip').click();
  await expect(page.getByTestId('card-slip')).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(async () => isGold(await middleOfScreen())).toBe(false);
});

test('a box of the picture tells its darkest, mean and brightest, of plate and dress, while it plays as well', async ({
  page,
  world,
}) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.keyboard.press('Shift+A');
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  await drag(page, await onPicture(page, 290, 170), 40 * zoom, 30 * zoom);
  const figures = page.getByTestId('box-figures');
  await expect(figures).toContainText('40x30 px at 290, 170');
  const numbers = async (row: string): Promise<number[]> =>
    (await page.getByTestId(`box-${row}`).locator('td').allTextContents()).flatMap((t) =>
      t.trim().split(/\s+/).map(Number),
    );
  // The fill is one colour all over; the plate under it is a texture.
  await expect.poll(() => numbers('shown')).toEqual([230, 200, 60, 230, 200, 60, 230, 200, 60]);
  const plate = await numbers('plate');
  expect(plate).toHaveLength(9);
  for (const c of [0, 1, 2]) expect(plate[6 + c]! - plate[c]!).toBeGreaterThan(20);
  await page.getByTestId('box-range').selectOption({ label: '64 to 940' });
  await expect.poll(() => numbers('shown')).toEqual([854, 751, 270, 854, 751, 270, 854, 751, 270]);
  await page.getByTestId('box-range').selectOption({ label: '0 to 255' });

  const told = (): Promise<string | null> => figures.locator('.head span').textContent();
  const still = await told();
  await page.getByTestId('picture').focus();
  await page.keyboard.press('Space');
  await expect.poll(told).not.toBe(still);
  expect((await numbers('shown')).every((v, i) => Math.abs(v - [230, 200, 60][i % 3]!) <= 12)).toBe(true);
  await page.keyboard.press('Space');
  await page.keyboard.press('Shift+A');
  await expect(figures).toHaveCount(0);
  await expect(page.getByTestId('measured-box')).toHaveCount(0);
});
