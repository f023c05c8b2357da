import { PIN, plateBytes } from '../../server/test/builders/plate';
import { expect, onPicture, settled, test } from './fixture';

/** px by which corners are dropped beside where they belong. */
const ROUGH = [
  [4, -3],
  [-5, 4],
  [3, 5],
  [-4, -4],
] as const;

test('rough corners are dropped under a loupe, and laid onto the glass at once; dark parts are brightened anywhere', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { shot } = await server.shot(await plateBytes(24, 0, true));
  await page.goto(`${server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 8);
  await page.keyboard.press('n');
  for (const [i, [x, y]] of PIN.entries()) {
    const at = await onPicture(page, x + ROUGH[i]![0], y + ROUGH[i]![1]);
    await page.mouse.move(...at);
    await expect(page.getByTestId('loupe')).toBeVisible();
    const [lx, ly] = (await page.getByTestId('loupe').getAttribute('data-at'))!.split(',').map(Number);
    expect(Math.hypot(lx! - x - ROUGH[i]![0], ly! - y - ROUGH[i]![1])).toBeLessThan(1);
    await page.mouse.click(...at);
  }
  await expect(page.getByTestId('rough-corners')).toBeVisible();
  await expect(page.getByTestId('loupe')).toHaveCount(0);
  const screens = async () =>
    (await server.request<{ screens: { recipe: { pin: [number, number][] } }[] }>('GET', `/shots/${shot}`)).body
      .screens;
  const off = async (): Promise<number> => {
    const { pin } = (await screens()).at(-1)!.recipe;
    return Math.max(...pin.map(([x, y], i) => Math.hypot(x - PIN[i]![0], y - PIN[i]![1])));
  };
  expect(await off()).toBeGreaterThan(4);
  await page.keyboard.press('g');
  await expect(page.getByTestId('rough-corners')).toContainText('All four sides');
  await expect.poll(off).toBeLessThan(1.5);
  await page.getByTestId('rough-done').click();
  await expect(page.getByTestId('rough-corners')).toHaveCount(0);
  // While a corner is dragged the loupe shows where it is.
  const corner = await onPicture(page, ...(await screens()).at(-1)!.recipe.pin[0]!);
  await page.mouse.move(corner[0] - 4, corner[1] - 4);
  await page.mouse.down();
  await page.mouse.move(corner[0] - 10, corner[1] - 8);
  await expect(page.getByTestId('loupe')).toBeVisible();
  await page.mouse.up();
  await expect(page.getByTestId('loupe')).toHaveCount(0);
  await page.keyboard.press('Escape');
  // The view aid is one key away in every stage.
  for (const stage of ['2', '4', '5']) {
    await page.keyboard.press(`Alt+${stage}`);
    await page.keyboard.press('a');
    await expect(page.getByTestId('aid-panel')).toBeVisible();
    await page.keyboard.press('a');
    await expect(page.getByTestId('aid-panel')).toHaveCount(0);
  }
  await page.keyboard.press('a');
  await page.getByTestId('aid-panel').getByTestId('brighten').fill('3');
  await expect(page.getByTestId('aid')).toContainText('3.0');
});
