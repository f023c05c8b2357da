/** What a display does by itself: sampled ends that are keyed, a flicker of its own, scan and noise by their numbers. */
import { filled } from './filled';
import { expect, isSaved, onPicture, settled, test } from './fixture';

interface Saved {
  readonly recipe: { readonly dress?: Readonly<Record<string, Readonly<Record<string, unknown>>>> };
}

test('black is sampled on two frames and changes between; flicker, scan and noise have their numbers', async ({
  page,
  world,
}) => {
  const { shot, screen } = await filled(world);
  await page.goto(`${world.server.url}/shots/${shot}/dress`);
  await settled(page, 0);
  const dress = async (): Promise<NonNullable<Saved['recipe']['dress']>> => {
    await isSaved(page);
    return (await world.server.request<Saved>('GET', `/screens/${screen}`)).body.recipe.dress ?? {};
  };
  await page.getByTestId('sample-black-key').click();
  await page.mouse.click(...(await onPicture(page, 30, 30)));
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
  await settled(page, 10);
  await page.getByTestId('sample-black').click();
  await page.mouse.click(...(await onPicture(page, 40, 40)));
  const black = (await dress())['levels']!['black'] as readonly { frame: number; value: number }[][];
  expect(black.map((keys) => keys.map((k) => k.frame))).toEqual([
    [0, 10],
    [0, 10],
    [0, 10],
  ]);
  expect(black[0]![0]!.value).toBe(0);
  expect(black[0]![1]!.value).toBeGreaterThan(0);

  await page.getByTestId('flicker-depth-typed').fill('0.1');
  await page.getByTestId('flicker-depth-typed').press('Enter');
  await page.getByTestId('flicker-rate').fill('8');
  await page.getByTestId('flicker-rate').press('Enter');
  await page.getByTestId('flicker-seed').fill('5');
  await page.getByTestId('flicker-seed').press('Enter');
  expect((await dress())['levels']!['flicker']).toEqual({ depth: 0.1, rate: 8, seed: 5 });

  for (const [name, value] of [
    ['scan-bands', '3'],
    ['scan-speed', '-0.5'],
    ['noise-seed', '7'],
  ] as const) {
    await page.getByTestId(name).fill(value);
    await page.getByTestId(name).press('Enter');
  }
  expect((await dress())['look']).toEqual({ scanBands: 3, scanSpeed: -0.5, noiseSeed: 7 });
});
