/** The fill placed on the picture: by its handles with the mouse, and by keys alone. */
import type { Page } from '@playwright/test';
import { filled } from './filled';
import type { World } from './fixture';
import { drag, expect, isSaved, middleOf, onPicture, settled, test } from './fixture';

type Placement = Readonly<Record<string, number | readonly { frame: number; value: number }[]>>;
interface Saved {
  readonly recipe: { readonly dress?: { readonly placement?: Placement } };
}

async function placement(page: Page, { server }: World, screen: number): Promise<Placement> {
  await isSaved(page);
  return (await server.request<Saved>('GET', `/screens/${screen}`)).body.recipe.dress?.placement ?? {};
}

async function open(page: Page, world: World): Promise<number> {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('place-fill').click();
  await expect(page.getByTestId('fill-handles')).toBeVisible();
  return screen;
}

test('a fill is moved, scaled, turned and leant by its handles, each drag one step of undo', async ({
  page,
  world,
}) => {
  const screen = await open(page, world);
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));

  // By its middle: 24 px of the picture, of a Screen that is 240 px wide.
  await drag(page, await onPicture(page, 290, 195), 24 * zoom, 0, 'Control');
  expect(Number((await placement(page, world, screen))['x'])).toBeCloseTo(0.1, 1);
  await page.getByTestId('undo').click();
  expect(await placement(page, world, screen)).toEqual({});

  // A corner takes both along, and the opposite one stays.
  const stays = await middleOf(page, 'fill-scale-0');
  const corner = await middleOf(page, 'fill-scale-4');
  await drag(page, corner, 0.4 * (stays[0] - corner[0]), 0.4 * (stays[1] - corner[1]), 'Control');
  const scaled = await placement(page, world, screen);
  expect(Number(scaled['scale'])).toBeCloseTo(0.6, 1);
  expect(scaled['scaleY']).toBeUndefined();
  const after = await middleOf(page, 'fill-scale-0');
  expect(Math.hypot(after[0] - stays[0], after[1] - stays[1])).toBeLessThan(1);

  // A side takes its own direction alone.
  const side = await middleOf(page, 'fill-scale-3');
  await drag(page, side, 20, 0, 'Control');
  const wide = await placement(page, world, screen);
  expect(Number(wide['scale'])).toBeGreaterThan(Number(scaled['scale']));
  expect(wide['scaleY']).toBeCloseTo(Number(scaled['scale']), 5);

  const knob = await middleOf(page, 'fill-turn');
  await drag(page, knob, 40, 12, 'Shift');
  const turn = Number((await placement(page, world, screen))['turn']);
  expect(turn).toBeGreaterThan(0);
  expect(turn % 15).toBe(0);
  await page.getByTestId('undo').click();
  expect((await placement(page, world, screen))['turn']).toBeUndefined();

  await drag(page, await middleOf(page, 'fill-lean'), 15, 0);
  expect(Number((await placement(page, world, screen))['shear'])).toBeGreaterThan(0.05);
});

test('a fill that comes near meets the middle and the sides of its Screen, by a line that is seen', async ({
  page,
  world,
}) => {
  const screen = await open(page, world);
  const middle = await onPicture(page, 290, 195);
  await page.mouse.move(...middle);
  await page.mouse.down();
  await page.mouse.move(middle[0] + 60, middle[1]);
  await expect(page.getByTestId('fill-met').first()).toBeVisible();
  await page.mouse.move(middle[0] + 60, middle[1] + 40);
  await page.mouse.move(middle[0] + 60, middle[1] + 3);
  await page.mouse.up();
  await expect(page.getByTestId('fill-met')).toHaveCount(0);
  const { x, y } = await placement(page, world, screen);
  expect(Number(x)).toBeGreaterThan(0.1);
  // Three px beside: it was held to the middle.
  expect(y).toBeUndefined();
  // A press beside it lets go.
  await page.mouse.click(...(await onPicture(page, 30, 30)));
  await expect(page.getByTestId('fill-handles')).toHaveCount(0);
});

test('what shows of a fill is dragged on its own picture, one step of undo', async ({ page, world }) => {
  const screen = await open(page, world);
  await page.getByTestId('placement').locator('summary').click();
  await page.getByTestId('source-window').click();
  const corner = page.getByTestId('own-picture').locator('.vue-handler-wrapper--east-south');
  await corner.scrollIntoViewIfNeeded();
  await expect(page.getByTestId('own-picture').locator('img').first()).toBeVisible();
  // The fill is 120 px wide and 80 high.
  const picture = (await page.getByTestId('own-picture').locator('img').first().boundingBox())!;
  const box = (await corner.boundingBox())!;
  const k = picture.width / 120;
  await drag(page, [box.x + box.width / 2, box.y + box.height / 2], -30 * k, -20 * k);
  await expect(page.getByTestId('crop-right')).not.toHaveValue('0');
  const { crop } = (await placement(page, world, screen)) as unknown as { crop: number[] };
  expect(crop.slice(0, 2)).toEqual([0, 0]);
  expect(Math.abs(crop[2]! - 30)).toBeLessThan(4);
  expect(Math.abs(crop[3]! - 20)).toBeLessThan(4);
  await page.getByTestId('undo').click();
  await expect(page.getByTestId('crop-right')).toHaveValue('0');
  // Nobody has dragged since: the frame that stands anew changes nothing by itself.
  await page.waitForTimeout(600);
  expect(await placement(page, world, screen)).toEqual({});
});

test('by keys alone: taken, nudged, scaled, turned, and let go; a value with keys gets one where it is moved', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.keyboard.press('6');
  await expect(page.getByTestId('fill-handles')).toBeVisible();
  const before = await middleOf(page, 'fill-turn');
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+ArrowRight');
  await page.keyboard.press('ArrowDown');
  const moved = await placement(page, world, screen);
  const zoom = Number(await page.getByTestId('picture').getAttribute('data-zoom'));
  const now = await middleOf(page, 'fill-turn');
  expect(now[0] - before[0]).toBeCloseTo(40 * zoom, 0);
  expect(Number(moved['x'])).toBeCloseTo(40 / 240, 1);
  expect(Number(moved['y'])).toBeGreaterThan(0);
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Alt+PageUp');
  const spread = await placement(page, world, screen);
  expect(Number(spread['scale'])).toBeGreaterThan(1);
  expect(Number(spread['turn'])).toBeGreaterThan(0);

  await page.getByTestId('placement').locator('summary').click();
  await page.getByTestId('placement-x-key').click();
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('fill-handles')).toHaveCount(0);
  await page.mouse.click(...(await onPicture(page, 30, 30)));
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 5);
  await page.keyboard.press('6');
  await page.keyboard.press('ArrowLeft');
  const keys = (await placement(page, world, screen))['x'] as readonly { frame: number; value: number }[];
  expect(keys.map((k) => k.frame)).toEqual([0, 5]);
  expect(keys[1]!.value).toBeLessThan(keys[0]!.value);
});
