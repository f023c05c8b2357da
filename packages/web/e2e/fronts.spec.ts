/** What passes before a Screen is found in the plate and stays in front. */
import { BAR, barOn } from '../../server/test/builders/plate';
import { filled } from './filled';
import { expect, isSaved, settled, shown, test } from './fixture';

/** A place under the bar at its highest, and one beside it. */
const UNDER = [322, 215] as const;
const BESIDE = [260, 190] as const;
const GOLD = [230, 200, 60];

test('a bar that passes is found and stays in front of the fill', async ({ page, world }) => {
  const { shot, screen } = await filled(world, true);
  expect(barOn(14)!.top).toBeLessThan(UNDER[1]);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  for (let i = 0; i < 14; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 14);
  await expect.poll(() => shown(page, ...UNDER)).toEqual(GOLD);
  await page.getByTestId('holdout-find').click();
  await expect(page.getByTestId('found-0')).toHaveText(/^on \d+ frames, \d+ to \d+; at most \d+ % of the glass$/);
  await expect.poll(async () => Math.abs((await shown(page, ...UNDER))[0]! - BAR)).toBeLessThan(4);
  expect(await shown(page, ...BESIDE)).toEqual(GOLD);
  await page.getByTestId('show').selectOption('matte');
  await expect.poll(() => shown(page, ...UNDER)).toEqual([0, 0, 0]);
  await expect.poll(() => shown(page, ...BESIDE)).toEqual([255, 255, 255]);
  await page.getByTestId('show').selectOption('dressed');

  // It is one step, and a second look takes the place of the first.
  await page.getByTestId('holdout-find').click();
  await expect(page.getByTestId('holdout-1')).toHaveCount(0);
  await isSaved(page);
  const { body } = await world.server.request<{ recipe: { dress: { holdouts: { kind: string }[] } } }>(
    'GET',
    `/screens/${screen}`,
  );
  expect(body.recipe.dress.holdouts.map((h) => h.kind)).toEqual(['found']);
});

test('where nothing passes it says so, and what to do', async ({ page, world }) => {
  const { shot } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  await page.getByTestId('holdout-find').click();
  await expect(page.getByTestId('nothing-in-front')).toHaveText(
    'Nothing was found that passes before this Screen; draw an outline where something does.',
  );
  await expect(page.getByTestId('holdout-0')).toHaveCount(0);
});
